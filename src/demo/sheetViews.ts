import type { SheetView } from '../core/sheets/view.ts';
import type { Database } from '../server/database/connection.ts';
import { insertView } from '../server/sheets/viewStore.ts';

/** Views that everybody has, by the name of their sheet here. */
const VIEWS: Record<string, { name: string; view: SheetView }> = {
  readings: {
    name: 'Near the limit',
    view: {
      if: {
        kind: 'test',
        field: 'record.c2',
        test: 'is over',
        against: { kind: 'field', field: 'record.c3', share: 90 },
      },
      order: [{ column: 'c2', turned: true }],
      hidden: [],
    },
  },
  tests: {
    name: 'Still to be done',
    view: {
      if: {
        kind: 'any',
        of: [
          { kind: 'test', field: 'record.c5', test: 'is empty', against: { kind: 'value', value: '' } },
          { kind: 'test', field: 'record.c5', test: 'is', against: { kind: 'value', value: 'no' } },
        ],
      },
      order: [{ column: 'c3', turned: false }],
      hidden: ['c5'],
    },
  },
};

export async function laySheetViews(
  db: Database,
  sheetIds: ReadonlyMap<string, number>,
  by: number,
): Promise<void> {
  for (const [sheet, { name, view }] of Object.entries(VIEWS))
    await insertView(db, sheetIds.get(sheet) ?? 0, by, { name, shared: true, view });
}
