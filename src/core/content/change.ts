/** A part of a text as it is now: still there, put in, or taken out. */
export interface Change {
  kind: 'same' | 'in' | 'out';
  text: string;
}
