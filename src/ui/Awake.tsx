import type { ReactNode } from 'react';
import { useAwake } from './useAwake.ts';

/**
 * What one presses and writes in, out of use until the page's script has taken over what the server sent. What is in it is not
 * made anew when it wakes.
 */
export function Awake({ children }: { children: ReactNode }) {
  const awake = useAwake();
  return (
    <fieldset disabled={!awake} className="contents">
      {children}
    </fieldset>
  );
}
