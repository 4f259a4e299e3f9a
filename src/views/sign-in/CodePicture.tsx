import type { CodeSecret } from '../../core/access/secondFactor.ts';

const inFours = (secret: string): string => secret.replace(/(.{4})(?=.)/g, '$1 ');

/** The secret of one-time codes, to be read by an app: as a picture, and to type. */
export function CodePicture({ of }: { of: CodeSecret }) {
  return (
    <div className="flex flex-wrap items-start gap-4">
      <img
        src={of.picture}
        width={220}
        height={220}
        alt="The secret as a picture, for the app to read"
        className="border border-base-300 bg-white"
      />
      <p className="min-w-0 flex-1 basis-56">
        Look at the picture with an app for one-time codes; any does. Or type this into it:
        <code className="mt-2 block font-mono break-words">{inFours(of.secret)}</code>
      </p>
    </div>
  );
}
