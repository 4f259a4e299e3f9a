import { CopyText } from '../../ui/CopyText.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

/** A secret that is told this once. */
export function SecretOnce({
  secret,
  words,
  title = 'Its secret',
  kept = 'and kept here sealed',
  onClose,
}: {
  secret: string;
  words: string;
  title?: string;
  /** How it is kept here. */
  kept?: string;
  onClose: () => void;
}) {
  return (
    <Dialog
      open
      mustAnswer
      title={title}
      onClose={onClose}
      actions={
        <button type="button" className="btn btn-primary" onClick={onClose}>
          I have kept it
        </button>
      }
    >
      <p className="mb-3">
        {words} It is told this once, {kept}.
      </p>
      <CopyText text={secret} label="The secret" />
    </Dialog>
  );
}
