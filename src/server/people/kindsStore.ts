import {
  attributeKey,
  type AttributeForm,
  type AttributeKind,
  type AttributeLine,
  type OccupationLine,
} from '../../core/people/kinds.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** The occupations there are, by name. Two that differ by the size of letters are two. */
export function occupationLines(db: Database): Promise<OccupationLine[]> {
  return rows(
    db,
    `SELECT occupation COLLATE utf8mb4_bin AS name, COUNT(*) AS people FROM people
     WHERE occupation <> '' AND linked_to IS NULL AND erased_at IS NULL
     GROUP BY occupation COLLATE utf8mb4_bin ORDER BY MIN(occupation), 1`,
  );
}

/** Gives one occupation the name of another, or takes it away where that is empty; gives how many had it. */
export function renameOccupation(db: Database, from: string, to: string): Promise<number> {
  return change(db, 'UPDATE people SET occupation = ? WHERE BINARY occupation = ?', [to, from]);
}

/** What attributes hold, by their key; held until the transaction ends where that is wished. */
export async function attributeForms(
  db: Database,
  held = false,
): Promise<Map<string, AttributeForm & { name: string }>> {
  const found = await rows<{ name: string; kind: AttributeKind; choices: string }>(
    db,
    `SELECT name, kind, choices FROM attribute_kinds ORDER BY name${held ? ' FOR UPDATE' : ''}`,
  );
  return new Map(
    found.map(({ name, kind, choices }) => [
      attributeKey(name),
      { name, kind, choices: JSON.parse(choices) as string[] },
    ]),
  );
}

/** The attributes there are and those whose kind is noted, by name. */
export async function attributeLines(db: Database): Promise<AttributeLine[]> {
  const [forms, found] = await Promise.all([
    attributeForms(db),
    rows<{ name: string; people: number; few: string }>(
      db,
      `SELECT name, CAST(SUM(n) AS SIGNED) AS people, SUBSTRING_INDEX(GROUP_CONCAT(value ORDER BY n DESC SEPARATOR '\\n'), '\\n', 5) AS few
       FROM (SELECT MIN(name) AS name, value, COUNT(*) AS n FROM person_attributes GROUP BY name, value) v
       GROUP BY name ORDER BY name`,
    ),
  ]);
  const lines = found.map(({ name, people, few }): AttributeLine => {
    const form = forms.get(attributeKey(name));
    forms.delete(attributeKey(name));
    return {
      name: form?.name ?? name,
      kind: form?.kind ?? 'text',
      choices: form?.choices ?? [],
      people,
      values: few.split('\n'),
    };
  });
  const unused = [...forms.values()].map((form): AttributeLine => ({ ...form, people: 0, values: [] }));
  return [...lines, ...unused].sort((a, b) => a.name.localeCompare(b.name));
}

/** The values of an attribute, each once, with how many have it. */
export function attributeValues(db: Database, name: string): Promise<{ value: string; n: number }[]> {
  return rows(
    db,
    'SELECT value COLLATE utf8mb4_bin AS value, COUNT(*) AS n FROM person_attributes WHERE name = ? GROUP BY value COLLATE utf8mb4_bin',
    [name],
  );
}

/**
 * Gives an attribute another name. Whoever has one of that name already keeps what it says.
 *
 * @returns the names under which it stood, which can differ by the size of letters
 */
export async function renameAttribute(db: Database, from: string, to: string): Promise<string[]> {
  const names = await rows<{ name: string }>(
    db,
    'SELECT DISTINCT name COLLATE utf8mb4_bin AS name FROM person_attributes WHERE name = ?',
    [from],
  );
  await change(db, 'UPDATE IGNORE person_attributes SET name = ? WHERE name = ?', [to, from]);
  await change(db, 'DELETE FROM person_attributes WHERE name = ? AND name <> ?', [from, to]);
  return names.map((row) => row.name);
}

export async function deleteAttribute(db: Database, name: string): Promise<number> {
  await change(db, 'DELETE FROM attribute_kinds WHERE name = ?', [name]);
  return change(db, 'DELETE FROM person_attributes WHERE name = ?', [name]);
}

/** Notes what an attribute holds; under another name than before, that one is forgotten. */
export async function setAttributeForm(
  db: Database,
  from: string | null,
  { name, kind, choices }: AttributeForm & { name: string },
): Promise<void> {
  if (from !== null) await change(db, 'DELETE FROM attribute_kinds WHERE name = ?', [from]);
  await change(
    db,
    `INSERT INTO attribute_kinds (name, kind, choices) VALUES (?, ?, ?)
     ON DUPLICATE KEY UPDATE name = VALUES(name), kind = VALUES(kind), choices = VALUES(choices)`,
    [name, kind, JSON.stringify(choices)],
  );
}
