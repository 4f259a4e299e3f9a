import { render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, it } from 'vitest';
import { OneOf } from '../../src/ui/OneOf.tsx';
import { Tabs } from '../../src/ui/Tabs.tsx';
import { FollowDialog } from '../../src/views/sheets/FollowDialog.tsx';
import { NewSubject } from '../../src/views/shelf/NewSubject.tsx';
import { WorkSettings } from '../../src/views/settings/WorkSettings.tsx';
import { answerWith, sent } from './page.ts';

const SPANS = ['day', 'week', 'fortnight'] as const;

function Spans({ onChosen }: { onChosen: (span: string) => void }) {
  const [span, setSpan] = useState<(typeof SPANS)[number]>('day');
  return (
    <>
      <button>Before</button>
      <OneOf
        label="How long"
        options={SPANS.map((value) => ({ value, words: value }))}
        value={span}
        onChange={(next) => {
          setSpan(next);
          onChosen(next);
        }}
      />
      <button>After</button>
    </>
  );
}

const VIEWS = ['board', 'mail', 'push'] as const;

function Views() {
  const [view, setView] = useState<(typeof VIEWS)[number]>('board');
  return (
    <Tabs label="Seen by" tabs={VIEWS} value={view} onChange={setView} besides={<p>As Maud sees it</p>}>
      It comes by {view}.
    </Tabs>
  );
}

describe('one of a few', () => {
  it('is one stop of the tab key, whose arrows go along and whose space bar chooses', async () => {
    const user = userEvent.setup();
    const chosen: string[] = [];
    render(<Spans onChosen={(span) => chosen.push(span)} />);
    const group = screen.getByRole('radiogroup', { name: 'How long' });
    const is = (): string[] =>
      within(group)
        .getAllByRole('radio', { checked: true })
        .map((each) => each.textContent);
    expect(is()).toEqual(['day']);
    screen.getByText('Before').focus();
    await user.tab();
    expect(document.activeElement?.textContent).toBe('day');
    await user.keyboard('{ArrowRight}');
    expect(document.activeElement?.textContent).toBe('week');
    expect(is()).toEqual(['day']);
    await user.keyboard(' ');
    expect(is()).toEqual(['week']);
    await user.tab();
    expect(document.activeElement?.textContent).toBe('After');
    expect(chosen).toEqual(['week']);
  });

  it('is never none of them: the chosen one pressed again stays, and nothing is said of it', async () => {
    const user = userEvent.setup();
    const chosen: string[] = [];
    render(<Spans onChosen={(span) => chosen.push(span)} />);
    await user.click(screen.getByRole('radio', { name: 'day' }));
    expect(screen.getByRole('radio', { name: 'day' }).getAttribute('aria-checked')).toBe('true');
    await user.click(screen.getByRole('radio', { name: 'fortnight' }));
    expect(chosen).toEqual(['fortnight']);
  });
});

describe('ways to look at one thing', () => {
  it('show the one whose tab is chosen, by press or by arrow, and what stands beside stays', async () => {
    const user = userEvent.setup();
    render(<Views />);
    expect(screen.getByRole('tabpanel').textContent).toBe('It comes by board.');
    await user.click(screen.getByRole('tab', { name: 'mail' }));
    expect(screen.getByRole('tabpanel').textContent).toBe('It comes by mail.');
    await user.keyboard('{ArrowRight}');
    expect(screen.getByRole('tabpanel').textContent).toBe('It comes by push.');
    expect(screen.getAllByRole('tab', { selected: true }).map((tab) => tab.textContent)).toEqual(['push']);
    // The panel says whose it is.
    expect(screen.getByRole('tabpanel').getAttribute('aria-labelledby')).toBe(
      screen.getByRole('tab', { name: 'push' }).id,
    );
    screen.getByText('As Maud sees it');
  });
});

