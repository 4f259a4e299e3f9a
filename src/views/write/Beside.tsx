import { useState } from 'react';
import type { EarlierText } from '../../core/content/announcement.ts';
import type { DraftComment } from '../../core/desk/comment.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { request, wordsOf } from '../../ui/api.ts';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import type { Change } from '../../core/content/change.ts';
import { Changes } from '../../ui/Changes.tsx';
import { useServer, setServer } from '../../ui/server.ts';

/** What colleagues say of the draft, beside it. Calling somebody by name puts it under what needs them. */
export function Comments({
  draftId,
  first,
  zone,
  nowMs,
}: {
  draftId: number;
  first: DraftComment[];
  zone: string;
  nowMs: number;
}) {
  const path = `/api/announcements/${draftId}/comments` as const;
  const { data: comments = first } = useServer(path, { first, topics: [`draft:${draftId}`] });
  const [text, setText] = useState('');
  const [called, setCalled] = useState<{ id: number; name: string }[]>([]);
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const act = async (work: Promise<DraftComment[]>): Promise<boolean> => {
    setError(undefined);
    try {
      await setServer(path, await work);
      return true;
    } catch (problem) {
      setError(wordsOf(problem));
      return false;
    }
  };
  const say = async (): Promise<void> => {
    setBusy(true);
    const mentions = called.filter(({ name }) => text.includes(name)).map(({ id }) => id);
    if (await act(request('POST', `/api/announcements/${draftId}/comments`, { text, mentions }))) {
      setText('');
      setCalled([]);
    }
    setBusy(false);
  };
  const open = comments.filter((comment) => comment.settledMs === null).length;
  return (
    <details open={open > 0}>
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">
        Comments {comments.length > 0 ? <span className="font-normal text-quiet">{open} open</span> : null}
      </summary>
      <ul>
        {comments.map((comment) => (
          <li key={comment.id} className="border-t border-base-300 py-2">
            <p className="text-sm text-quiet">
              {comment.author}, <Moment at={comment.writtenMs} zone={zone} nowMs={nowMs} />
            </p>
            <p
              className={
                comment.settledMs === null
                  ? 'whitespace-pre-wrap'
                  : 'whitespace-pre-wrap text-quiet line-through'
              }
              dir="auto"
            >
              {comment.text}
            </p>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`${comment.settledMs === null ? 'Settle' : 'Open again'}: ${comment.text.slice(0, 40)}`}
              onClick={() =>
                void act(
                  request('PUT', `/api/announcements/${draftId}/comments/${comment.id}`, {
                    settled: comment.settledMs === null,
                  }),
                )
              }
            >
              {comment.settledMs === null
                ? 'Settle'
                : `Settled by ${comment.settledBy ?? 'somebody'}. Open again`}
            </button>
          </li>
        ))}
      </ul>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <label className="mt-2 flex flex-col gap-1">
        Comment
        <textarea
          className="textarea min-h-20 w-full"
          value={text}
          maxLength={2000}
          dir="auto"
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <div className="mt-2 flex flex-wrap items-end gap-2">
        <div className="min-w-44 grow">
          <NameSearch
            label="Call somebody by name"
            onChoose={({ id, name }) => {
              setCalled([...called, { id, name }]);
              setText((before) => `${before}${before === '' || before.endsWith(' ') ? '' : ' '}${name} `);
            }}
          />
        </div>
        <button
          type="button"
          className="btn btn-outline"
          disabled={busy || text.trim() === ''}
          onClick={() => void say()}
        >
          Comment
        </button>
      </div>
    </details>
  );
}

const KIND_WORDS: Record<EarlierText['kind'], string> = {
  sent: 'as it went out',
  overwritten: 'saved over by somebody else',
  saved: 'kept while writing',
  'for review': 'as it was handed on for review',
  chase: 'the text of its chases',
  cleared: 'as it was cleared',
};

/** The texts that were kept, each with what has changed since, and a way back to it. */
export function Versions({
  draftId,
  versions,
  zone,
  nowMs,
  onBringBack,
}: {
  draftId: number;
  versions: EarlierText[];
  zone: string;
  nowMs: number;
  onBringBack: (versionId: number) => void;
}) {
  const [shown, setShown] = useState<{ id: number; changes: Change[] } | null>(null);
  const [error, setError] = useState<string>();
  const show = async (id: number): Promise<void> => {
    if (shown?.id === id) {
      setShown(null);
      return;
    }
    try {
      setShown({ id, changes: await request('GET', `/api/announcements/${draftId}/changes/${id}`) });
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  if (versions.length === 0) return null;
  const over = versions.filter((version) => version.kind === 'overwritten').length;
  return (
    <details>
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">
        {over > 0 ? 'Texts that were saved over, and other versions' : 'Versions'}
      </summary>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <ul>
        {versions.map((version) => (
          <li key={version.id} className="border-t border-base-300 py-2">
            <span className="font-semibold" dir="auto">
              {version.title || 'Without a title'}
            </span>
            <p className="text-sm text-quiet">
              {version.author}, {dateWords(version.keptMs, zone, nowMs)} {timeWords(version.keptMs, zone)},{' '}
              {KIND_WORDS[version.kind]}
            </p>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-expanded={shown?.id === version.id}
              onClick={() => void show(version.id)}
            >
              What changed since
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              onClick={() => onBringBack(version.id)}
              aria-label={`Bring back ${version.title}`}
            >
              Bring back
            </button>
            {shown?.id === version.id ? (
              <Changes changes={shown.changes} none="Nothing in the text." />
            ) : null}
          </li>
        ))}
      </ul>
    </details>
  );
}

const DEED_WORDS: Record<string, string> = {
  'hand on for review': 'handed it on for review',
  clear: 'cleared it',
  'return to author': 'returned it to its author',
  'change after clearance': 'changed it after clearance',
  'change during review': 'changed it during review',
  comment: 'commented',
  send: 'sent or scheduled it',
  'change send': 'changed what recurs',
  'take back': 'took it back',
  'take back the rest': 'took back the rest of it',
  'send test': 'sent themselves a test',
  'open for change': 'opened it for a change',
  'open for correction': 'opened it for a correction',
  correct: 'corrected it',
  move: 'moved it to another time',
  pause: 'paused it',
  resume: 'let it go on',
  end: 'ended it',
  retry: 'tried failed mail again',
};

/** What was done with an announcement, by whom and when. */
export function History({ draftId, zone, nowMs }: { draftId: number; zone: string; nowMs: number }) {
  const [open, setOpen] = useState(false);
  const { data: deeds, error } = useServer(open ? `/api/announcements/${draftId}/history` : null, {
    topics: [`draft:${draftId}`],
  });
  return (
    <details onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">What was done</summary>
      {error ? <Notice tone="error">{wordsOf(error)}</Notice> : null}
      {!deeds && !error ? <p className="text-quiet">Looking …</p> : null}
      {deeds?.length === 0 ? <p className="text-quiet">Nothing but writing so far.</p> : null}
      <ul>
        {deeds?.map((deed, i) => (
          <li key={i} className="border-t border-base-300 py-1 text-sm">
            {deed.actor ?? 'Clear Bell'} {DEED_WORDS[deed.action] ?? deed.action}{' '}
            <span className="text-quiet">
              <Moment at={deed.atMs} zone={zone} nowMs={nowMs} />
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
