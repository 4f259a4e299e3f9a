import type { Poll } from './poll.ts';
import type { PollKind } from './pollKinds.ts';

/** Options for a question that is often asked, with the kind of poll that suits it. */
export interface Suggestion {
  name: string;
  kind: PollKind;
  options: string[];
}

const SUGGESTIONS: (Suggestion & { words: RegExp })[] = [
  {
    name: 'Yes or no',
    kind: 'single',
    options: ['Yes', 'No', 'I do not know yet'],
    // Wherever the verb stands, as after a day: "On Friday, can you come?"; not where a word asks for more than yes or no.
    words:
      /^(?!.*\b(what|which|who|whom|when|where|how|why)\b).*\b(will|would|can|could|do|does|did|is|are|shall|should|have|has)\b/i,
  },
  {
    name: 'Coming or not',
    kind: 'single',
    options: ['I am coming', 'I am coming from afar, by video', 'I cannot come'],
    words: /\b(com(e|ing)|attend\w*|join\w*|take part|there)\b/i,
  },
  {
    name: 'What to eat',
    kind: 'single',
    options: ['Everything', 'Vegetarian', 'Vegan', 'Without gluten', 'I eat nothing there'],
    words: /\b(eat|food|meals?|lunch|dinner|supper|breakfast|menu|soup)\b/i,
  },
  {
    name: 'Days of the week',
    kind: 'several',
    options: ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday'],
    words: /\b(days?|week|weekday|when|which day)\b/i,
  },
  {
    name: 'Part of the day',
    kind: 'single',
    options: ['Early morning', 'Late morning', 'Afternoon', 'Evening'],
    words: /\b(time|hour|morning|afternoon|evening|when)\b/i,
  },
  {
    name: 'Size of clothing',
    kind: 'single',
    options: ['XS', 'S', 'M', 'L', 'XL', 'XXL'],
    words: /\b(sizes?|shirts?|jackets?|vests?|boots?|gloves?|clothing)\b/i,
  },
  {
    name: 'How much one agrees',
    kind: 'single',
    options: ['I agree', 'I rather agree', 'I rather disagree', 'I disagree', 'No opinion'],
    words: /\b(agree|opinion|think|feel)\b/i,
  },
  {
    name: 'For or against',
    kind: 'approval',
    options: [],
    words: /\b(approv\w+|adopt\w*|accept\w*|vote|resolution|minutes|budget|statutes?)\b/i,
  },
  {
    name: 'A rating from 1 to 5',
    kind: 'rating',
    options: [],
    words: /\b(how (good|well|useful|happy)|rate|rating|satisf\w+)\b/i,
  },
];

/** What suits a question, the likeliest first; for an empty question, all that there is. */
export function suggestionsFor(question: string): Suggestion[] {
  const found =
    question.trim() === '' ? SUGGESTIONS : SUGGESTIONS.filter((each) => each.words.test(question));
  return found.map(({ name, kind, options }) => ({ name, kind, options }));
}

/** A poll with a suggestion taken up; what was asked and how it is shown stay. */
export function withSuggestion(poll: Poll, { kind, options }: Suggestion): Poll {
  return { ...poll, kind, options: options.map((label) => ({ label, at: null })), limit: null };
}
