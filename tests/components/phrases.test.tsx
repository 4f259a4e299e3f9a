import { render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, it } from 'vitest';
import type { AudienceChoices } from '../../src/core/audience/choices.ts';
import type { Audience } from '../../src/core/audience/expression.ts';
import type { ReactionCounts } from '../../src/core/boards/reaction.ts';
import { keep, kept } from '../../src/ui/kept.ts';
import Offline from '../../src/ui/Offline.tsx';
import { Phrases } from '../../src/ui/Phrases.tsx';
import { Reactions } from '../../src/ui/Reactions.tsx';
import { answerWith, sent } from './page.ts';

const choices: AudienceChoices = {
  groups: [{ id: 1, name: 'Vault keyholders', kind: 'fixed', needsClearance: false }],
  archived: [{ id: 2, name: 'Old hands' }],
  anybody: true,
  stations: [{ id: 3, name: 'Sant Elm', zone: 'Europe/Madrid' }],
  occupations: ['driver', 'curator'],
  attributes: [{ name: 'key', values: ['yes', 'no'] }],
  asks: [{ occurrenceId: 7, title: 'Road closed', dueMs: Date.parse('2026-11-30T09:00:00Z') }],
  sessions: [],
  saved: [],
  recent: [],
};

describe('an audience as phrases', () => {
  function Rule({ begin, told }: { begin: Audience | null; told: (audience: Audience | null) => void }) {
    const [audience, setAudience] = useState(begin);
    return (
      <Phrases
        audience={audience}
        label="Who belongs to it"
        choices={choices}
        onChange={(next) => {
          setAudience(next);
          told(next);
        }}
      />
    );
  }
  const open = (begin: Audience | null) => {
    const told: (Audience | null)[] = [];
    render(<Rule begin={begin} told={(next) => told.push(next)} />);
    const phrases = (): string[] => {
      const list = screen.queryByRole('list', { name: 'Who belongs to it' });
      return list
        ? within(list)
            .getAllByRole('listitem')
            .map((each) => each.textContent.replace('×', '').trim())
        : [];
    };
    return { user: userEvent.setup(), told, phrases };
  };

  it('takes terms in on their side, each on one only, and takes them out again', async () => {
    const { user, told, phrases } = open(null);
    expect(screen.getByText(/No phrase yet/)).toBeDefined();
    await user.click(screen.getByRole('checkbox', { name: 'Begin with everyone' }));
    await user.selectOptions(screen.getByRole('combobox', { name: 'Add' }), 'except');
    await user.selectOptions(screen.getByRole('combobox', { name: 'Which' }), 'Sant Elm');
    expect(phrases()).toEqual(['To everyone', 'Except everyone at Sant Elm']);
    // On another side it is there, and no more where it was.
    await user.selectOptions(screen.getByRole('combobox', { name: 'Add' }), 'also');
    await user.selectOptions(screen.getByRole('combobox', { name: 'Which' }), 'Sant Elm');
    expect(phrases()).toEqual(['To everyone', 'Only everyone at Sant Elm']);
    await user.selectOptions(screen.getByRole('combobox', { name: 'Chosen by' }), 'an earlier ask');
    await user.selectOptions(screen.getByRole('combobox', { name: 'Which' }), '7false');
    expect(phrases()).toContain('Only those who have not answered “Road closed”');
    await user.click(screen.getByRole('button', { name: 'Take out: everyone at Sant Elm' }));
    await user.click(screen.getByRole('button', { name: /^Take out: those who have not/ }));
    expect(told.at(-1)).toEqual({ kind: 'everyone' });
    await user.click(screen.getByRole('checkbox', { name: 'Begin with everyone' }));
    expect(phrases()).toEqual([]);
  });

  it('refuses a number of days that is none at its field, and takes one that is', async () => {
    const { user, told, phrases } = open(null);
    await user.selectOptions(screen.getByRole('combobox', { name: 'Chosen by' }), 'when they joined');
    const days = screen.getByRole('spinbutton', { name: /in the last so many days/ });
    const [add] = screen.getAllByRole('button', { name: 'Add' });
    for (const wrong of ['0', '3661', '1.5', '']) {
      await user.clear(days);
      if (wrong !== '') await user.type(days, wrong);
      await user.click(add!);
      expect(screen.getByRole('alert').textContent).toBe('Write a whole number from 1 to 3660.');
      expect(days.getAttribute('aria-invalid')).toBe('true');
    }
    expect(told).toEqual([]);
    await user.clear(days);
    await user.type(days, '30');
    expect(screen.queryByRole('alert')).toBeNull();
    await user.click(add!);
    expect(phrases()).toEqual(['To those who joined in the last 30 days']);
  });

  it('says of what is gone that it is, and begins anew where a rule says more than phrases can', async () => {
    const gone = open({
      kind: 'any',
      of: [
        { kind: 'group', id: 2 },
        { kind: 'group', id: 9 },
      ],
    });
    expect(gone.phrases()).toEqual(['To Old hands', 'To a group that no longer exists']);
    const nested = open({
      kind: 'any',
      of: [
        {
          kind: 'all',
          of: [
            { kind: 'station', id: 3 },
            { kind: 'not', of: { kind: 'group', id: 1 } },
          ],
        },
        {
          kind: 'all',
          of: [
            { kind: 'group', id: 2 },
            { kind: 'not', of: { kind: 'station', id: 3 } },
          ],
        },
      ],
    } as Audience);
    await nested.user.click(screen.getByRole('button', { name: 'Begin anew' }));
    expect(nested.told).toEqual([null]);
  });
});

