import DataLoader from 'dataloader';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { Automation } from '../../core/automation/automation.ts';
import type { Fields } from '../../core/automation/condition.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { outsidePlaces, type HookOutRow } from '../gateways/outStore.ts';
import { boardsFor, type BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import type { Person } from '../../core/people/person.ts';
import { findPeople, type Found } from '../identities/directory.ts';
import { clocks, namesOfPeople, organisation, peopleByIds } from '../people/store.ts';
import { zonesOf } from '../sends/planning.ts';
import type { SourceRow } from '../sources/store.ts';
import { fieldsFor } from './fields.ts';
import { datesOfPeople } from './dateStore.ts';
import { automationById, versionById, type AutomationRow } from './store.ts';
import { allSenders } from '../senders/store.ts';
import { mayRead } from '../sheets/rights.ts';

/** So many people are read in one statement. */
const TOGETHER = 1_000;

interface Organisation {
  zone: string;
  now: AudienceContext;
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
  readonly #people: DataLoader<number, Person | undefined>;
  readonly #names: DataLoader<number, string | undefined>;
  readonly #found = new Map<string, DataLoader<string, Found>>();
  readonly #dates = new Map<string, DataLoader<number, string | undefined>>();

  constructor(db: Database) {
    this.#db = db;
    this.#people = new DataLoader<number, Person | undefined>(
      async (ids) => {
        const found = new Map((await peopleByIds(db, ids)).map((person) => [person.id, person]));
        return ids.map((id) => found.get(id));
      },
      { maxBatchSize: TOGETHER },
    );
    this.#names = new DataLoader<number, string | undefined>(
      async (ids) => {
        const found = await namesOfPeople(this.#db, ids);
        return ids.map((id) => found.get(id));
      },
      { maxBatchSize: TOGETHER },
    );
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
        audienceContext(this.#db),
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

  /** Somebody; those asked for side by side are read in one statement. */
  person(id: number): Promise<Person | undefined> {
    return this.#people.load(id);
  }

  /** What somebody who is here is called where others read it; undefined of whoever has left. */
  async nameOf(id: number): Promise<string | undefined> {
    const [person, name] = await Promise.all([this.person(id), this.#names.load(id)]);
    return person && person.standing !== 'left' ? name : undefined;
  }

  /** A date that an attribute of somebody holds; undefined where they have none. */
  dateOf(personId: number, attribute: string): Promise<string | undefined> {
    const known =
      this.#dates.get(attribute) ??
      new DataLoader<number, string | undefined>(
        async (ids) => {
          const found = await datesOfPeople(this.#db, ids, attribute);
          return ids.map((id) => found.get(id));
        },
        { maxBatchSize: TOGETHER },
      );
    this.#dates.set(attribute, known);
    return known.load(personId);
  }

  /** Whom a value of an outside record means, or why nobody is found; those of a system are found together as well. */
  whoIs(system: string, value: string): Promise<Found> {
    const known =
      this.#found.get(system) ??
      new DataLoader<string, Found>((values) => findPeople(this.#db, system, values), {
        maxBatchSize: TOGETHER,
      });
    this.#found.set(system, known);
    return known.load(value);
  }

  /** Whether somebody sees the records of a sheet. */
  mayRead(owner: Actor, sheetId: number): Promise<boolean> {
    return this.#once(`sheet ${owner.id} ${sheetId}`, () => mayRead(this.#db, owner, sheetId));
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
