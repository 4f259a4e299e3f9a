import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

const FOLDER = join(import.meta.dirname, '../../src/server/database/migrations');
/** From here on processes of the version before go on while the schema is changed under them. */
const FIRST = 59;
const TAKES_AWAY = /\b(DROP (TABLE|COLUMN)|RENAME|CHANGE COLUMN|MODIFY)\b/i;
const numberOf = (file: string): number => Number(file.slice(0, 4));

/** What a migration does on the way up, without its way down. */
const upOf = (text: string): string => text.slice(text.indexOf('function up'), text.indexOf('function down'));

describe('a change of the schema', () => {
  it('takes nothing away that the version before uses: what goes has not been used since an earlier one, which it names', () => {
    const files = readdirSync(FOLDER).filter((file) => numberOf(file) >= FIRST);
    const taking = files.filter((file) => TAKES_AWAY.test(upOf(readFileSync(join(FOLDER, file), 'utf8'))));
    expect(taking).toContain('0068_without_engines.ts');
    for (const file of taking) {
      const since = /\((\d{4})\)/.exec(readFileSync(join(FOLDER, file), 'utf8'))?.[1];
      expect(Number(since), `${file} says since which migration it is not used, as (0061)`).toBeLessThan(
        numberOf(file),
      );
    }
  });
});
