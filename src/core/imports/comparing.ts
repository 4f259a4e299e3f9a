import { normalMail } from '../people/mailAddress.ts';
import type { ImportRecord } from './record.ts';

/** Somebody in the directory, as far as a list can say something of them. */
export interface Known {
  id: number;
  name: string;
  sortName: string;
  greeting: string;
  mail: string | null;
  /** Further addresses, by which a row is theirs too. */
  furtherMail: readonly string[];
  station: string | null;
  occupation: string;
  zone: string;
  /** YYYY-MM-DD. */
  joinedOn: string;
  /** Of a guest, the last day; a list says nothing of it. */
  guestUntil: string | null;
  left: boolean;
  /** Whether this is a linked contact of somebody, who is not in the directory themselves. */
  contact: boolean;
  attributes: Readonly<Record<string, string>>;
}

/** One thing a row changes about somebody: a field or an attribute, and what it was and will be. */
export interface Change {
  what: string;
  from: string;
  to: string;
}

/** What a row comes to. `clash`: whose row it is has to be said; `wrong`: it cannot be used as it is. */
export const OUTCOMES = ['new', 'changed', 'returns', 'same', 'clash', 'wrong'] as const;
export type OutcomeKind = (typeof OUTCOMES)[number];

/** What is decided about a clash: it is the person it resembles, somebody new, or left out. */
export const DECISIONS_ON_CLASH = ['same person', 'new person', 'leave out'] as const;
export type ClashDecision = (typeof DECISIONS_ON_CLASH)[number];

export interface Outcome {
  line: number;
  kind: OutcomeKind;
  /** Whom it is about; of a clash, whom it resembles, where that is one. */
  personId: number | null;
  changes: Change[];
  /** Why it clashes or is wrong, as sentences; empty otherwise. */
  why: string;
  /** What can be decided about a clash; empty otherwise. */
  choices: ClashDecision[];
}

const plain = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

const shareWord = (a: string, b: string): boolean => {
  const words = new Set(plain(a).split(' '));
  return plain(b)
    .split(' ')
    .some((word) => words.has(word));
};

/** What a row would change about somebody. */
export function changesTo(known: Known, record: ImportRecord): Change[] {
  const changes: Change[] = [];
  const put = (what: string, from: string, to: string | undefined): void => {
    if (to !== undefined && to !== from) changes.push({ what, from, to });
  };
  put('name', known.name, record.name);
  put('name to sort by', known.sortName, record.sortName);
  put('greeting', known.greeting, record.greeting);
  if (
    record.mail !== undefined &&
    record.mail !== normalMail(known.mail ?? '') &&
    !known.furtherMail.includes(record.mail)
  )
    put('mail', known.mail ?? '', record.mail);
  // Stations are found whatever the letters' size: another size is no other station.
  if (record.station?.toLowerCase() !== known.station?.toLowerCase())
    put('station', known.station ?? '', record.station);
  put('occupation', known.occupation, record.occupation);
  put('zone', known.zone, record.zone);
  put('joined on', known.joinedOn, record.joinedOn);
  for (const [name, to] of Object.entries(record.attributes))
    put(`“${name}”`, known.attributes[name] ?? '', to);
  return changes;
}

/**
 * Compares rows with the directory, in the order of the file. Whose row it is, is told by the mail address; without one,
 * by the whole name where only one person has it. Whatever else could be meant is a clash for a person to decide.
 */
export class Comparison {
  readonly #byMail = new Map<string, Known>();
  readonly #byName = new Map<string, Known[]>();
  readonly #rowOfMail = new Map<string, number>();
  readonly #rowOfPerson = new Map<number, number>();

  constructor(known: Iterable<Known>) {
    for (const person of known) {
      for (const mail of [person.mail, ...person.furtherMail])
        if (mail !== null) this.#byMail.set(normalMail(mail), person);
      if (person.contact) continue;
      const name = plain(person.name);
      this.#byName.set(name, [...(this.#byName.get(name) ?? []), person]);
    }
  }

  /** Those whose rows there were, by id. */
  get found(): ReadonlyMap<number, number> {
    return this.#rowOfPerson;
  }

  /** What a row comes to, with what was decided about it where it clashes. */
  outcomeOf(record: ImportRecord, decision: ClashDecision | null): Outcome {
    const { line, mail } = record;
    if (mail !== undefined) {
      const earlier = this.#rowOfMail.get(mail);
      if (earlier !== undefined)
        return wrong(
          line,
          `The same mail address is in row ${earlier}. Take one of the two out of the file.`,
        );
      this.#rowOfMail.set(mail, line);
    }
    const holder = mail === undefined ? undefined : this.#byMail.get(mail);
    if (holder?.contact)
      return wrong(
        line,
        `The mail address belongs to ${holder.name}, a linked contact of somebody here. Use another address.`,
      );
    const named = this.#byName.get(plain(record.name)) ?? [];
    if (holder) {
      if (shareWord(holder.name, record.name)) return this.#about(holder, record);
      return this.#clash(
        record,
        holder,
        decision,
        ['same person', 'leave out'],
        `The mail address is that of ${holder.name}. The same person under another name?`,
      );
    }
    const withoutMail = named.filter((each) => each.mail === null);
    // Of several of one name, a row without an address is about the one who has none.
    const meant = mail === undefined && withoutMail.length === 1 ? withoutMail : named;
    const [only] = meant;
    if (!only) return { line, kind: 'new', personId: null, changes: [], why: '', choices: [] };
    if (meant.length > 1)
      return this.#clash(
        record,
        null,
        decision,
        ['new person', 'leave out'],
        `${meant.length} people have this name, and the row has no mail address that one of them has.`,
      );
    if (mail === undefined || only.mail === null) return this.#about(only, record);
    return this.#clash(
      record,
      only,
      decision,
      ['same person', 'new person', 'leave out'],
      `${only.name} is here with the mail address ${only.mail}. The same person with another address?`,
    );
  }

  #about(person: Known, record: ImportRecord): Outcome {
    const earlier = this.#rowOfPerson.get(person.id);
    if (earlier !== undefined)
      return wrong(
        record.line,
        `Row ${earlier} is about ${person.name} as well. Take one of the two out of the file.`,
      );
    this.#rowOfPerson.set(person.id, record.line);
    const changes = changesTo(person, record);
    const kind = person.left ? 'returns' : changes.length > 0 ? 'changed' : 'same';
    return { line: record.line, kind, personId: person.id, changes, why: '', choices: [] };
  }

  #clash(
    record: ImportRecord,
    resembles: Known | null,
    decision: ClashDecision | null,
    choices: ClashDecision[],
    why: string,
  ): Outcome {
    const { line } = record;
    if (decision === 'same person' && choices.includes(decision) && resembles)
      return { ...this.#about(resembles, record), choices, why };
    if (decision === 'new person' && choices.includes(decision))
      return { line, kind: 'new', personId: null, changes: [], choices, why };
    return { line, kind: 'clash', personId: resembles?.id ?? null, changes: [], why, choices };
  }
}

const wrong = (line: number, why: string): Outcome => ({
  line,
  kind: 'wrong',
  personId: null,
  changes: [],
  why,
  choices: [],
});
