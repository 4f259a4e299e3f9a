import { useContext } from 'react';
import {
  imagePath,
  MAX_ALT,
  MAX_TRANSCRIPT,
  posterOf,
  type Image,
  type Video,
} from '../core/content/section.ts';
import { bytesWords } from '../core/words.ts';
import { upload } from './api.ts';
import { Choose, IMAGE_KINDS } from './Attached.tsx';
import { FilesOf } from './filesOf.ts';
import { takePoster } from './takePoster.ts';

type Picture = Pick<Image, 'key' | 'width' | 'height'>;

/** The short video of a section: its title, the picture that stands for it, its captions or a text beside it. */
export function VideoField({
  video,
  about,
  onChange,
}: {
  video: Video | null;
  about: (field: 'title' | 'transcript') => string | undefined;
  onChange: (video: Video | null) => void;
}) {
  const draft = useContext(FilesOf);
  if (!video)
    return (
      <Choose
        words="Add a short video"
        accept="video/mp4,video/webm"
        keep={async (file) => {
          const [kept, picture] = await Promise.all([
            upload<Pick<Video, 'key' | 'name' | 'mime' | 'bytes'>>(file, 'video'),
            takePoster(file),
          ]);
          const poster = picture && (await upload<Picture>(picture, 'image'));
          onChange({ ...kept, title: '', poster, captions: null, transcript: '' });
        }}
      />
    );
  const poster = posterOf(video);
  const set = (part: Partial<Video>): void => onChange({ ...video, ...part });
  return (
    <fieldset className="flex w-full flex-wrap gap-4 border border-base-300 bg-base-100 p-3">
      <legend className="px-1 text-sm text-quiet">Video, {bytesWords(video.bytes)}</legend>
      <div className="flex w-44 flex-col gap-2">
        {poster ? (
          <img src={imagePath(poster, 'page', 1) + draft} alt="" className="block w-full" />
        ) : (
          <p className="text-sm text-quiet">No picture stands for it yet.</p>
        )}
        <Choose
          words={poster ? 'Another picture' : 'Choose a picture'}
          accept={IMAGE_KINDS}
          keep={async (file) => set({ poster: await upload<Picture>(file, 'image') })}
        />
      </div>
      <div className="flex min-w-56 grow flex-col gap-2">
        <label className="flex flex-col gap-1">
          What it shows, in a line
          <input
            className="input w-full"
            value={video.title}
            maxLength={MAX_ALT}
            aria-invalid={about('title') !== undefined}
            onChange={(event) => set({ title: event.target.value })}
          />
          {about('title') === undefined ? null : <span className="text-error">{about('title')}</span>}
        </label>
        <label className="flex flex-col gap-1">
          What is said in it, for those who would rather read or cannot hear it
          <textarea
            className="textarea min-h-20 w-full"
            value={video.transcript}
            maxLength={MAX_TRANSCRIPT}
            aria-invalid={about('transcript') !== undefined}
            onChange={(event) => set({ transcript: event.target.value })}
          />
          {about('transcript') === undefined ? null : (
            <span className="text-error">{about('transcript')}</span>
          )}
        </label>
        <div className="flex flex-wrap items-center gap-2">
          {video.captions === null ? (
            <Choose
              words="Add captions (WebVTT)"
              accept=".vtt,text/vtt"
              keep={async (file) => set({ captions: (await upload<{ key: string }>(file, 'captions')).key })}
            />
          ) : (
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => set({ captions: null })}>
              Take the captions out
            </button>
          )}
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => onChange(null)}>
            Take the video out
          </button>
        </div>
      </div>
    </fieldset>
  );
}
