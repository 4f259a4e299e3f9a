import { lengthOf } from '../../content/text.ts';
import type { NumberedOption, Poll } from './poll.ts';
import { MOST_TEXT, DATE_ANSWERS, type DateAnswer } from './pollKinds.ts';

/** What one person answers in a poll. Options are named by their numbers. */
export type Ballot =
  | { kind: 'choices'; choices: number[] }
  | { kind: 'ranking'; ranking: number[] }
  | { kind: 'dates'; answers: Record<number, DateAnswer> }
  | { kind: 'rating'; rating: number }
  | { kind: 'text'; text: string };

/** A ballot that counts, or what is wrong with it and what to do. */
export type BallotReading = { ballot: Ballot } | { problem: string };

const wrong = (problem: string): BallotReading => ({ problem });

/** The numbers of a list; null where one is no option of the poll or is there twice. */
function numbers(given: unknown, options: readonly NumberedOption[]): number[] | null {
  if (!Array.isArray(given)) return null;
  const found = given.map(Number);
  const known = new Set(options.map((option) => option.id));
  return found.every((id) => known.has(id)) && new Set(found).size === found.length ? found : null;
}

/**
 * Reads what somebody sent as their answer to a poll.
 *
 * @param given `{ choices }`, `{ ranking }`, `{ answers }`, `{ rating }` or `{ text }`, by the kind of poll
 */
export function readBallot(
  poll: Poll,
  options: readonly NumberedOption[],
  given: Readonly<Record<string, unknown>>,
): BallotReading {
  switch (poll.kind) {
    case 'single':
    case 'approval':
    case 'several': {
      const choices = numbers(given.choices, options);
      if (!choices) return wrong('Choose among the options of this poll, each once.');
      if (choices.length === 0) return wrong('Choose an option first.');
      const limit = poll.kind === 'several' ? (poll.limit ?? options.length) : 1;
      if (choices.length > limit)
        return wrong(limit === 1 ? 'Choose one option only.' : `Choose at most ${limit} options.`);
      return { ballot: { kind: 'choices', choices: [...choices].sort((a, b) => a - b) } };
    }
    case 'ranking': {
      const ranking = numbers(given.ranking, options);
      if (!ranking) return wrong('Put the options of this poll in order, each once.');
      if (ranking.length === 0) return wrong('Put at least one option in order.');
      return { ballot: { kind: 'ranking', ranking } };
    }
    case 'dates': {
      const { answers } = given;
      if (typeof answers !== 'object' || answers === null) return wrong('Say for each date if it suits you.');
      const read: Record<number, DateAnswer> = {};
      for (const option of options) {
        const answer: unknown = Reflect.get(answers, String(option.id));
        // A date that is not answered does not suit: one was added after they had looked.
        read[option.id] = DATE_ANSWERS.find((each) => each === answer) ?? 'no';
      }
      return { ballot: { kind: 'dates', answers: read } };
    }
    case 'rating': {
      const rating = Number(given.rating);
      if (!Number.isInteger(rating) || rating < 1 || rating > poll.scale)
        return wrong(`Choose a number from 1 to ${poll.scale}.`);
      return { ballot: { kind: 'rating', rating } };
    }
    case 'text': {
      const text = typeof given.text === 'string' ? given.text.trim() : '';
      if (text === '') return wrong('Write an answer first.');
      if (lengthOf(text) > MOST_TEXT) return wrong(`At most ${MOST_TEXT} characters.`);
      return { ballot: { kind: 'text', text } };
    }
  }
}

const DATE_MARKS: Record<DateAnswer, string> = { yes: 'y', 'if need be': 'm', no: 'n' };

/** A ballot as one short line. Equal ballots give equal lines, so that the database can count them. */
export function encodeBallot(ballot: Ballot): string {
  switch (ballot.kind) {
    case 'choices':
      return ballot.choices.join(',');
    case 'ranking':
      return ballot.ranking.join('>');
    case 'dates':
      return Object.entries(ballot.answers)
        .map(([id, answer]) => `${id}${DATE_MARKS[answer]}`)
        .join(',');
    case 'rating':
      return String(ballot.rating);
    case 'text':
      return ballot.text;
  }
}

const list = (line: string, between: string): number[] =>
  line === '' ? [] : line.split(between).map(Number);

/** The ballot a line stands for, by the kind of poll it was cast in. */
export function decodeBallot(kind: Poll['kind'], line: string): Ballot {
  switch (kind) {
    case 'single':
    case 'several':
    case 'approval':
      return { kind: 'choices', choices: list(line, ',') };
    case 'ranking':
      return { kind: 'ranking', ranking: list(line, '>') };
    case 'dates':
      return {
        kind: 'dates',
        answers: Object.fromEntries(
          line.split(',').map((part) => {
            const mark = part.slice(-1);
            const answer = DATE_ANSWERS.find((each) => DATE_MARKS[each] === mark) ?? 'no';
            return [Number(part.slice(0, -1)), answer];
          }),
        ),
      };
    case 'rating':
      return { kind: 'rating', rating: Number(line) };
    case 'text':
      return { kind: 'text', text: line };
  }
}

/** A ballot in words, for its voter, a table or a file. */
export function ballotWords(ballot: Ballot, labelOf: (id: number) => string): string {
  switch (ballot.kind) {
    case 'choices':
      return ballot.choices.map(labelOf).join('; ');
    case 'ranking':
      return ballot.ranking.map((id, i) => `${i + 1}. ${labelOf(id)}`).join('; ');
    case 'dates':
      return Object.entries(ballot.answers)
        .filter(([, answer]) => answer !== 'no')
        .map(([id, answer]) => `${labelOf(Number(id))}: ${answer}`)
        .join('; ');
    case 'rating':
      return String(ballot.rating);
    case 'text':
      return ballot.text;
  }
}

/** Some equal ballots. */
export interface Votes<T> {
  vote: T;
  n: number;
}
