/** The picture of a sender, beside its name, which says whose it is. */
export const SenderPicture = ({ src }: { src: string }) => (
  <img
    src={src}
    alt=""
    width={32}
    height={32}
    loading="lazy"
    className="mr-2 inline-block size-8 rounded-sm object-cover align-middle"
  />
);
