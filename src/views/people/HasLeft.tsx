import { Dialog } from '../../ui/Dialog.tsx';

/** Asks whether somebody has left, and says what follows. */
export function HasLeft({
  name,
  onClose,
  onLeft,
}: {
  /** Null where nobody is asked about. */
  name: string | null;
  onClose: () => void;
  onLeft: () => void;
}) {
  return (
    <Dialog
      open={name !== null}
      title={`Has ${name ?? ''} left?`}
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Keep as it is
          </button>
          <button type="button" className="btn btn-primary" onClick={onLeft}>
            Mark as left
          </button>
        </>
      }
    >
      <p>
        They are signed out at once and get nothing that has not gone yet. What they received and answered
        stays. They can be brought back.
      </p>
    </Dialog>
  );
}
