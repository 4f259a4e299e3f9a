import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { z } from 'zod';
import { accountSchema, type Account } from './round.ts';

/** How large the rounds are, what is drawn, and the machine they ran on: the same for all that stand in one account. */
const sizeSchema = z.strictObject({
  people: z.number(),
  answers: z.number(),
  seed: z.number(),
  cores: z.number(),
});
type Size = z.infer<typeof sizeSchema>;

const lineSchema = z.union([
  z.strictObject({ size: sizeSchema }),
  z.strictObject({ begun: z.strictObject({ fault: z.string(), round: z.number(), day: z.string() }) }),
  z.strictObject({ ended: accountSchema }),
]);
type Line = z.infer<typeof lineSchema>;

/**
 * Every round that was ever begun, a line of JSON in a file each, so that a drill that takes hours can be run in parts and none is
 * left out: also not one that did not come to its end.
 */
export class Kept {
  readonly #file: string;
  readonly size: Size;
  readonly #begun: { fault: string; round: number; day: string }[] = [];
  readonly ended: Account[] = [];

  /**
   * @param size of the rounds to come
   * @param goesOn whether those of before stay; their size is that of the rounds to come
   */
  constructor(file: string, size: Size, goesOn: boolean) {
    this.#file = file;
    if (!goesOn || !existsSync(file)) {
      this.size = size;
      writeFileSync(file, '');
      this.#write({ size });
      return;
    }
    const lines = readFileSync(file, 'utf8')
      .split('\n')
      .filter(Boolean)
      .map((line) => lineSchema.parse(JSON.parse(line)));
    const [first] = lines;
    if (!first || !('size' in first)) throw new Error(`${file} does not begin with the size of its rounds`);
    this.size = first.size;
    for (const line of lines)
      if ('begun' in line) this.#begun.push(line.begun);
      else if ('ended' in line) this.ended.push(line.ended);
  }

  #write(line: Line): void {
    appendFileSync(this.#file, `${JSON.stringify(line)}\n`);
  }

  /** The number of the first round after those there are. */
  get next(): number {
    return Math.max(0, ...this.#begun.map(({ round }) => round)) + 1;
  }

  /** The days on which rounds were begun, each once. */
  get days(): string[] {
    return [...new Set(this.#begun.map(({ day }) => day))];
  }

  /** What was begun and has no end: the drill itself was stopped, or failed. */
  get unended(): { fault: string; round: number; day: string }[] {
    return this.#begun.filter(
      (each) => !this.ended.some(({ fault, round }) => fault === each.fault && round === each.round),
    );
  }

  begin(fault: string, round: number): void {
    const day = new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });
    const begun = { fault, round, day };
    this.#begun.push(begun);
    this.#write({ begun });
  }

  end(account: Account): void {
    this.ended.push(account);
    this.#write({ ended: account });
  }
}
