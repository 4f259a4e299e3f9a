import { Clapperboard, ImagePlus, Paperclip } from 'lucide-react';
import { useContext, useState, type PointerEvent } from 'react';
import {
  filePath,
  fittingPlacement,
  imagePath,
  imageSize,
  MAX_ALT,
  MAX_FILES,
  PLACEMENTS,
  shownShare,
  type FileLink,
  type Image,
  type Placement,
} from '../core/content/section.ts';
import { bytesWords } from '../core/words.ts';
import { upload, wordsOf } from './api.ts';
import { FilesOf } from './filesOf.ts';
import { ImageFromAddress } from './ImageFromAddress.tsx';
import { Notice } from './Notice.tsx';

const PLACEMENT_WORDS: Record<Placement, string> = {
  whole: 'as it is',
  wide: 'across the column',
  beside: 'beside the text',
};

/** The images that can be added, as a field for files names kinds. */
export const IMAGE_KINDS = 'image/jpeg,image/png,image/webp,image/avif,image/gif';

/** Chooses a file; `keep` sends its bytes. Says what is wrong with it where something is. */
export function Choose({
  words,
  accept,
  keep,
}: {
  words: string;
  accept?: string;
  keep: (file: File) => Promise<void>;
}) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const send = async (file: File): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      await keep(file);
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setBusy(false);
  };
  const Icon = accept === IMAGE_KINDS ? ImagePlus : accept?.startsWith('video/') ? Clapperboard : Paperclip;
  return (
    <>
      <label className={`btn btn-outline btn-sm ${busy ? 'btn-disabled' : ''}`}>
        <Icon size={16} aria-hidden />
        {busy ? 'Sending …' : words}
        <input
          type="file"
          className="sr-only"
          {...(accept === undefined ? {} : { accept })}
          disabled={busy}
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            event.target.value = '';
            if (file) void send(file);
          }}
        />
      </label>
      {error === undefined ? null : (
        <div className="w-full">
          <Notice tone="error">{error}</Notice>
        </div>
      )}
    </>
  );
}

/** What a place makes of an image: what is cut away there, and how large it stands. */
function shapeWords(image: Image): string {
  const { width, height } = imageSize(image);
  const share = shownShare(image);
  const own = `${image.width} × ${image.height}`;
  const shape = image.placement === 'wide' ? '16 to 9' : 'a square';
  if (image.placement === 'whole')
    return `It has ${own} pixels and stands ${width} wide and ${height} high, uncut. Any shape fits here.`;
  return share >= 85
    ? `It has ${own} pixels and stands ${width} wide and ${height} high.`
    : `It has ${own} pixels and is cut to ${shape}: ${share} % of it shows, around the point marked. An image of that shape fits best; “as it is” shows all of this one.`;
}

