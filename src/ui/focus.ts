/** How soon after somebody pressed something a field that turns out wrong is because of that, in milliseconds. */
const BECAUSE_MS = 20_000;
/** How long something may be out of use before it counts as out of use for good, in milliseconds. */
const OUT_OF_USE_MS = 1_500;
const FOCUSABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), summary, [tabindex]:not([tabindex="-1"])';

const isShown = (element: Element): boolean => element.getClientRects().length > 0;
const isLost = (): boolean => document.activeElement === null || document.activeElement === document.body;

/** The nearest that can take the focus where an element stood that went away: in what it stood in, or in what that stood in. */
function nearest(chain: readonly Element[]): HTMLElement | undefined {
  for (const element of chain) {
    if (!element.isConnected || element === document.body) continue;
    const found = [...element.querySelectorAll<HTMLElement>(FOCUSABLE)].find(isShown);
    if (found) return found;
  }
  return undefined;
}

/**
 * Keeps the focus where a reader expects it, on every page: on the first field that is wrong after something was pressed, so
 * that its error is in sight and said aloud; on a button again after it was out of use for a moment; and near what went away
 * with the focus, rather than on nothing.
 */
export function keepFocus(): void {
  let pressedMs = -Infinity;
  let last: HTMLElement | null = null;
  let chain: Element[] = [];
  let focusedMs = 0;
  /** Whether what has the focus was put out of use while it had it. */
  let heldBack = false;
  const pressed = (): void => {
    pressedMs = performance.now();
  };
  document.addEventListener('submit', pressed, true);
  document.addEventListener(
    'click',
    (event) => {
      if (event.target instanceof Element && event.target.closest('button, [role="button"]')) pressed();
    },
    true,
  );
  // Whoever presses where nothing can have the focus gives it up on purpose.
  document.addEventListener(
    'pointerdown',
    (event) => {
      if (event.target instanceof Element && !event.target.closest(`${FOCUSABLE}, label`)) last = null;
    },
    true,
  );
  document.addEventListener('focusin', (event) => {
    if (!(event.target instanceof HTMLElement) || event.target === document.body) return;
    last = event.target;
    focusedMs = performance.now();
    heldBack = false;
    chain = [];
    for (let at = last.parentElement; at; at = at.parentElement) chain.push(at);
  });

  const toWrong = (): void => {
    if (performance.now() - pressedMs > BECAUSE_MS) return;
    const dialog = [...document.querySelectorAll('[role="dialog"], [role="alertdialog"]')].at(-1);
    const wrong = [...(dialog ?? document).querySelectorAll<HTMLElement>('[aria-invalid="true"]')].find(
      isShown,
    );
    if (!wrong) return;
    const active = document.activeElement;
    if (active?.matches('[aria-invalid="true"]')) return;
    // Whoever goes on writing elsewhere meanwhile is left in peace.
    if (active?.matches('input, textarea, select, [contenteditable="true"]') && focusedMs > pressedMs) return;
    pressedMs = -Infinity;
    wrong.focus();
    wrong.scrollIntoView({ block: 'center' });
  };
  const giveBack = (): void => {
    if (!last || !isLost()) return;
    if (last.isConnected) {
      if (!heldBack) return;
      if (!last.matches(':disabled') && isShown(last)) last.focus({ preventScroll: true });
      else {
        // What stays out of use gives its place to what stands nearest.
        const waited = last;
        setTimeout(() => {
          if (last === waited && isLost()) nearest(chain)?.focus({ preventScroll: true });
        }, OUT_OF_USE_MS);
      }
      return;
    }
    nearest(chain)?.focus({ preventScroll: true });
  };
  let waiting = false;
  let wrong = false;
  new MutationObserver((changes) => {
    if (last?.matches(':disabled')) heldBack = true;
    wrong ||= changes.some(
      ({ type, target, attributeName, addedNodes }) =>
        (type === 'attributes' &&
          attributeName === 'aria-invalid' &&
          (target as Element).getAttribute('aria-invalid') === 'true') ||
        (type === 'childList' &&
          [...addedNodes].some(
            (node) =>
              node instanceof Element &&
              (node.matches('[role="alert"]') || node.querySelector('[aria-invalid="true"]') !== null),
          )),
    );
    if (waiting) return;
    waiting = true;
    // After what is being drawn, and what takes the focus by itself, as a dialog does.
    requestAnimationFrame(() =>
      setTimeout(() => {
        waiting = false;
        if (wrong) toWrong();
        wrong = false;
        giveBack();
        inSight();
      }, 60),
    );
  }).observe(document.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ['aria-invalid', 'disabled'],
  });

  /** An error that has come out of sight is brought into it. */
  let shown = new Set<Element>();
  const inSight = (): void => {
    const alerts = [...document.querySelectorAll('[role="alert"]')].filter(
      (alert) => isShown(alert) && alert.textContent.trim() !== '',
    );
    const fresh = alerts.find((alert) => !shown.has(alert));
    shown = new Set(alerts);
    if (fresh && performance.now() - pressedMs < BECAUSE_MS) fresh.scrollIntoView({ block: 'nearest' });
  };
}
