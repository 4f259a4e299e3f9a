import type { Circumstances } from '../../core/audience/includes.ts';
import type { Automation } from '../../core/automation/automation.ts';
import type { Fields } from '../../core/automation/condition.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { outsidePlaces, type HookOutRow } from '../gateways/outStore.ts';
import { boardsFor, type BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { clocks, organisation } from '../people/store.ts';
import { zonesOf } from '../sends/planning.ts';
import type { SourceRow } from '../sources/store.ts';
import { fieldsFor } from './fields.ts';
import { automationById, versionById, type AutomationRow } from './store.ts';
import { allSenders } from '../senders/store.ts';

interface Organisation {
  zone: string;
  now: Circumstances;
  zones: string[];
  senders: Map<number, string>;
  places: HookOutRow[];
}

/**
 * What automations are prepared against: each part is read when it is first asked for, and once for all that run in the same
 * turn. Make a new one for each turn, so that rights and groups are those of that moment.
 */
export class Around {
  readonly #db: Database;
  readonly #read = new Map<string, Promise<unknown>>();

  constructor(db: Database) {
    this.#db = db;
  }

  #once<T>(key: string, read: () => Promise<T>): Promise<T> {
    const known = this.#read.get(key) ?? read();
    this.#read.set(key, known);
    return known as Promise<T>;
  }

  organisation(): Promise<Organisation> {
    return this.#once('organisation', async () => {
      const [home, now, found, senders, places] = await Promise.all([
        organisation(this.#db),
        circumstances(this.#db),
        clocks(this.#db),
        allSenders(this.#db),
        outsidePlaces(this.#db),
      ]);
      return {
        zone: home?.zone ?? 'UTC',
        now,
        zones: zonesOf(found),
        places,
        senders: new Map(senders.map(({ id, name }) => [id, name])),
      };
    });
  }

  /** The boards as somebody may use them. */
  boards(owner: Actor): Promise<Map<number, BoardForReader>> {
    return this.#once(
      `boards ${owner.id}`,
      async () => new Map((await boardsFor(this.#db, owner)).map((board) => [board.id, board])),
    );
  }

  actor(id: number): Promise<Actor | undefined> {
    return this.#once(`actor ${id}`, () => actorOf(this.#db, id));
  }

  automation(id: number): Promise<AutomationRow | undefined> {
    return this.#once(`automation ${id}`, () => automationById(this.#db, id));
  }

  version(id: number): Promise<Automation | undefined> {
    return this.#once(`version ${id}`, () => versionById(this.#db, id));
  }

  /** The fields an automation can name, with the source it looks things up at. */
  fields(automation: Automation): Promise<{ fields: Fields; source: SourceRow | undefined }> {
    const { when, lookup } = automation;
    return this.#once(`fields ${JSON.stringify([when, lookup?.sourceId])}`, () =>
      fieldsFor(this.#db, automation),
    );
  }
}
