import { automationSentence, automationText } from '../../core/automation/words.ts';
import { audienceWords } from '../../core/audience/words.ts';
import { PRESETS, purposeOf } from '../../core/boards/switches.ts';
import { excerpt } from '../../core/content/text.ts';
import type { BlankLine, PartLine } from '../../core/patterns/page.ts';
import { partKey, partName, type Blank, type PatternPart } from '../../core/patterns/pattern.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { dayWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { switchesOf } from '../boards/service.ts';
import { fieldsFor } from '../automations/fields.ts';
import { readingNames } from '../automations/naming.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { namesOfPeople, stations } from '../people/store.ts';

/** Parts in words: who is in a group, whose a board is and what it is for, when an automation speaks. */
export async function described(
  db: Database,
  actor: Actor,
  parts: readonly PatternPart[],
): Promise<PartLine[]> {
  const now = await audienceContext(db);
  // Parts have their own names, also where what they were taken from is gone.
  const own = (kind: PatternPart['kind'], id: number): string | undefined => {
    const part = parts.find((each) => each.kind === kind && each.id === id);
    return part && partName(part);
  };
  const known = await audienceNames(
    db,
    now,
    parts.map((part) => (part.kind === 'group' ? part.rule : null)),
  );
  const group = (id: number): string | undefined => own('group', id) ?? known.group(id);
  const names = { ...known, group };
  const automations = parts.flatMap((part) => (part.kind === 'automation' ? [part.automation] : []));
  const read = automations.length > 0 ? await readingNames(db, actor, automations) : null;
  const reading = read && {
    ...read,
    group,
    board: (id: number) => own('board', id) ?? read.board(id),
    sheet: (id: number) => own('sheet', id) ?? read.sheet(id),
  };
  const lines: PartLine[] = [];
  for (const part of parts) {
    const says: string[] = [];
    if (part.kind === 'group')
      says.push(part.rule ? `by a rule: ${audienceWords(part.rule, names)}` : 'picked by hand');
    else if (part.kind === 'board') {
      const purpose = purposeOf(switchesOf(part));
      says.push(
        part.groupId === null ? 'for everybody' : `of ${group(part.groupId) ?? 'a group that is gone'}`,
        part.about,
      );
      if (purpose) says.push(PRESETS[purpose].words);
      if (part.links.length > 0)
        says.push(count(part.links.length, 'key link or file', 'key links and files'));
    } else if (part.kind === 'sheet') {
      says.push(count(part.columns.length, 'column', 'columns'));
      if (part.form) says.push('with its form, under an address of its own');
    } else if (part.kind === 'pin') says.push(excerpt(part.content.sections));
    else if (reading)
      says.push(
        automationText(
          automationSentence(part.automation, (await fieldsFor(db, part.automation)).fields, reading),
        ),
      );
    lines.push({ key: partKey(part), kind: part.kind, name: partName(part), says: says.filter(Boolean) });
  }
  return lines;
}

/** What is asked for, each with what it is in the pattern in words. */
export async function blankLines(db: Database, blanks: readonly Blank[]): Promise<BlankLine[]> {
  const [places, people] = await Promise.all([
    stations(db),
    namesOfPeople(
      db,
      blanks.flatMap(({ kind, was }) => (kind === 'person' ? [Number(was)] : [])),
    ),
  ]);
  return blanks.map((blank) => ({
    ...blank,
    words:
      blank.kind === 'station'
        ? (places.find(({ id }) => id === Number(blank.was))?.name ?? 'a station that is gone')
        : blank.kind === 'person'
          ? (people.get(Number(blank.was)) ?? 'somebody who is gone')
          : blank.kind === 'date'
            ? dayWords(blank.was)
            : blank.was,
  }));
}
