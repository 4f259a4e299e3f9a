import { automationSchema, sheetOf, type Automation } from '../../../core/automation/automation.ts';
import { freeName, sameName } from '../../../core/organisation/parts.ts';
import { columnsIn, withColumns } from '../../../core/organisation/references.ts';
import { sheetSchema, type SheetColumn } from '../../../core/sheets/sheet.ts';
import { makeAutomation } from '../../automations/service.ts';
import { allAutomations } from '../../automations/store.ts';
import type { Database } from '../../database/connection.ts';
import { allSheets } from '../../sheets/store.ts';
import { partOf, readAs, withoutKeys, withUploads, type Bringing, type FoundPart } from './bringing.ts';

type Columns = ReadonlyMap<number, readonly SheetColumn[]>;

const columnsHere = async (db: Database): Promise<Columns> =>
  new Map((await allSheets(db)).map(({ id, columns }) => [id, columns]));

/** The columns that an automation names, as the sheet it reads has them here: found by name and kind. */
function columnsOf(
  by: Bringing,
  draft: Automation,
  there: Columns,
  here: Columns,
): { ids: ReadonlyMap<string, string>; why: string[] } {
  const sheetId = sheetOf(draft.when);
  const sheet = sheetId === null ? undefined : by.resolving.find({ kind: 'sheet', id: sheetId });
  const mine = sheet && 'id' in sheet ? here.get(sheet.id) : undefined;
  // One that comes in with it has its columns as they are there.
  if (sheetId === null || !mine) return { ids: new Map(), why: [] };
  const ids = new Map<string, string>();
  const lacking: string[] = [];
  for (const id of columnsIn(draft)) {
    const column = there.get(sheetId)?.find((each) => each.id === id);
    const same = mine.find(
      (each) => column && sameName(each.name) === sameName(column.name) && each.kind === column.kind,
    );
    if (same) ids.set(id, same.id);
    else if (column) lacking.push(column.name);
  }
  return {
    ids,
    why: lacking.map(
      (name) => `The sheet it reads has no column “${name}” of that kind here. Bring the sheet in first.`,
    ),
  };
}

/** The automations of an archive, as they are written there, beside those here. They come in as drafts that are off. */
export async function automationParts(by: Bringing): Promise<FoundPart[]> {
  const drafts = await allAutomations(by.db);
  const here = new Set(drafts.map(({ draft }) => sameName(draft.name)));
  const same = new Set(drafts.map(({ draft }) => withoutKeys(draft)));
  const mine = await columnsHere(by.db);
  const there: Columns = new Map(
    (await by.contents.all('sheets')).map(({ id, columns }) => [
      id,
      readAs<SheetColumn[]>(sheetSchema.shape.columns, columns),
    ]),
  );
  return (await by.contents.all('automations')).map(({ id, draft: stored }) => {
    const draft = readAs<Automation>(automationSchema, stored);
    const { document, needs, why: missing } = by.resolving.resolve(draft);
    const columns = columnsOf(by, draft, there, mine);
    const why = [...missing, ...columns.why];
    const moved = document && withColumns(document, (column) => columns.ids.get(column) ?? column);
    const isSame = moved !== null && same.has(withoutKeys(readAs(automationSchema, moved)));
    const isNamed = here.has(sameName(draft.name));
    const beside = freeName(draft.name, (tried) => here.has(sameName(tried)), 80);
    const clash = why.length > 0 || (isNamed && !isSame);
    return partOf('automation', id, {
      name: draft.name,
      state: isSame ? 'same' : clash ? 'clash' : 'new',
      says: isSame ? [] : ['it comes as a draft of yours that is off'],
      why: [...why, ...(clash && why.length === 0 ? ['One of this name is written otherwise here.'] : [])],
      needs,
      beside: clash && why.length === 0 ? beside : null,
      bring: async (now) => {
        const called = isNamed ? beside : draft.name;
        const found = columnsOf(now, draft, there, await columnsHere(now.db));
        const written = withColumns(
          await withUploads(now, now.resolving.resolve(draft).document),
          (column) => found.ids.get(column) ?? column,
        );
        const automation = { ...readAs<Automation>(automationSchema, written), name: called };
        const made = await makeAutomation(now.db, now.actor, { name: called, automation });
        return { id: made, name: called, path: `/automations/${made}` };
      },
    });
  });
}
