import type { ComponentType } from 'react';
import type { Asking } from '../../../core/asks/ask.ts';
import type { Common } from '../../../core/asks/common.ts';
import type { Choices } from '../draft.ts';

export interface FieldsProps<A> {
  ask: A;
  choices: Choices;
  zone: string;
  nowMs: number;
  onChange: (ask: A) => void;
}

/** How the asks of one kind are written; `A` is an ask of that kind. */
export interface WrittenKind<A extends Asking> {
  /** What it begins as, with what it has in common with what was chosen before. */
  begin(common: Common): A;
  /** What of it is written besides what every ask has. */
  Fields: ComponentType<FieldsProps<A>>;
  /** Whether those who join later can be asked too. */
  joiners: boolean;
  /** It as its reader sees it; nothing of it can be pressed. */
  Preview: ComponentType<{ ask: A; zone: string; nowMs: number }>;
}
