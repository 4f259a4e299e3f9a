import type { ReactNode } from 'react';
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from 'react-aria-components';

export interface DialogProps {
  open: boolean;
  title: string;
  onClose: () => void;
  /** Whether it stays until one of its buttons is pressed: what it asks cannot be left open. */
  mustAnswer?: boolean;
  /** Whether it holds rows of several fields, that stand side by side where there is room. */
  wide?: boolean;
  children: ReactNode;
  actions: ReactNode;
}

/** A question that must be answered first. Focus stays inside and goes back to where it was. */
export function ModalDialog({
  open,
  title,
  onClose,
  mustAnswer = false,
  wide = false,
  children,
  actions,
}: DialogProps) {
  return (
    <ModalOverlay
      isOpen={open}
      isKeyboardDismissDisabled={mustAnswer}
      onOpenChange={(next) => {
        if (!next) onClose();
      }}
      className="modal modal-open"
    >
      <Modal className={`modal-box floating border border-base-300 ${wide ? 'max-w-3xl' : 'max-w-xl'}`}>
        <AriaDialog className="outline-none">
          <Heading slot="title" level={2} className="mb-3 text-2xl">
            {title}
          </Heading>
          {children}
          <div className="mt-6 flex flex-wrap justify-end gap-3">{actions}</div>
        </AriaDialog>
      </Modal>
    </ModalOverlay>
  );
}
