import type { Image } from '../content/section.ts';

/** A named sender: whom what is said by itself comes from, with the picture that is shown beside it. */
export interface Sender {
  id: number;
  name: string;
  picture: Image | null;
  /** How many automations, drafts of them among them, and ways in speak under it. */
  automations: number;
  waysIn: number;
}
