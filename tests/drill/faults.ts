import { setTimeout as wait } from 'node:timers/promises';
import { fillDisk, type House } from './house.ts';

/** A number from 0 to 1, the same in every drill of a seed. */
export type Random = () => number;

/** Something that goes wrong in the middle of a send. */
export interface Fault {
  name: string;
  words: string;
  /** Whether it is there before the send begins, instead of in its middle. */
  before?: boolean;
  /** Does it; gives what ends it, and what was done to what. */
  strike: (house: House, random: Random) => Promise<{ what: string; end: () => Promise<void> }>;
}

const oneOf = (from: readonly unknown[], random: Random): number => Math.floor(random() * from.length);

/** After so long somebody, or something, starts what was killed again. */
const STARTED_AGAIN_MS = 3_000;
/** Claims of mail last a minute where nothing else is set. */
const LONGER_THAN_CLAIMS_MS = 70_000;

export const FAULTS: readonly Fault[] = [
  {
    name: 'engine',
    words: 'an engine is killed (SIGKILL), and started again after 3 s',
    strike: async (house, random) => {
      const at = oneOf(house.engines, random);
      house.engines[at]?.child.kill('SIGKILL');
      await house.engines[at]?.ended();
      return {
        what: `engine ${at + 1}`,
        end: async () => {
          await wait(STARTED_AGAIN_MS);
          house.startEngine(at);
        },
      };
    },
  },
  {
    name: 'web',
    words: 'a web is killed (SIGKILL), and started again after 3 s',
    strike: async (house, random) => {
      const at = oneOf(house.webs, random);
      house.webs[at]?.child.kill('SIGKILL');
      await house.webs[at]?.ended();
      return {
        what: `web ${at + 1}`,
        end: async () => {
          await wait(STARTED_AGAIN_MS);
          await house.startWeb(at);
        },
      };
    },
  },
  {
    name: 'node',
    words: 'the database node that all statements go to is killed (SIGKILL), and started again after 3 s',
    strike: async (house) => {
      const node = await house.cluster.active();
      node.kill();
      await node.ended();
      return {
        what: node.name,
        end: async () => {
          await wait(STARTED_AGAIN_MS);
          node.start();
          await house.cluster.whole(house.database);
        },
      };
    },
  },
  {
    name: 'cut off',
    words: 'the database node that all statements go to is cut off from the other two for 10 s',
    strike: async (house) => {
      const node = await house.cluster.active();
      await node.cutOff(true);
      return {
        what: node.name,
        end: async () => {
          await wait(10_000);
          await node.cutOff(false);
          await house.cluster.whole(house.database);
        },
      };
    },
  },
  {
    name: 'mail server',
    words: 'the mail server is down for a minute',
    strike: async (house) => {
      await house.sink.close();
      return {
        what: 'the mail server',
        end: async () => {
          await wait(60_000);
          await house.sink.open();
        },
      };
    },
  },
  {
    name: 'disk full',
    words: 'the disk of the database node that all statements go to is full for 10 s',
    strike: async (house) => {
      const node = await house.cluster.active();
      const empty = fillDisk(node.folder);
      return {
        what: node.name,
        end: async () => {
          await wait(10_000);
          empty();
          // A node that cannot write what the others have written leaves them; it is started again as after any end.
          if (!node.alive) node.start();
          await house.cluster.whole(house.database);
        },
      };
    },
  },
  {
    name: 'damaged',
    words:
      'the database node that all statements go to says of each change of its largest table that it is damaged, and is emptied and started again after 10 s',
    strike: async (house) => {
      const node = await house.cluster.active();
      await node.damage(house.database);
      return {
        what: node.name,
        end: async () => {
          await wait(10_000);
          await house.cluster.whole(house.database);
        },
      };
    },
  },
  {
    name: 'clock',
    words: 'the clock of an engine is an hour ahead, or an hour behind',
    before: true,
    strike: async (house, random) => {
      const at = oneOf(house.engines, random);
      const clock = random() < 0.5 ? '+1h' : '-1h';
      await house.engines[at]?.stop();
      house.startEngine(at, clock);
      return {
        what: `engine ${at + 1}, ${clock}`,
        end: async () => {
          await house.engines[at]?.stop();
          house.startEngine(at);
        },
      };
    },
  },
  {
    name: 'schema',
    words:
      'the largest table is given a column and an index more while everything uses it, as a newer version does before its processes come, and after 5 s they are taken away',
    strike: async (house) => {
      const node = await house.cluster.active();
      const alter = async (words: string): Promise<void> => {
        if (!(await node.ask(`ALTER TABLE \`${house.database}\`.deliveries ${words}`)))
          throw new Error(`${node.name} did not alter its table`);
      };
      await alter(
        "ADD COLUMN of_the_drill VARCHAR(40) NOT NULL DEFAULT 'new', ADD INDEX of_the_drill (of_the_drill, went_at)",
      );
      return {
        what: node.name,
        end: async () => {
          await wait(5_000);
          await alter('DROP INDEX of_the_drill, DROP COLUMN of_the_drill');
        },
      };
    },
  },
  {
    name: 'pause',
    words:
      'all webs, engines and database nodes stand still for 70 s, as on a machine that is paused (SIGSTOP)',
    strike: ({ webs, engines, cluster, database }) => {
      const stand = (still: boolean): void => {
        for (const { child } of [...engines, ...webs]) child.kill(still ? 'SIGSTOP' : 'SIGCONT');
        for (const node of cluster.nodes) node.stand(still);
      };
      stand(true);
      return Promise.resolve({
        what: 'everything',
        end: async () => {
          await wait(LONGER_THAN_CLAIMS_MS);
          stand(false);
          await cluster.whole(database);
        },
      });
    },
  },
];
