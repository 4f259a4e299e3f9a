import { useState, type RefObject } from 'react';
import { Dialog, Label, Popover, RadioButton, RadioField, RadioGroup } from 'react-aria-components';
import { request, requestAnywhere, wordsOf } from './api.ts';
import { forgetPages } from './kept.ts';

const THEMES = ['day', 'night', 'system'] as const;
export type Theme = (typeof THEMES)[number];
const WORDS: Record<Theme, string> = { day: 'Day', night: 'Night', system: 'As the device' };

export interface AccountPanelProps {
  trigger: RefObject<HTMLButtonElement | null>;
  role: string;
  theme: Theme;
  onClose: () => void;
}

/** What opens under one's own name: the choice of day or night, settings, and the ways out. */
export function AccountPanel({ trigger, role, theme, onClose }: AccountPanelProps) {
  const [problem, setProblem] = useState<string>();
  const act = async (work: () => Promise<void>): Promise<void> => {
    try {
      await work();
    } catch (error) {
      setProblem(wordsOf(error));
    }
  };
  const leave = (everywhere: boolean): Promise<void> =>
    act(async () => {
      const { to } = await requestAnywhere<{ to: string }>('POST', '/api/sign-out', { everywhere });
      await forgetPages();
      location.assign(to);
    });
  return (
    <Popover
      isOpen
      triggerRef={trigger}
      placement="bottom end"
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      className="floating z-50 w-64 border border-base-300 bg-base-100 p-4"
    >
      <Dialog aria-label="Your account" className="outline-none">
        <p className="text-quiet">Signed in as {role}.</p>
        <RadioGroup
          className="my-3"
          defaultValue={theme}
          onChange={(next) =>
            void act(async () => {
              await request('POST', '/api/theme', { theme: next as Theme });
              location.reload();
            })
          }
        >
          <Label className="text-sm text-quiet">Colours</Label>
          {THEMES.map((value) => (
            <RadioField key={value} value={value}>
              <RadioButton className="group flex min-h-9 cursor-pointer items-center gap-2">
                <span className="size-4 rounded-full border-2 border-base-content/60 group-data-[focus-visible]:ring-2 group-data-[selected]:border-[5px] group-data-[selected]:border-primary" />
                {WORDS[value]}
              </RadioButton>
            </RadioField>
          ))}
        </RadioGroup>
        {problem === undefined ? null : <p className="my-2 text-error">{problem}</p>}
        <a className="btn btn-ghost btn-block" href="/settings">
          Settings
        </a>
        <button type="button" className="btn btn-outline btn-block" onClick={() => void leave(false)}>
          Sign out
        </button>
        <button type="button" className="btn btn-ghost btn-block mt-2" onClick={() => void leave(true)}>
          Sign out everywhere
        </button>
      </Dialog>
    </Popover>
  );
}
