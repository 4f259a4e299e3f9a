import { act, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { describe, expect, it } from 'vitest';
import { NameCombo, type Found } from '../../src/ui/NameCombo.tsx';
import { pathWith, refetch, useServer, useServerPages } from '../../src/ui/server.ts';
import { Sortable, useInOrder } from '../../src/ui/Sortable.tsx';
import { answerWith, sent, tellLive } from './page.ts';

const person = (id: number, name: string): Found => ({ kind: 'person', id, name, detail: '' });

describe('finding a name', () => {
  it('shows what the last letters find, however late the answer to earlier ones comes', async () => {
    const user = userEvent.setup();
    const late: (() => void)[] = [];
    answerWith(({ path }) => {
      if (path.endsWith('q=a'))
        return new Promise((resolve) => late.push(() => resolve({ body: [person(1, 'Adam')] })));
      return { body: [person(2, 'Ada'), { ...person(3, 'Adams'), kind: 'group' }] };
    });
    const chosen: Found[] = [];
    render(<NameCombo label="Whom" onChoose={(name) => chosen.push(name)} />);
    const field = screen.getByRole('combobox', { name: 'Whom' });
    await user.type(field, 'ad');
    await screen.findByRole('option', { name: 'Ada' });
    await act(async () => {
      for (const answer of late) answer();
      await Promise.resolve();
    });
    // Groups are left out where only people are wanted.
    expect(screen.getAllByRole('option').map((each) => each.textContent)).toEqual(['Ada']);
    await user.keyboard('{ArrowDown}{Enter}');
    expect(chosen.map((each) => each.id)).toEqual([2]);
    expect(screen.getByRole<HTMLInputElement>('combobox', { name: 'Whom' }).value).toBe('');
  });

  it('says that there is nobody of that name, and that names cannot be fetched', async () => {
    const user = userEvent.setup();
    answerWith(() => ({ body: [] }));
    render(<NameCombo label="Whom" from="/api/authors" onChoose={() => undefined} />);
    await user.type(screen.getByRole('combobox'), 'zz');
    await screen.findByText(/^Nobody of that name\./);
    answerWith(() => ({ status: 403, body: { detail: 'Not for you.' } }));
    await user.type(screen.getByRole('combobox'), 'z');
    await screen.findByText('Not for you.');
  });
});

interface Page {
  names: string[];
  next: number | null;
}

function List({ search }: { search: string }) {
  const list = useServerPages<never, number, Page>({
    path: (after) => pathWith('/api/list' as never, { search, after }),
    next: (page) => page.next,
    first: { path: '/api/list', page: { names: ['first'], next: 1 } },
  });
  return (
    <>
      <ul>
        {(list.data?.pages ?? [])
          .flatMap((page) => page.names)
          .map((name) => (
            <li key={name}>{name}</li>
          ))}
      </ul>
      {list.error ? <p>{list.error.message}</p> : null}
      {list.hasNextPage ? <button onClick={() => void list.fetchNextPage()}>More</button> : null}
    </>
  );
}
const shown = (): (string | null)[] => screen.getAllByRole('listitem').map((each) => each.textContent);

describe('a list that comes page by page', () => {
  it('begins with what the page came with, goes on after it, and is another list for another search', async () => {
    const user = userEvent.setup();
    answerWith(({ path }) =>
      path.includes('search=b')
        ? { body: { names: ['b'], next: null } }
        : { body: { names: ['second'], next: null } },
    );
    const { rerender } = render(<List search="" />);
    expect(shown()).toEqual(['first']);
    expect(sent).toEqual([]);
    await user.click(screen.getByRole('button', { name: 'More' }));
    await waitFor(() => expect(shown()).toEqual(['first', 'second']));
    expect(sent.map((each) => each.path)).toEqual(['/api/list?after=1']);
    rerender(<List search="b" />);
    // What was there stays in sight until the other has come.
    expect(shown()).toEqual(['first', 'second']);
    await waitFor(() => expect(shown()).toEqual(['b']));
  });

  it('is fetched again after a change here, and keeps what was read where that fails', async () => {
    let names = ['before'];
    answerWith(() => ({ body: names }));
    function Names() {
      const { data, error } = useServer<never, string[]>('/api/names-of-all' as never);
      return (
        <p>
          {data?.join()} {error?.message}
        </p>
      );
    }
    render(<Names />);
    await screen.findByText(/before/);
    names = ['after'];
    await act(() => refetch('/api/names-of-all'));
    await screen.findByText(/after/);
    answerWith(() => ({ status: 500, body: { detail: 'It is broken.' } }));
    await act(() => refetch('/api/names-of-all'));
    expect((await screen.findByText(/It is broken/)).textContent).toContain('after');
  });
});

describe('what is told live', () => {
  it('follows what came: something planned while one looks is listened to as well', async () => {
    let parts = [1];
    answerWith(() => ({ body: parts }));
    function Parts() {
      const { data } = useServer<never, number[]>('/api/parts' as never, {
        first: [1],
        topics: (found) => ['whole', ...found.map((part) => `part:${part}`)],
      });
      return <p>{data?.join()}</p>;
    }
    render(<Parts />);
    parts = [1, 2];
    await waitFor(() => expect(tellLive('whole')).toBe(true));
    await screen.findByText('1,2');
    parts = [1, 2, 3];
    await waitFor(() => expect(tellLive('part:2')).toBe(true));
    await screen.findByText('1,2,3');
  });
});

function Item({ id }: { id: string }) {
  const { ref, handle } = useInOrder(id);
  return (
    <li ref={ref}>
      {id}
      {handle}
    </li>
  );
}
function Ordered() {
  const [ids, setIds] = useState(['a', 'b', 'c']);
  return (
    <Sortable ids={ids} nameOf={(id) => `thing ${id}`} onOrder={setIds}>
      <ol>
        {ids.map((id) => (
          <Item key={id} id={id} />
        ))}
      </ol>
    </Sortable>
  );
}

describe('what stands in an order', () => {
  it('is moved by the arrow keys of its handle, not past an end, and says its place', async () => {
    const user = userEvent.setup();
    render(<Ordered />);
    screen.getByRole('button', { name: 'Move thing a, place 1 of 3' }).focus();
    await user.keyboard('{ArrowUp}');
    expect(shown()).toEqual(['a', 'b', 'c']);
    await user.keyboard('{ArrowDown}');
    expect(shown()).toEqual(['b', 'a', 'c']);
    // The focus goes with it, so that it can be moved on.
    expect(document.activeElement).toBe(screen.getByRole('button', { name: 'Move thing a, place 2 of 3' }));
    await user.keyboard('{ArrowDown}{ArrowDown}');
    expect(shown()).toEqual(['b', 'c', 'a']);
  });
});
