import { FileButton } from './FileButton.tsx';
import { Notice } from './Notice.tsx';
import { useAwake } from './useAwake.ts';

/** Chooses an archive of an organisation; says that it is being sent, and what was wrong with it. */
export function ChooseArchive({
  chosen,
  busy,
  error,
  onFile,
}: {
  /** Whether one is chosen already. */
  chosen: boolean;
  busy: boolean;
  error: string | undefined;
  onFile: (file: File) => void;
}) {
  const awake = useAwake();
  return (
    <>
      <FileButton label="The archive" accept=".zip,application/zip" disabled={busy || !awake} onFile={onFile}>
        {chosen ? 'Choose another archive' : 'Choose the archive'}
      </FileButton>
      {busy ? (
        <p className="mt-3 max-w-md" role="status">
          <progress className="progress progress-primary w-full" aria-hidden />
          <span className="text-sm text-quiet">
            It is being sent and looked through. A large one takes minutes.
          </span>
        </p>
      ) : null}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
    </>
  );
}
