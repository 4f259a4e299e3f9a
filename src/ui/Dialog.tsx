import { lazily } from './lazily.tsx';
import type { DialogProps } from './ModalDialog.tsx';

const ModalDialog = lazily(
  () => import('./ModalDialog.tsx').then((module) => module.ModalDialog),
  () => null,
);

/** A question that must be answered first; what it is made with is fetched when the first one is asked. */
export const Dialog = (props: DialogProps) => (props.open ? <ModalDialog {...props} /> : null);
