import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import * as common from '@zxcvbn-ts/language-common';
import * as english from '@zxcvbn-ts/language-en';
import { MIN_PASSWORD } from '../../core/access/letter.ts';
import { Problem } from '../problem.ts';

let made: ZxcvbnFactory | undefined;

/** Made when it is first asked: its word lists take a moment and some memory. */
const meter = (): ZxcvbnFactory =>
  (made ??= new ZxcvbnFactory({
    dictionary: { ...common.dictionary, ...english.dictionary },
    graphs: common.adjacencyGraphs,
    translations: english.translations,
  }));

/** The least strength that is taken, on the package's scale from 0 to 4: some 10^8 guesses at least. */
const LEAST = 3;
/** What is longer is not guessed better, only slower. */
const MOST_MEASURED = 100;

const refuse = (detail: string): never => {
  throw new Problem(422, 'This password is too easy to guess.', { errors: [{ field: 'password', detail }] });
};

/**
 * Refuses a password that is too short or easy to guess. What is known of the person counts as guessed.
 *
 * @param known names and addresses that a guesser would try first
 * @throws a 422 problem that names the field and says what would do
 */
export function requireStrongPassword(password: string, known: readonly string[]): void {
  if (password.normalize('NFKC').length < MIN_PASSWORD)
    refuse(`A password has at least ${MIN_PASSWORD} characters; a few words in a row are easy to keep.`);
  const { score, feedback } = meter().check(password.slice(0, MOST_MEASURED), [
    ...known
      .map((each) => each.toLowerCase())
      .flatMap((each) => [each, each.replace(/\s/g, ''), ...each.split(/[\s@.]+/)])
      .filter((each) => each.length > 2),
    'clear bell',
  ]);
  if (score >= LEAST) return;
  refuse(
    feedback.warning !== null && feedback.warning !== ''
      ? `It would soon be guessed: ${feedback.warning} Put a few words in a row that do not belong together.`
      : 'It would soon be guessed. Put a few words in a row that do not belong together.',
  );
}