/** The image of a section, or of a series: chosen, described, placed, and cut around the point that matters. */
export function ImageField({
  image,
  onChange,
  problem,
  words = 'Add an image',
}: {
  image: Image | null;
  onChange: (image: Image | null) => void;
  problem?: string | undefined;
  words?: string;
}) {
  const draft = useContext(FilesOf);
  const begin = (kept: Pick<Image, 'key' | 'width' | 'height'>): void =>
    onChange({ ...kept, alt: '', placement: fittingPlacement(kept), focus: { x: 50, y: 50 } });
  if (!image)
    return (
      <>
        <Choose
          words={words}
          accept={IMAGE_KINDS}
          keep={async (file) => begin(await upload<Pick<Image, 'key' | 'width' | 'height'>>(file, 'image'))}
        />
        <ImageFromAddress onKept={begin} />
      </>
    );
  const setFocus = (event: PointerEvent<HTMLButtonElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const part = (at: number, from: number, size: number): number =>
      Math.round(Math.min(100, Math.max(0, ((at - from) / size) * 100)));
    onChange({
      ...image,
      focus: { x: part(event.clientX, box.left, box.width), y: part(event.clientY, box.top, box.height) },
    });
  };
  const nudge = (x: number, y: number): void =>
    onChange({
      ...image,
      focus: {
        x: Math.min(100, Math.max(0, image.focus.x + x)),
        y: Math.min(100, Math.max(0, image.focus.y + y)),
      },
    });
  return (
    <fieldset className="flex w-full flex-wrap gap-4 border border-base-300 bg-base-100 p-3">
      <legend className="px-1 text-sm text-quiet">Image</legend>
      <button
        type="button"
        className="relative block w-44 cursor-crosshair"
        aria-label={`The point that stays in sight is ${image.focus.x} % from the left and ${image.focus.y} % from the top. Press elsewhere, or use the arrow keys, to move it.`}
        onPointerDown={setFocus}
        onKeyDown={(event) => {
          const step = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, -5], ArrowDown: [0, 5] }[
            event.key
          ];
          if (!step) return;
          event.preventDefault();
          nudge(step[0] ?? 0, step[1] ?? 0);
        }}
      >
        <img
          src={imagePath({ ...image, placement: 'whole' }, 'page') + draft}
          alt=""
          className="block w-full"
        />
        {image.placement === 'whole' ? null : (
          <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
            <circle
              cx={`${image.focus.x}%`}
              cy={`${image.focus.y}%`}
              r="9"
              fill="none"
              stroke="#fff"
              strokeWidth="4"
            />
            <circle
              cx={`${image.focus.x}%`}
              cy={`${image.focus.y}%`}
              r="9"
              fill="none"
              stroke="#a3312b"
              strokeWidth="2"
            />
          </svg>
        )}
      </button>
      <div className="flex min-w-56 grow flex-col gap-2">
        <label className="flex flex-col gap-1">
          What it shows, for those who cannot see it
          <input
            className="input w-full"
            value={image.alt}
            maxLength={MAX_ALT}
            aria-invalid={problem !== undefined}
            onChange={(event) => onChange({ ...image, alt: event.target.value })}
          />
          {problem === undefined ? null : <span className="text-error">{problem}</span>}
        </label>
        <div className="flex flex-wrap items-end gap-3">
          <label className="flex flex-col gap-1">
            It stands
            <select
              className="select"
              value={image.placement}
              onChange={(event) =>
                onChange({
                  ...image,
                  placement: PLACEMENTS.find((each) => each === event.target.value) ?? 'whole',
                })
              }
            >
              {PLACEMENTS.map((each) => (
                <option key={each} value={each}>
                  {PLACEMENT_WORDS[each]}
                </option>
              ))}
            </select>
          </label>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => onChange(null)}>
            Take the image out
          </button>
        </div>
        <p className="text-sm text-quiet">{shapeWords(image)}</p>
      </div>
    </fieldset>
  );
}

/** The attachments of a section. */
export function FilesField({
  files,
  onChange,
}: {
  files: readonly FileLink[];
  onChange: (files: FileLink[]) => void;
}) {
  const draft = useContext(FilesOf);
  return (
    <>
      {files.length < MAX_FILES ? (
        <Choose
          words="Attach a file"
          keep={async (file) => onChange([...files, await upload<FileLink>(file, 'file')])}
        />
      ) : null}
      {files.length > 0 ? (
        <ul className="w-full">
          {files.map((file) => (
            <li
              key={file.key}
              className="flex min-h-11 items-center justify-between gap-3 border-t border-base-300"
            >
              <span>
                <a className="link-quiet" href={filePath(file) + draft} download>
                  {file.name}
                </a>{' '}
                <span className="text-sm text-quiet">{bytesWords(file.bytes)}</span>
              </span>
              <button
                type="button"
                className="btn btn-ghost btn-sm"
                aria-label={`Take ${file.name} out`}
                onClick={() => onChange(files.filter((each) => each.key !== file.key))}
              >
                Take out
              </button>
            </li>
          ))}
        </ul>
      ) : null}
    </>
  );
}
