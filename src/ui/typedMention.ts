import { Extension } from '@tiptap/core';
import { PluginKey } from '@tiptap/pm/state';
import { Suggestion, type SuggestionKeyDownProps, type SuggestionProps } from '@tiptap/suggestion';
import { request } from './api.ts';
import type { Found } from './NameCombo.tsx';
import type { FindsNames } from './NameCombo.tsx';
import { pathWith } from './server.ts';

/** What was found for the letters after an @, and where they stand on the screen. */
export interface Typed {
  letters: string;
  found: Found[];
  /** Which of them Enter takes. */
  at: number;
  place: { left: number; top: number } | null;
  take: (found: Found) => void;
}

export interface TypedMentionOptions {
  names: FindsNames;
  /** Told of what is being typed; null when nothing is. */
  onTyped: (typed: Typed | null) => void;
}

/** Typing @ and letters finds whom to call on: arrows choose, Enter or Tab takes, Escape leaves the letters as they are. */
export const TypedMention = Extension.create<TypedMentionOptions>({
  name: 'typedMention',
  addOptions: () => ({ names: '/api/names', onTyped: () => undefined }),
  addProseMirrorPlugins() {
    const { names, onTyped } = this.options;
    let typed: Typed | null = null;
    const show = (next: Typed | null): void => {
      typed = next;
      onTyped(next);
    };
    const follow = (props: SuggestionProps<Found, Found>): void => {
      const box = props.clientRect?.() ?? null;
      show({
        letters: props.query,
        found: props.items,
        at: Math.min(typed?.at ?? 0, Math.max(0, props.items.length - 1)),
        place: box && { left: box.left, top: box.bottom },
        take: (found) => props.command(found),
      });
    };
    return [
      Suggestion<Found, Found>({
        editor: this.editor,
        pluginKey: new PluginKey('typedMention'),
        char: '@',
        allowSpaces: true,
        items: async ({ query }) => {
          // A whole sentence after an @ is not a name any more.
          if (query.length > 40) return [];
          try {
            return await request('GET', pathWith(names, { q: query }));
          } catch {
            return [];
          }
        },
        command: ({ editor, range, props }) => {
          editor
            .chain()
            .focus()
            .insertContentAt(range, [
              { type: 'mention', attrs: { kind: props.kind, id: props.id, label: props.name } },
              { type: 'text', text: ' ' },
            ])
            .run();
        },
        render: () => ({
          onStart: follow,
          onUpdate: follow,
          onExit: () => show(null),
          onKeyDown: ({ event }: SuggestionKeyDownProps): boolean => {
            if (!typed || typed.found.length === 0) return false;
            const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
            if (step !== undefined) {
              const n = typed.found.length;
              show({ ...typed, at: (typed.at + step + n) % n });
              return true;
            }
            if (event.key === 'Enter' || event.key === 'Tab') {
              const found = typed.found[typed.at];
              if (found) typed.take(found);
              return found !== undefined;
            }
            if (event.key === 'Escape') {
              show(null);
              return true;
            }
            return false;
          },
        }),
      }),
    ];
  },
});
