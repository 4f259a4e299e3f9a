import { useEffect } from 'react';

/**
 * Keeps what a list shows in the address, so that Back, a reload and a link that is passed on show the same. What is
 * empty is left out of it.
 */
export function useInAddress(shown: Record<string, string>): void {
  const query = new URLSearchParams(Object.entries(shown).filter(([, value]) => value !== '')).toString();
  useEffect(() => {
    const address = `${location.pathname}${query === '' ? '' : `?${query}`}${location.hash}`;
    // The state of whoever leads through the history stays as it is.
    history.replaceState(history.state, '', address);
  }, [query]);
}
