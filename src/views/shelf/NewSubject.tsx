import { useState } from 'react';
import type { Subject } from '../../core/shelf/shelf.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

/** A subject to be added to the shelf. */
export function NewSubject({ subjects, onDone }: { subjects: readonly Subject[]; onDone: () => void }) {
  const [name, setName] = useState('');
  const [parent, setParent] = useState('');
  const [error, setError] = useState<string>();
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        setError(undefined);
        request('POST', '/api/shelf/subjects', {
          name,
          parentId: parent === '' ? null : Number(parent),
        }).then(
          () => {
            setName('');
            onDone();
          },
          (problem: unknown) => setError(wordsOf(problem)),
        );
      }}
    >
      <label className="flex flex-col gap-1">
        New subject
        <input
          className="input"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="flex flex-col gap-1">
        Within
        <select className="select" value={parent} onChange={(event) => setParent(event.target.value)}>
          <option value="">nothing: it stands by itself</option>
          {subjects
            .filter((each) => each.parentId === null)
            .map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
        </select>
      </label>
      <button className="btn btn-outline">Add the subject</button>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </form>
  );
}
