/** The kinds of parts of an organisation that are brought into another, in the order in which they can come in. */
export const PART_KINDS = [
  'sender',
  'group',
  'sheet',
  'board',
  'audience',
  'template',
  'automation',
] as const;
export type PartKind = (typeof PART_KINDS)[number];

export const PART_WORDS: Readonly<Record<PartKind, { one: string; many: string }>> = {
  sender: { one: 'sender', many: 'Senders' },
  group: { one: 'group', many: 'Groups' },
  sheet: { one: 'record sheet', many: 'Record sheets' },
  board: { one: 'board', many: 'Boards' },
  audience: { one: 'kept audience', many: 'Kept audiences' },
  template: { one: 'template', many: 'Templates' },
  automation: { one: 'automation', many: 'Automations' },
};

/**
 * How a part of an archive stands beside what is here: not here; here, as it is there; here, and other than there; or it cannot come
 * in as it is, because of what is here or what is not.
 */
export type PartState = 'new' | 'same' | 'changed' | 'clash';

export interface Part {
  /** Its kind and its id in the archive: `group:12`. */
  key: string;
  kind: PartKind;
  name: string;
  state: PartState;
  /** What would be made or changed, in words. */
  says: string[];
  /** Why it clashes, in words; none where it does not. */
  why: string[];
  /** The keys of parts that it names and that are not here: they come in with it. */
  needs: string[];
  /** The name under which it could come in beside the one that is here; null where it cannot. */
  beside: string | null;
}

export interface PartsLook {
  organisation: string;
  /** ISO 8601, UTC. */
  takenAt: string;
  people: number;
  parts: Part[];
}

/** What was brought in, with where it is now. */
export interface BroughtPart {
  kind: PartKind;
  name: string;
  path: string;
}

const byKey = (parts: readonly Part[]): Map<string, Part> => new Map(parts.map((part) => [part.key, part]));

/** A choice of parts with all that they name and is not here yet. */
export function withNeeds(parts: readonly Part[], chosen: ReadonlySet<string>): Set<string> {
  const all = byKey(parts);
  const found = new Set<string>();
  const add = (key: string): void => {
    if (found.has(key)) return;
    found.add(key);
    all.get(key)?.needs.forEach(add);
  };
  chosen.forEach(add);
  return found;
}

/** A choice of parts without one of them, and without whatever needs that one. */
export function withoutPart(parts: readonly Part[], chosen: ReadonlySet<string>, key: string): Set<string> {
  const left = new Set(chosen);
  const drop = (gone: string): void => {
    if (!left.delete(gone)) return;
    for (const part of parts) if (part.needs.includes(gone)) drop(part.key);
  };
  drop(key);
  return left;
}

/** Chosen parts in an order in which each comes after what it names. */
export function inOrder<P extends Pick<Part, 'key' | 'kind' | 'needs'>>(parts: readonly P[]): P[] {
  const all = new Map(parts.map((part) => [part.key, part]));
  const done = new Set<string>();
  const ordered: P[] = [];
  const add = (part: P): void => {
    if (done.has(part.key)) return;
    done.add(part.key);
    for (const key of part.needs) {
      const needed = all.get(key);
      if (needed) add(needed);
    }
    ordered.push(part);
  };
  for (const kind of PART_KINDS) for (const part of parts) if (part.kind === kind) add(part);
  return ordered;
}

/** A name that nothing here has: the same, with a number after it. */
export function freeName(name: string, taken: (name: string) => boolean, most: number): string {
  for (let n = 2; ; n++) {
    const end = ` (${n})`;
    const tried = `${name.slice(0, most - end.length)}${end}`;
    if (!taken(tried)) return tried;
  }
}

/** Names are the same where they differ in case or accents alone, as the database has it: a test holds the two together. */
export const sameName = (name: string): string =>
  name.normalize('NFKD').replace(/\p{M}/gu, '').trim().toUpperCase().toLowerCase();
