import { useSyncExternalStore } from 'react';

const never = (): (() => void) => () => undefined;

/**
 * Whether the page's script has taken over what the server sent. Until then a press or a letter would be lost, so what
 * is pressed or written in stays disabled for that moment.
 */
export const useAwake = (): boolean =>
  useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
