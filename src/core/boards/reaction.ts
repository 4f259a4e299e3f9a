/** The few ways to react, each with a word and a drawing of our own. */
export const REACTIONS = ['glad', 'heard', 'help', 'wonder', 'weight'] as const;
export type Reaction = (typeof REACTIONS)[number];

export const REACTION_WORDS: Record<Reaction, string> = {
  glad: 'Glad of it',
  heard: 'Heard',
  help: 'I can help',
  wonder: 'I wonder',
  weight: 'This weighs on me',
};

/** How often each was given, and which of them by the reader. */
export type ReactionCounts = Partial<Record<Reaction, { n: number; mine: boolean }>>;
