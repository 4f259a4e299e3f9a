/** Whether letters go into what has the focus. */
function isWriting(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) ||
      target.isContentEditable ||
      target.closest('[role="dialog"]') !== null)
  );
}

/** Whether a key pressed means a key of the page: alone, and not into a text. */
export function isPageKey(event: KeyboardEvent): boolean {
  return !event.ctrlKey && !event.metaKey && !event.altKey && !isWriting(event.target);
}

/**
 * The keys that lead somewhere: a slash to the search (or into its field, where the page has
 * one), and at the desk `n` to writing; and the moments one presses. Listened for by the page itself and not by an island,
 * so that a key pressed at once is not lost.
 */
export function listenForPageKeys(desk: boolean): void {
  // What is told in few words is told in full beside it, for those who have no pointer to rest on it.
  document.addEventListener('click', (event) => {
    if (event.target instanceof Element)
      event.target.closest('time[data-full]')?.toggleAttribute('data-open');
  });
  document.addEventListener('keydown', (event) => {
    if (!isPageKey(event)) return;
    if (event.key === '/') {
      event.preventDefault();
      const field = document.querySelector<HTMLInputElement>('input[type="search"]');
      if (field) field.focus();
      else location.assign('/search');
    } else if (event.key === 'n' && desk) location.assign('/write');
  });
}
