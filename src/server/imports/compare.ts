import { createHash } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import { Comparison, type Known, type Outcome } from '../../core/imports/comparing.ts';
import { checkRecord, dateOf, type DateOrder, type ImportRecord } from '../../core/imports/record.ts';
import { attributeKey, attributeProblem, TEXT } from '../../core/people/kinds.ts';
import type { Database } from '../database/connection.ts';
import { everybodyKnown, missingIds, rawRows, setCompared, setOutcomes, type StoredImport } from './store.ts';
import { attributeForms } from '../people/kindsStore.ts';
import { stationIds } from '../people/stationStore.ts';

/** What a list comes to as the directory is. */
export interface Compared {
  digest: string;
  missing: number[];
  newStations: string[];
}

/** A row that can be used, with what it comes to. */
export interface Usable {
  record: ImportRecord;
  outcome: Outcome;
}

/** What does not hold what it is to hold, in words; dates are put into one form on the way. */
function unfitAttributes(
  record: ImportRecord,
  forms: Awaited<ReturnType<typeof attributeForms>>,
  order: DateOrder,
): string {
  const problems: string[] = [];
  for (const [name, value] of Object.entries(record.attributes)) {
    const form = forms.get(attributeKey(name)) ?? TEXT;
    const plain = form.kind === 'date' ? (dateOf(value, order) ?? value) : value;
    record.attributes[name] = plain;
    const problem = attributeProblem(form, plain);
    if (problem !== null) problems.push(`“${name}”: ${problem}`);
  }
  return problems.join(' ');
}

/**
 * Compares every row with the directory, page by page so that others are served meanwhile, and writes what each comes to.
 *
 * @param use given each page of rows that can be used
 */
export async function compare(
  db: Database,
  { id, dateOrder }: Pick<StoredImport, 'id' | 'dateOrder'>,
  use: (found: Usable[]) => void = () => undefined,
): Promise<Compared> {
  const known: Known[] = [];
  for await (const page of everybodyKnown(db)) known.push(...page);
  const comparison = new Comparison(known);
  const [here, forms] = await Promise.all([stationIds(db), attributeForms(db)]);
  const newStations = new Map<string, string>();
  const sum = createHash('md5');
  for await (const page of rawRows(db, id)) {
    const usable: Usable[] = [];
    const outcomes: Outcome[] = [];
    for (const { raw, decision } of page) {
      const checked = checkRecord(raw, dateOrder);
      if ('problems' in checked) {
        const why = checked.problems.join(' ');
        outcomes.push({ line: raw.line, kind: 'wrong', personId: null, changes: [], why, choices: [] });
        continue;
      }
      const { record } = checked;
      const unfit = unfitAttributes(record, forms, dateOrder);
      if (unfit !== '') {
        outcomes.push({
          line: raw.line,
          kind: 'wrong',
          personId: null,
          changes: [],
          why: unfit,
          choices: [],
        });
        continue;
      }
      const outcome = comparison.outcomeOf(record, decision);
      outcomes.push(outcome);
      usable.push({ record, outcome });
      const station = record.station?.toLowerCase();
      const isUsed = outcome.kind === 'new' || outcome.kind === 'changed' || outcome.kind === 'returns';
      if (record.station !== undefined && station !== undefined && isUsed && !here.has(station))
        newStations.set(station, newStations.get(station) ?? record.station);
    }
    for (const { line, kind, personId, changes } of outcomes)
      sum.update(JSON.stringify([line, kind, personId, changes]));
    await setOutcomes(db, id, outcomes);
    use(usable);
    await setImmediate();
  }
  const missing = await missingIds(db, id);
  const stations = [...newStations.values()].sort((a, b) => a.localeCompare(b));
  const digest = sum.update(JSON.stringify([missing, stations])).digest('hex');
  await setCompared(db, id, { missing: missing.length, newStations: stations, digest });
  return { digest, missing, newStations: stations };
}
