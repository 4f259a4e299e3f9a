import { useRef, useState, type SubmitEvent } from 'react';
import { useWatch } from 'react-hook-form';
import type { NewPost } from '../core/boards/board.ts';
import { callsOf, EMPTY_DOCUMENT } from '../core/content/document.ts';
import { people } from '../core/words.ts';
import { request, newKey } from './api.ts';
import { FilesField, ImageField } from './Attached.tsx';
import { Dialog } from './Dialog.tsx';
import { FormProblem, TextField } from './form/fields.tsx';
import { UNKEPT, useKeptForm } from './form/useKeptForm.ts';
import { lazily } from './lazily.tsx';
import { LazyEditor } from './LazyEditor.tsx';
import { Notice } from './Notice.tsx';
import { useAwake } from './useAwake.ts';

// Most posts have one image or none.
const GalleryField = lazily(
  () => import('./GalleryField.tsx').then((module) => module.GalleryField),
  () => null,
);

const EMPTY: NewPost = { title: '', document: EMPTY_DOCUMENT, image: null, gallery: [], files: [] };

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
  const key = useRef<string | null>(null);
  const form = useKeptForm<NewPost>({
    keep: postId === undefined ? `post:${boardId}` : null,
    values: first ?? EMPTY,
    send: async (post) => {
      // The same post keeps its key until it is up, so that pressing again after a lost answer posts it once.
      key.current ??= newKey();
      const { state } = await (postId === undefined
        ? request('POST', `/api/boards/${boardId}/posts`, post, key.current)
        : request('PUT', `/api/posts/${postId}`, post));
      key.current = null;
      onDone(state);
    },
  });
  const [reach, setReach] = useState<{ people: number; whom: string }>();
  const [document, image, gallery, files] = useWatch({
    control: form.control,
    name: ['document', 'image', 'gallery', 'files'],
  });
  const calls = callsOf([document]).mentions.some((each) => each.kind !== 'person');
  const send = async (event?: SubmitEvent): Promise<void> => {
    await form.submit(event);
    setReach(undefined);
  };
  const submit = async (event: SubmitEvent): Promise<void> => {
    if (postId !== undefined || !(warns || calls) || form.getValues('title').trim() === '') {
      await send(event);
      return;
    }
    event.preventDefault();
    await form.attempt(async () => setReach(await request('GET', `/api/boards/${boardId}/reach`)));
  };
  const set = <Name extends 'document' | 'image' | 'gallery' | 'files'>(
    name: Name,
    value: NewPost[Name],
  ): void => form.setValue(name, value as never, { shouldDirty: true });
  const { errors, isSubmitting } = form.formState;

  return (
    <form className="flex flex-col gap-3" onSubmit={(event) => void submit(event)} noValidate>
      {denied === null ? null : <Notice tone="warning">{denied} What you wrote is kept here.</Notice>}
      {held === null ? null : <p className="border-l-4 border-warning bg-base-200 px-3 py-2">{held}</p>}
      {quoting ? null : <TextField form={form} name="title" label="Title" />}
      <LazyEditor
        key={form.turn}
        plain
        label="Text"
        names={`/api/boards/${boardId}/names`}
        document={document}
        onChange={(written) => set('document', written)}
      />
      {errors.document === undefined ? null : <span className="text-error">{errors.document.message}</span>}
      {quoting ? null : (
        <div className="flex flex-wrap gap-3">
          <ImageField
            image={image}
            onChange={(chosen) => set('image', chosen)}
            problem={errors.image?.alt?.message}
          />
          {image ? (
            <GalleryField
              images={gallery}
              about={(at) => errors.gallery?.[at]?.alt?.message}
              onChange={(chosen) => set('gallery', chosen)}
            />
          ) : null}
          <FilesField files={files} onChange={(chosen) => set('files', chosen)} />
        </div>
      )}
      {form.unkept ? <Notice tone="warning">{UNKEPT}</Notice> : null}
      <FormProblem form={form} />
      <div className="flex flex-wrap gap-3">
        <button className="btn btn-primary" disabled={isSubmitting || !awake || denied !== null}>
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
            form.leave();
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
        busy={isSubmitting}
        onPost={() => void send()}
        onClose={() => setReach(undefined)}
      />
    </form>
  );
}
