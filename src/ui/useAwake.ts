import { startTransition, useEffect, useState, useSyncExternalStore } from 'react';

const never = (): (() => void) => () => undefined;

/** Whether a component was made by the page's script, and did not take over what the server sent. Stays as it was first. */
export function useMadeHere(): boolean {
  const [takesOver] = useState(() => ({ is: false }));
  return useSyncExternalStore(
    never,
    () => !takesOver.is,
    () => {
      // Not shown by itself: it is what this very call gives from then on.
      // eslint-disable-next-line react-hooks/immutability
      takesOver.is = true;
      return false;
    },
  );
}

/**
 * Whether the page's script has taken over what the server sent. Until then a press or a letter would be lost, so what
 * is pressed or written in stays disabled for that moment. What is made later, as a dialog is, is awake from the first; what
 * the server sent wakes without holding up the page, piece by piece where it is long.
 */
export function useAwake(): boolean {
  const made = useMadeHere();
  const [woken, setWoken] = useState(false);
  useEffect(() => startTransition(() => setWoken(true)), []);
  return made || woken;
}
