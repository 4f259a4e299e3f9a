import { PART_KINDS, sameName, type PartKind } from '../../../core/organisation/parts.ts';
import {
  REFERENCES,
  referencesIn,
  withReferences,
  type Reference,
  type ReferenceKind,
} from '../../../core/organisation/references.ts';
import { normalMail } from '../../../core/people/mailAddress.ts';
import type { Database } from '../../database/connection.ts';
import type { ArchiveParts } from './archiveParts.ts';
import { namedIn, peopleIdentified, peopleUnder } from './partsStore.ts';

const TABLES = {
  group: 'groups',
  board: 'boards',
  sheet: 'sheets',
  sender: 'senders',
  source: 'sources',
  hook: 'hooks_in',
  place: 'hooks_out',
  station: 'stations',
  series: 'series',
  session: 'calendar_sessions',
} as const;
type NamedKind = keyof typeof TABLES;
const NAMED = Object.keys(TABLES) as NamedKind[];
const isNamed = (kind: ReferenceKind): kind is NamedKind => kind in TABLES;
const isPart = (kind: string): kind is PartKind => PART_KINDS.some((each) => each === kind);

const pairOf = (system: string, value: string): string => `${system.toLowerCase()}\n${value}`;

/**
 * Who of an archive is here, by the ids of both: found by mail address, whichever of theirs it is, or else by an identity; nobody by
 * guess, and nobody where two are found.
 */
async function peopleHere(
  db: Database,
  contents: ArchiveParts,
  wanted: ReadonlySet<number>,
): Promise<{ ids: Map<number, number>; names: Map<number, string> }> {
  const [mails, identities] = [new Map<number, string[]>(), new Map<number, string[]>()];
  const [names, values] = [new Map<number, string>(), new Set<string>()];
  const put = (to: Map<number, string[]>, id: number, text: string): void => {
    if (wanted.has(id)) to.set(id, [...(to.get(id) ?? []), text]);
  };
  for await (const { id, name, mail } of contents.each('people')) {
    if (!wanted.has(id)) continue;
    names.set(id, name);
    if (mail) put(mails, id, normalMail(mail).toLowerCase());
  }
  for await (const { person_id, mail } of contents.each('person_addresses'))
    put(mails, person_id, normalMail(mail).toLowerCase());
  for await (const { person_id, in_system, folded } of contents.each('identities')) {
    put(identities, person_id, pairOf(in_system, folded));
    if (wanted.has(person_id)) values.add(folded);
  }
  const [byMail, byIdentity] = [new Map<string, number>(), new Map<string, number>()];
  for (const { mail, id } of await peopleUnder(db, [...new Set([...mails.values()].flat())]))
    byMail.set(mail, id);
  for (const { system, folded, id } of await peopleIdentified(db, [...values]))
    byIdentity.set(pairOf(system, folded), id);
  const ids = new Map<number, number>();
  for (const id of names.keys()) {
    const found = new Set((mails.get(id) ?? []).flatMap((mail) => byMail.get(mail) ?? []));
    if (found.size === 0)
      for (const pair of identities.get(id) ?? []) {
        const one = byIdentity.get(pair);
        if (one !== undefined) found.add(one);
      }
    const [only] = found;
    if (found.size === 1 && only !== undefined) ids.set(id, only);
  }
  return { ids, names };
}

/** What a document of an archive comes to here. */
export interface Resolved<T> {
  /** With the ids of here; null while it names what has to come in first, or is not to be found. */
  document: T | null;
  /** The parts of the archive that come in with it, by key. */
  needs: string[];
  /** What it names that is neither here nor in the archive, in words. */
  why: string[];
}

/** Finds here what an archive names by its own ids. */
export class Resolving {
  readonly #there: ReadonlyMap<NamedKind, ReadonlyMap<number, string>>;
  readonly #here: ReadonlyMap<NamedKind, ReadonlyMap<string, number>>;
  readonly #people: { ids: Map<number, number>; names: Map<number, string> };
  readonly #made = new Map<string, number>();
  readonly #parts: ReadonlySet<string>;

  private constructor(
    there: ReadonlyMap<NamedKind, ReadonlyMap<number, string>>,
    here: ReadonlyMap<NamedKind, ReadonlyMap<string, number>>,
    people: { ids: Map<number, number>; names: Map<number, string> },
    parts: ReadonlySet<string>,
  ) {
    this.#there = there;
    this.#here = here;
    this.#people = people;
    this.#parts = parts;
  }

  /**
   * @param wanted the people of the archive that its parts name
   * @param parts the keys of the parts of the archive
   */
  static async of(
    db: Database,
    contents: ArchiveParts,
    wanted: ReadonlySet<number>,
    parts: ReadonlySet<string>,
  ): Promise<Resolving> {
    const [there, here] = [
      new Map<NamedKind, Map<number, string>>(),
      new Map<NamedKind, Map<string, number>>(),
    ];
    for (const kind of NAMED) {
      there.set(kind, new Map((await contents.all(TABLES[kind])).map(({ id, name }) => [id, name])));
      here.set(kind, new Map((await namedIn(db, TABLES[kind])).map(({ id, name }) => [sameName(name), id])));
    }
    return new Resolving(there, here, await peopleHere(db, contents, wanted), parts);
  }

  /** Somebody of the archive, by their id here; nothing where they are not here. */
  person(id: number | null | undefined): number | undefined {
    return id === null || id === undefined ? undefined : this.#people.ids.get(id);
  }

  /** Of some people of the archive, those who are here, by their ids here. */
  people(ids: readonly number[]): number[] {
    return [...new Set(ids.flatMap((id) => this.person(id) ?? []))];
  }

  /** Says that a part was made, or is the one here, with its id here. */
  made(key: string, id: number): void {
    this.#made.set(key, id);
  }

  find(reference: Reference): { id: number } | { part: string } | { missing: string } {
    const { kind, id } = reference;
    if (kind === 'person') {
      const here = this.#people.ids.get(id);
      return here === undefined
        ? { missing: `It names ${this.#people.names.get(id) ?? 'somebody'}, who is not here.` }
        : { id: here };
    }
    if (!isNamed(kind))
      return { missing: `It names ${REFERENCES[kind]} there, which is in no other organisation.` };
    const key = `${kind}:${id}`;
    const made = this.#made.get(key);
    if (made !== undefined) return { id: made };
    const name = this.#there.get(kind)?.get(id);
    const here = name === undefined ? undefined : this.#here.get(kind)?.get(sameName(name));
    if (here !== undefined) return { id: here };
    if (isPart(kind) && this.#parts.has(key)) return { part: key };
    return {
      missing: `It names ${REFERENCES[kind]}${name === undefined ? '' : ` “${name}”`}, which is not here.`,
    };
  }

  resolve<T>(document: T): Resolved<T> {
    const [needs, why] = [new Set<string>(), new Set<string>()];
    for (const reference of referencesIn(document)) {
      const found = this.find(reference);
      if ('part' in found) needs.add(found.part);
      if ('missing' in found) why.add(found.missing);
    }
    const ready = needs.size === 0 && why.size === 0;
    return {
      document: ready
        ? withReferences(document, (reference) => {
            const found = this.find(reference);
            return 'id' in found ? found.id : 0;
          })
        : null,
      needs: [...needs],
      why: [...why],
    };
  }
}