describe('short forms', () => {
  it('a subject is added under another, and what is missing or refused stands at its field', async () => {
    const user = userEvent.setup();
    let added = 0;
    render(
      <NewSubject
        subjects={[{ id: 4, name: 'Vaults', parentId: null, answers: 0 }]}
        onDone={() => added++}
      />,
    );
    await user.click(screen.getByRole('button', { name: 'Add the subject' }));
    await screen.findByText('Give the subject a name');
    expect(sent).toEqual([]);
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'name', detail: 'There is one of this name.' }] },
    }));
    await user.type(screen.getByLabelText('New subject'), 'Keys');
    await user.selectOptions(screen.getByLabelText('Within'), 'Vaults');
    await user.click(screen.getByRole('button', { name: 'Add the subject' }));
    await screen.findByText('There is one of this name.');
    // What was filled in stays.
    expect(screen.getByLabelText<HTMLInputElement>('New subject').value).toBe('Keys');
    expect(added).toBe(0);
    answerWith(() => ({ body: { id: 9 } }));
    await user.click(screen.getByRole('button', { name: 'Add the subject' }));
    await waitFor(() => expect(added).toBe(1));
    expect(sent.at(-1)).toEqual({
      method: 'POST',
      path: '/api/shelf/subjects',
      body: { name: 'Keys', parentId: 4 },
    });
    expect(screen.getByLabelText<HTMLInputElement>('New subject').value).toBe('');
  });

  it('days away need a first day, and say so there', async () => {
    const user = userEvent.setup();
    render(<WorkSettings first={{ workDays: [1, 2], absences: [] }} />);
    await user.click(screen.getByRole('button', { name: 'I am away then' }));
    await screen.findByText('Choose the first day');
    expect(sent).toEqual([]);
  });

  it('a working day that is refused is shown as the server has it', async () => {
    const user = userEvent.setup();
    answerWith(({ method }) =>
      method === 'GET'
        ? { body: { workDays: [1], absences: [] } }
        : {
            status: 422,
            body: { detail: 'No.', errors: [{ field: 'workDays', detail: 'Choose one day at least' }] },
          },
    );
    render(<WorkSettings first={{ workDays: [1], absences: [] }} />);
    const monday = () => screen.getByRole<HTMLInputElement>('checkbox', { name: 'Monday' });
    await user.click(monday());
    await screen.findByText('Choose one day at least');
    await waitFor(() => expect(monday().checked).toBe(true));
  });
});

describe('an outside source of a sheet', () => {
  const SHEET = {
    id: 3,
    following: null,
    columns: [
      { id: 'a', name: 'Parcel', kind: 'text' },
      { id: 'b', name: 'State', kind: 'text' },
    ],
  };
  const LISTS = {
    lists: [
      {
        pointer: '/parcels',
        rows: 2,
        values: ['/id', '/parcel', '/state'].map((pointer) => ({ pointer, sample: 'x' })),
      },
    ],
    positions: [],
  };

  it('is looked at first, its columns guessed by their names; what the trial refuses stands at the address', async () => {
    const user = userEvent.setup();
    let closed = 0;
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'url', detail: 'It answers something that is no JSON.' }] },
    }));
    render(<FollowDialog sheet={SHEET as never} onClose={() => closed++} />);
    const url = await screen.findByLabelText('Its address, which answers in JSON');
    await user.clear(url);
    await user.type(url, 'https://parcels.example/list');
    const follow = screen.getByRole<HTMLButtonElement>('button', { name: 'Follow it' });
    expect(follow.disabled).toBe(true);
    await user.click(screen.getByRole('button', { name: 'Look at it' }));
    await waitFor(() => expect(url.getAttribute('aria-invalid')).toBe('true'));
    expect(document.getElementById(url.getAttribute('aria-describedby')!)!.textContent).toBe(
      'It answers something that is no JSON.',
    );
    expect(sent.at(-1)?.body).toEqual({ url: 'https://parcels.example/list', header: '', secret: '' });

    answerWith(() => ({ body: LISTS }));
    await user.click(screen.getByRole('button', { name: 'Look at it' }));
    const state = await screen.findByRole<HTMLSelectElement>('combobox', { name: 'State' });
    expect(state.value).toBe('/state');
    expect(url.getAttribute('aria-invalid')).toBe('false');
    await user.selectOptions(state, 'nothing from there: it is filled in here');
    await user.type(screen.getByLabelText('Secret'), 'letmein');
    await user.selectOptions(screen.getByLabelText('How often it is read'), '60');
    // What is refused of something that is chosen, and not filled in, is told under all of it.
    answerWith(() => ({
      status: 422,
      body: { detail: 'No.', errors: [{ field: 'source.columns', detail: 'That column is gone.' }] },
    }));
    await user.click(follow);
    await screen.findByText('That column is gone.');
    expect(closed).toBe(0);
    answerWith(() => ({ body: { trouble: 'not now' } }));
    await user.click(follow);
    await waitFor(() => expect(closed).toBe(1));
    expect(sent.filter(({ method }) => method === 'PUT').at(-1)).toEqual({
      method: 'PUT',
      path: '/api/sheets/3/source',
      body: {
        source: {
          url: 'https://parcels.example/list',
          header: '',
          everyMinutes: 60,
          rows: '/parcels',
          key: '/id',
          gone: '',
          after: '',
          columns: { a: '/parcel' },
        },
        secret: 'letmein',
        revision: null,
      },
    });
  });
});
