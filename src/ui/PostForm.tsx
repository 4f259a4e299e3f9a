import { useEffect, useRef, useState, type SubmitEvent } from 'react';
import type { NewPost } from '../core/boards/board.ts';
import { callsOf, EMPTY_DOCUMENT } from '../core/content/document.ts';
import { people } from '../core/words.ts';
import { ApiProblem, request, newKey, wordsOf } from './api.ts';
import { FilesField, ImageField } from './Attached.tsx';
import { Dialog } from './Dialog.tsx';
import { lazily } from './lazily.tsx';
import { LazyEditor } from './LazyEditor.tsx';
import { Notice } from './Notice.tsx';
import { UNKEPT, useKeptText } from './useKeptText.ts';
import { useAwake } from './useAwake.ts';

// Most posts have one image or none.
const GalleryField = lazily(
  () => import('./GalleryField.tsx').then((module) => module.GalleryField),
  () => null,
);

const EMPTY: NewPost = { title: '', document: EMPTY_DOCUMENT, image: null, gallery: [], files: [] };

/** Leaving the page asks first, as long as something is written. */
function useStaysWhile(written: boolean): void {
  useEffect(() => {
    if (!written) return undefined;
    const stay = (event: BeforeUnloadEvent): void => event.preventDefault();
    addEventListener('beforeunload', stay);
    return () => removeEventListener('beforeunload', stay);
  }, [written]);
}

/** The last question before a post goes up: how many it reaches. */
function ReachQuestion({
  reach,
  boardName,
  calls,
  busy,
  onPost,
  onClose,
}: {
  /** Undefined where nothing is asked. */
  reach: { people: number; whom: string } | undefined;
  boardName: string;
  /** Whether it calls on a group by name. */
  calls: boolean;
  busy: boolean;
  onPost: () => void;
  onClose: () => void;
}) {
  return (
    <Dialog
      open={reach !== undefined}
      title={reach ? `This reaches ${people(reach.people)}` : ''}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Not yet
          </button>
          <button type="button" className="btn btn-primary" disabled={busy} onClick={onPost}>
            Post to {reach ? people(reach.people) : ''}
          </button>
        </>
      }
    >
      <p>
        Everybody in <strong>{reach?.whom}</strong> can read it on {boardName}
        {calls ? ', and those you call on are told of it' : ''}.
      </p>
    </Dialog>
  );
}

/**
 * Where a post is written, or written anew. What it says before it goes up: that it waits, where it does, and how many it
 * reaches, where the board warns or everybody is called on.
 */
export function PostForm({
  boardId,
  boardName,
  first,
  postId,
  held,
  denied = null,
  quoting = false,
  warns,
  onDone,
  onCancel,
}: {
  boardId: number;
  boardName: string;
  /** A post as it was, that is written anew. */
  first?: NewPost;
  postId?: number;
  held: string | null;
  /** Why one may not post here any more; what was written stays. */
  denied?: string | null;
  /** Whether it passes another post on, and so has words alone. */
  quoting?: boolean;
  warns: boolean;
  onDone: (state: 'up' | 'held') => void;
  onCancel: () => void;
}) {
  const awake = useAwake();
  const {
    text: post,
    set: setPost,
    sent,
    unkept,
    back,
  } = useKeptText<NewPost>(postId === undefined ? `post:${boardId}` : null, first ?? EMPTY);
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const [reach, setReach] = useState<{ people: number; whom: string }>();
  const key = useRef<string | null>(null);
  const calls = callsOf([post.document]).mentions.some((each) => each.kind !== 'person');
  const change = (part: Partial<NewPost>): void => setPost({ ...post, ...part });

  const send = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    // The same post keeps its key until it is up, so that pressing again after a lost answer posts it once.
    key.current ??= newKey();
    try {
      const { state } = await (postId === undefined
        ? request('POST', `/api/boards/${boardId}/posts`, post, key.current)
        : request('PUT', `/api/posts/${postId}`, post));
      key.current = null;
      sent();
      onDone(state);
    } catch (error) {
      setProblem(error);
    } finally {
      setBusy(false);
      setReach(undefined);
    }
  };
  const submit = async (event: SubmitEvent): Promise<void> => {
    event.preventDefault();
    if (postId !== undefined || !(warns || calls) || post.title.trim() === '') {
      await send();
      return;
    }
    try {
      setReach(await request('GET', `/api/boards/${boardId}/reach`));
    } catch (error) {
      setProblem(error);
    }
  };
  const about = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const told = ['title', 'document', 'image.alt', ...post.gallery.map((_, at) => `gallery.${at}.alt`)].some(
    (field) => about(field) !== undefined,
  );

  // Leaving with something written asks first.
  const written =
    post.title !== (first?.title ?? '') || post.document !== (first?.document ?? EMPTY_DOCUMENT);
  useStaysWhile(written);

  return (
    <form className="flex flex-col gap-3" onSubmit={(event) => void submit(event)} noValidate>
      {denied === null ? null : <Notice tone="warning">{denied} What you wrote is kept here.</Notice>}
      {held === null ? null : <p className="border-l-4 border-warning bg-base-200 px-3 py-2">{held}</p>}
      {quoting ? null : (
        <label className="flex flex-col gap-1">
          Title
          <input
            className="input w-full"
            value={post.title}
            onChange={(event) => change({ title: event.target.value })}
            aria-invalid={about('title') !== undefined}
            dir="auto"
          />
          {about('title') === undefined ? null : <span className="text-error">{about('title')}</span>}
        </label>
      )}
      <LazyEditor
        key={back ? 'back' : 'new'}
        plain
        label="Text"
        names={`/api/boards/${boardId}/names`}
        document={post.document}
        onChange={(document) => change({ document })}
      />
      {about('document') === undefined ? null : <span className="text-error">{about('document')}</span>}
      {quoting ? null : (
        <div className="flex flex-wrap gap-3">
          <ImageField
            image={post.image}
            onChange={(image) => change({ image })}
            problem={about('image.alt')}
          />
          {post.image ? (
            <GalleryField
              images={post.gallery}
              about={(at) => about(`gallery.${at}.alt`)}
              onChange={(gallery) => change({ gallery })}
            />
          ) : null}
          <FilesField files={post.files} onChange={(files) => change({ files })} />
        </div>
      )}
      {unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
      {problem !== undefined && !told ? <Notice tone="error">{wordsOf(problem)}</Notice> : null}
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary" disabled={busy || !awake || denied !== null}>
          {postId !== undefined
            ? 'Save the change'
            : held === null
              ? `Post on ${boardName}`
              : 'Hand it to the moderators'}
        </button>
        <button
          type="button"
          className="btn btn-ghost"
          onClick={() => {
            sent();
            onCancel();
          }}
        >
          Leave it
        </button>
      </div>
      <ReachQuestion
        reach={reach}
        boardName={boardName}
        calls={calls}
        busy={busy}
        onPost={() => void send()}
        onClose={() => setReach(undefined)}
      />
    </form>
  );
}
