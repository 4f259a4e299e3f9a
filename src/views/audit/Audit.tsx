import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import { SUBJECT_WORDS, SUBJECTS, type AuditLine, type AuditPage } from '../../core/audit/deeds.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { DateField } from '../../ui/DateField.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';

const SOON_MS = 200;
const PATH = '/api/audit';

/** Where something a deed was about can be looked at; null where there is no such page. */
function pathOf({ subject, subjectId }: AuditLine): string | null {
  if (subjectId === null) return null;
  const at: Partial<Record<string, string>> = {
    person: '/person',
    group: '/groups',
    board: '/boards',
    announcement: '/write',
    occurrence: '/sends',
    series: '/series',
    import: '/people/import',
  };
  const place = at[subject];
  return place === undefined ? null : `${place}/${subjectId}`;
}

/** Who did what, the latest first, by name, kind and day. */
export default function Audit({
  first,
  begin,
  zone,
  nowMs,
}: {
  first: AuditPage;
  /** What the page came with, as its address says. */
  begin: { search: string; subject: string; from: string; to: string };
  zone: string;
  nowMs: number;
}) {
  const [search, setSearch] = useState(begin.search);
  const [sought] = useDebounce(search.trim(), SOON_MS);
  const [subject, setSubject] = useState(begin.subject);
  const [from, setFrom] = useState(begin.from);
  const [to, setTo] = useState(begin.to);
  const asked = { search: sought, subject, from, to };
  const pages = useServerPages({
    path: (before: number | null) => pathWith(PATH, { ...asked, before }),
    next: (page) => page.next,
    first: { path: pathWith(PATH, begin), page: first },
  });
  useInAddress(asked);
  const lines = (pages.data?.pages ?? []).flatMap((page) => page.lines);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">What was done</h1>
        <a className="btn btn-ghost" href="/rights">
          Rights
        </a>
        <a className="btn btn-outline" href={pathWith('/api/audit.csv', asked)} download>
          As CSV
        </a>
      </div>
      <div className="mb-5 grid items-end gap-3 sm:grid-cols-4">
        <label className="flex flex-col gap-1">
          Name
          <input
            type="search"
            className="input w-full"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1">
          About
          <select
            className="select w-full"
            value={subject}
            onChange={(event) => setSubject(event.target.value)}
          >
            <option value="">everything</option>
            {SUBJECTS.map((each) => (
              <option key={each} value={each}>
                {SUBJECT_WORDS[each]}
              </option>
            ))}
          </select>
        </label>
        <DateField label="From" value={from} onChange={setFrom} />
        <DateField label="To" value={to} onChange={setTo} />
      </div>
      {pages.error ? <Notice tone="error">{wordsOf(pages.error)}</Notice> : null}
      {lines.length === 0 && !pages.error ? (
        <p className="border-y border-base-300 py-3 text-quiet">
          {pages.isPending ? 'It is on its way.' : 'Nothing of the kind was done.'}
        </p>
      ) : (
        <ul className="ledger">
          {lines.map((line) => (
            <li key={line.id}>
              <time className="margin figure">{timeWords(line.atMs, zone)}</time>
              <span dir="auto">
                <span className="font-semibold">{line.actor?.name ?? 'Clear Bell'}</span>{' '}
                <Words line={line} />
              </span>
              <span className="state text-sm text-quiet">{dateWords(line.atMs, zone, nowMs)}</span>
            </li>
          ))}
        </ul>
      )}
      {pages.hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={pages.isFetchingNextPage}
          onClick={() => void pages.fetchNextPage()}
        >
          Earlier
        </button>
      ) : null}
    </>
  );
}

function Words({ line }: { line: AuditLine }) {
  const path = pathOf(line);
  return path === null ? (
    line.words
  ) : (
    <a className="link-quiet" href={path}>
      {line.words}
    </a>
  );
}