describe('reactions', () => {
  const show = (counts: ReactionCounts, may = true) => {
    const problems: unknown[] = [];
    const element = (now: ReactionCounts) => (
      <Reactions subject="post" id={5} counts={now} may={may} onError={(problem) => problems.push(problem)} />
    );
    const page = render(element(counts));
    return { user: userEvent.setup(), problems, now: (next: ReactionCounts) => page.rerender(element(next)) };
  };
  const reads = (): string[] =>
    screen
      .getAllByRole('button', { name: /: \d+$/ })
      .map(
        (each) =>
          `${each.getAttribute('aria-label')}${each.getAttribute('aria-pressed') === 'true' ? ', mine' : ''}`,
      );

  it('show at once, count once what comes back from the server, and one that is refused takes back no other', async () => {
    let refuse: (() => void) | undefined;
    answerWith(({ path, body }) => {
      if (path !== '/api/reactions') return undefined;
      if ((body as { kind: string }).kind !== 'heard') return { body: null };
      const refused = { status: 403, body: { title: 'No', status: 403, detail: 'The board is closed.' } };
      return new Promise((resolve) => {
        refuse = () => resolve(refused);
      });
    });
    const counts = { glad: { n: 2, mine: false }, heard: { n: 1, mine: false } };
    const { user, problems, now } = show(counts);
    await user.click(screen.getByRole('button', { name: 'Heard: 1' }));
    await user.click(screen.getByRole('button', { name: 'Glad of it: 2' }));
    expect(reads()).toEqual(['Glad of it: 3, mine', 'Heard: 2, mine']);
    refuse?.();
    await waitFor(() => expect(problems).toHaveLength(1));
    expect(reads()).toEqual(['Glad of it: 3, mine', 'Heard: 1']);
    now({ glad: { n: 3, mine: true }, heard: { n: 1, mine: false } });
    expect(reads()).toEqual(['Glad of it: 3, mine', 'Heard: 1']);
    await user.click(screen.getByRole('button', { name: 'Glad of it: 3' }));
    expect(reads()).toEqual(['Glad of it: 2', 'Heard: 1']);
    expect(sent.at(-1)?.body).toEqual({ subject: 'post', id: 5, kind: 'glad', given: false });
  });

  it('that is refused after counts have come takes nothing back of what was pressed since', async () => {
    let refuse: (() => void) | undefined;
    answerWith(({ path, body }) => {
      if (path !== '/api/reactions') return undefined;
      if ((body as { kind: string }).kind !== 'heard') return { body: null };
      return new Promise((resolve) => {
        refuse = () => resolve({ status: 403, body: { title: 'No', status: 403, detail: 'Closed.' } });
      });
    });
    const { user, problems, now } = show({ glad: { n: 2, mine: false }, heard: { n: 1, mine: false } });
    await user.click(screen.getByRole('button', { name: 'Heard: 1' }));
    now({ glad: { n: 5, mine: false }, heard: { n: 1, mine: false } });
    await user.click(screen.getByRole('button', { name: 'Glad of it: 5' }));
    refuse?.();
    await waitFor(() => expect(problems).toHaveLength(1));
    expect(reads()).toEqual(['Glad of it: 6, mine', 'Heard: 1']);
  });

  it('are offered where there is none yet, and are read only where one may not react', async () => {
    answerWith(({ path }) => (path === '/api/reactions' ? { body: null } : undefined));
    const { user } = show({});
    await user.click(screen.getByRole('button', { name: 'React' }));
    await user.click(screen.getByRole('button', { name: /I can help/ }));
    expect(reads()).toEqual(['I can help: 1, mine']);
    show({ wonder: { n: 4, mine: false } }, false);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'I wonder: 4' }).disabled).toBe(true);
  });
});

describe('a page without a connection', () => {
  it('says so until there is one again, and leads back here once the session has ended', async () => {
    render(<Offline me={4} />);
    const tell = (kind: string): void => void dispatchEvent(new Event(kind));
    expect(screen.queryByRole('status')).toBeNull();
    tell('unreachable');
    expect((await screen.findByRole('status')).textContent).toMatch(/No connection/);
    tell('reachable');
    await waitFor(() => expect(screen.queryByRole('status')).toBeNull());
    history.pushState(null, '', '/boards/3?from=2026-12-01');
    tell('session-over');
    const link = (await screen.findByRole('alert')).querySelector('a');
    expect(link?.getAttribute('href')).toBe('/sign-in?next=%2Fboards%2F3%3Ffrom%3D2026-12-01');
  });

  it('is one of whoever is signed in: what another read on this device is forgotten, and their own texts stay', async () => {
    keep('pages-of', 4, 'device');
    keep('draft', 'theirs', '4');
    render(<Offline me={5} />);
    await waitFor(() => expect(kept('pages-of', 'device')).toBe(5));
    expect(kept('draft', '4')).toBe('theirs');
    expect(kept('draft', '5')).toBeUndefined();
  });
});
