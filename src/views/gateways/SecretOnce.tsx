import { CopyText } from '../../ui/CopyText.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

/** A secret that is told this once. */
export function SecretOnce({
  secret,
  words,
  onClose,
}: {
  secret: string;
  words: string;
  onClose: () => void;
}) {
  return (
    <Dialog
      open
      mustAnswer
      title="Its secret"
      onClose={onClose}
      actions={
        <button type="button" className="btn btn-primary" onClick={onClose}>
          I have kept it
        </button>
      }
    >
      <p className="mb-3">{words} It is told this once, and kept here sealed.</p>
      <CopyText text={secret} label="The secret" />
    </Dialog>
  );
}
