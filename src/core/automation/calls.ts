import type { Doc, Inline } from '../content/document.ts';
import { inlineOf } from '../content/document.ts';
import type { TemplateField } from '../content/field.ts';
import type { Tell } from './automation.ts';

/** What a text of an automation calls on that is only known when it speaks: each stands in it as a field. */
export const CALLS = ['mention.person', 'mention.everybody'] as const satisfies readonly TemplateField[];
export type Call = (typeof CALLS)[number];

export const CALL_WORDS: Readonly<Record<Call, string>> = {
  'mention.person': 'whoever it tells or is about',
  'mention.everybody': 'everybody on the board',
};

export const isCall = (name: string): name is Call => CALLS.some((each) => each === name);

export type Mention = Extract<Inline, { type: 'mention' }>['attrs'];

/** Whom each of these means when it speaks; nobody where that is not known, or it stands on no board. */
export type Called = Readonly<Record<Call, readonly Mention[]>>;

export const NOBODY_CALLED: Called = { 'mention.person': [], 'mention.everybody': [] };

/** Which of these some texts call on. */
export const callsIn = (docs: readonly Doc[]): Set<Call> =>
  new Set(
    docs
      .flatMap((doc) => doc.content.flatMap(inlineOf))
      .flatMap((part) => (part.type === 'field' && isCall(part.attrs.name) ? [part.attrs.name] : [])),
  );

/** Whether it tells nobody by name but whom it is about: then that person is the one it calls on. */
export const tellsNoOther = ({ to }: Pick<Tell, 'to'>): boolean =>
  to === null || to.kind === 'person' || to.kind === 'audience';
