import { createHash } from 'node:crypto';
import { get } from 'jsonpointer';
import pMap from 'p-map';
import { addressOf, inputsOf, type Source } from '../../core/automation/source.ts';
import { readCell } from '../../core/sheets/cell.ts';
import type { Database } from '../database/connection.ts';
import type { Settings } from '../settings.ts';
import { unseal } from '../sealing.ts';
import { OutsideError, requestOutside, type OutsideAnswer } from '../outside/request.ts';
import { keepAnswer, keptAnswer, type SourceRow } from './store.ts';

const TIMEOUT_MS = 10_000;
const MOST_BYTES = 1_000_000;
const AT_ONCE = 6;
const ATTEMPTS = 3;

/** What asking depends on: the installation's secret, and which addresses on the internal network the operator lists. */
export interface Asking {
  secret: string;
  /** Origins on the internal network that may be asked, such as `http://127.0.0.1:4404`. */
  inside: readonly string[];
}

/** What asking depends on, as operators set it. */
export const askingIn = ({
  CLEAR_BELL_SECRET,
  LOOKUP_ORIGINS,
}: Pick<Settings, 'CLEAR_BELL_SECRET' | 'LOOKUP_ORIGINS'>): Asking => ({
  secret: CLEAR_BELL_SECRET,
  inside: LOOKUP_ORIGINS,
});

/** Why a source could not be asked, in words. */
export class SourceError extends Error {}

const WORDS: Record<OutsideError['kind'], string> = {
  inside: 'That address is on the internal network, and the operator does not list it.',
  'too large': 'The source answered more than a megabyte.',
  'too slow': 'The source did not answer within ten seconds.',
  unreachable: 'The source could not be reached',
};

/** Asks an address for JSON: within ten seconds, at most a megabyte, and never on the internal network but where it is listed. */
export async function askForJson(
  address: string,
  headers: Record<string, string>,
  inside: readonly string[],
): Promise<unknown> {
  let answer: OutsideAnswer;
  try {
    answer = await requestOutside(address, {
      headers: { accept: 'application/json', ...headers },
      inside,
      timeoutMs: TIMEOUT_MS,
      most: MOST_BYTES,
    });
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    throw new SourceError(
      error.kind === 'unreachable' ? `${WORDS.unreachable}: ${error.message}` : WORDS[error.kind],
    );
  }
  if (answer.status !== 200)
    throw new SourceError(`The source answered ${answer.status} instead of what was asked.`);
  try {
    return JSON.parse(answer.body.toString('utf8')) as unknown;
  } catch {
    throw new SourceError('The source answered something that is no JSON.');
  }
}

/** The named values of an answer, as cells; what is not there, or does not fit its kind, is empty. */
export function valuesOf(source: Pick<Source, 'fields'>, answer: unknown): Map<string, string> {
  return new Map(
    source.fields.map(({ name, pointer, kind, unit }) => {
      let found: unknown;
      try {
        found = typeof answer === 'object' && answer !== null ? get(answer, pointer) : undefined;
      } catch {
        found = undefined;
      }
      const text =
        typeof found === 'string' || typeof found === 'number' || typeof found === 'boolean'
          ? String(found)
          : '';
      const read = readCell({ kind, unit, choices: [] }, text);
      return [`found.${name}`, 'value' in read ? read.value : ''];
    }),
  );
}

async function askOnce(db: Database, source: SourceRow, address: string, asking: Asking): Promise<unknown> {
  const asked = createHash('sha256').update(address).digest();
  const kept =
    source.keepMinutes > 0 ? await keptAnswer(db, source.id, asked, source.keepMinutes) : undefined;
  if (kept !== undefined) return kept;
  const headers: Record<string, string> =
    source.header !== '' && source.sealed ? { [source.header]: unseal(asking.secret, source.sealed) } : {};
  for (let attempt = 1; ; attempt++) {
    try {
      const answer = await askForJson(address, headers, asking.inside);
      if (source.keepMinutes > 0) await keepAnswer(db, source.id, asked, answer);
      return answer;
    } catch (error) {
      if (attempt >= ATTEMPTS || !(error instanceof SourceError)) throw error;
      await new Promise((resolve) => setTimeout(resolve, 200 * attempt));
    }
  }
}

/**
 * Asks a source once for each distinct set of inputs, side by side and bounded: eleven people at four sites are four calls.
 *
 * @param wanted the inputs of each of what is asked for, in order
 * @returns what was found for each, in the same order, or why it could not be
 */
export async function lookUp(
  db: Database,
  source: SourceRow,
  wanted: readonly ReadonlyMap<string, string>[],
  asking: Asking,
): Promise<(Map<string, string> | SourceError)[]> {
  const needed = inputsOf(source.url);
  const addresses = wanted.map((inputs) =>
    needed.every((name) => (inputs.get(name) ?? '') !== '') ? addressOf(source.url, inputs) : null,
  );
  const distinct = [...new Set(addresses.flatMap((each) => each ?? []))];
  const answers = new Map(
    await pMap(
      distinct,
      async (address): Promise<[string, Map<string, string> | SourceError]> => {
        try {
          return [address, valuesOf(source, await askOnce(db, source, address, asking))];
        } catch (error) {
          if (error instanceof SourceError) return [address, error];
          throw error;
        }
      },
      { concurrency: AT_ONCE },
    ),
  );
  return addresses.map((address) =>
    address === null
      ? new SourceError('What the source is asked for is empty.')
      : (answers.get(address) ?? new SourceError('The source was not asked.')),
  );
}
