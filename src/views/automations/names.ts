import type { AutomationChoices } from '../../core/automation/choices.ts';
import type { AutomationNames, AutomationPhraseKey } from '../../core/automation/words.ts';

/** The names an automation is read with, from what it can be built from. */
export function namesFrom(choices: AutomationChoices): AutomationNames {
  const by =
    (list: readonly { id: number; name: string }[]) =>
    (id: number): string | undefined =>
      list.find((each) => each.id === id)?.name;
  return {
    group: by(choices.audience.groups),
    station: by(choices.audience.stations),
    person: (id) => choices.people[String(id)],
    occurrence: (id) => choices.audience.asks.find((each) => each.occurrenceId === id)?.title,
    session: (id) => choices.audience.sessions.find((each) => each.dateId === id)?.words,
    board: by(choices.boards),
    outside: by(choices.outside),
    sheet: by(choices.sheets),
    sender: by(choices.senders),
    source: by(choices.sources),
    hook: by(choices.hooks),
    calendarSession: (id) => choices.sessions.find((each) => each.id === id)?.title,
  };
}

/** What each phrase of an automation says. */
export const PHRASE_LABELS: Record<AutomationPhraseKey, string> = {
  when: 'What sets it off',
  if: 'What must hold',
  each: 'What it speaks of',
  lookup: 'What is looked up',
  tell: 'Who is told',
  due: 'At which hour',
  from: 'Whom it comes from',
  saying: 'What it says',
  otherwise: 'Who is told instead',
};
