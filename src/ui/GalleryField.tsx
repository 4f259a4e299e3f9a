import { useContext } from 'react';
import { imagePath, MAX_ALT, MAX_GALLERY, type Image } from '../core/content/section.ts';
import { upload } from './api.ts';
import { Choose, IMAGE_KINDS } from './Attached.tsx';
import { FilesOf } from './filesOf.ts';
import { Sortable, useInOrder } from './Sortable.tsx';

/** The further images of a section: each described, in an order that can be changed. */
export function GalleryField({
  images,
  about,
  onChange,
}: {
  images: readonly Image[];
  /** What is wrong with the description of one, or nothing. */
  about: (at: number) => string | undefined;
  onChange: (images: Image[]) => void;
}) {
  const add = async (file: File): Promise<void> => {
    const kept = await upload<Pick<Image, 'key' | 'width' | 'height'>>(file, 'image');
    onChange([...images, { ...kept, alt: '', placement: 'beside', focus: { x: 50, y: 50 } }]);
  };
  return (
    <>
      {images.length > 0 ? (
        <ul className="w-full">
          <Sortable
            ids={images.map((image) => image.key)}
            nameOf={(key) => `further image ${images.findIndex((image) => image.key === key) + 1}`}
            onOrder={(keys) =>
              onChange([...images].sort((a, b) => keys.indexOf(a.key) - keys.indexOf(b.key)))
            }
          >
            {images.map((image, at) => (
              <GalleryImage
                key={image.key}
                image={image}
                at={at}
                problem={about(at)}
                onChange={(alt) => onChange(images.map((each, i) => (i === at ? { ...each, alt } : each)))}
                onTakeOut={() => onChange(images.filter((each) => each.key !== image.key))}
              />
            ))}
          </Sortable>
        </ul>
      ) : null}
      {images.length < MAX_GALLERY ? (
        <Choose words="Add a further image" accept={IMAGE_KINDS} keep={add} />
      ) : null}
    </>
  );
}

function GalleryImage({
  image,
  at,
  problem,
  onChange,
  onTakeOut,
}: {
  image: Image;
  at: number;
  problem: string | undefined;
  onChange: (alt: string) => void;
  onTakeOut: () => void;
}) {
  const draft = useContext(FilesOf);
  const { ref, style, handle } = useInOrder(image.key);
  return (
    <li ref={ref} style={style} className="flex items-center gap-3 border-t border-base-300 py-2">
      {handle}
      <img
        src={imagePath(image, 'page', 1) + draft}
        alt=""
        width={56}
        height={56}
        className="size-14 object-cover"
      />
      <label className="flex min-w-0 grow flex-col gap-1 text-sm">
        What further image {at + 1} shows
        <input
          className="input w-full"
          value={image.alt}
          maxLength={MAX_ALT}
          aria-invalid={problem !== undefined}
          onChange={(event) => onChange(event.target.value)}
        />
        {problem === undefined ? null : <span className="text-error">{problem}</span>}
      </label>
      <button
        type="button"
        className="btn btn-ghost btn-sm"
        aria-label={`Take further image ${at + 1} out`}
        onClick={onTakeOut}
      >
        Take out
      </button>
    </li>
  );
}
