import { useEffect, useId, useRef, type ReactNode } from 'react';

/** A question that must be answered first. The browser keeps focus inside and gives it back. */
export function Dialog({
  open,
  title,
  onClose,
  mustAnswer = false,
  children,
  actions,
}: {
  open: boolean;
  title: string;
  onClose: () => void;
  /** Whether it stays until one of its buttons is pressed: what it asks cannot be left open. */
  mustAnswer?: boolean;
  children: ReactNode;
  actions: ReactNode;
}) {
  const element = useRef<HTMLDialogElement>(null);
  const heading = useId();
  useEffect(() => {
    const dialog = element.current;
    if (open && dialog && !dialog.open) dialog.showModal();
    if (!open && dialog?.open) dialog.close();
  }, [open]);
  return (
    <dialog
      ref={element}
      className="modal"
      aria-labelledby={heading}
      onCancel={(event) => {
        if (mustAnswer) event.preventDefault();
      }}
      onClose={() => {
        // A browser closes it at the second Esc whatever is said: then it is opened again.
        if (mustAnswer && open) element.current?.showModal();
        else onClose();
      }}
    >
      {open ? (
        <div className="modal-box floating max-w-xl border border-base-300">
          <h2 id={heading} className="mb-3 text-2xl">
            {title}
          </h2>
          {children}
          <div className="mt-6 flex flex-wrap justify-end gap-3">{actions}</div>
        </div>
      ) : null}
    </dialog>
  );
}
