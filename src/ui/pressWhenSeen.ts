const SEEN_MS = 1_500;

/**
 * Presses for a reader who has tapped in a mail already, once they have the page in front of them. What only fetches the page, as
 * the scanner of a mail server does, runs none of this.
 */
export function pressWhenSeen(press: () => void): void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const wait = (): void => {
    clearTimeout(timer);
    if (!document.hidden) timer = setTimeout(press, SEEN_MS);
  };
  document.addEventListener('visibilitychange', wait);
  wait();
}
