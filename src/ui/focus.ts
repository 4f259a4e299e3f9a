/** How soon after somebody pressed something a field that turns out wrong is because of that, in milliseconds. */
const BECAUSE_MS = 20_000;
/** How long something may be out of use before it counts as out of use for good, in milliseconds. */
const OUT_OF_USE_MS = 1_500;
/** After so long what was drawn stands, in milliseconds. */
const SETTLED_MS = 60;
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

/** Where the focus is, was, and what was pressed: one for the page. */
class Focus {
  #pressedMs = -Infinity;
  #last: HTMLElement | null = null;
  #chain: Element[] = [];
  #focusedMs = 0;
  /** Whether what has the focus was put out of use while it had it. */
  #heldBack = false;
  /** The errors that were in sight last. */
  #shown = new Set<Element>();

  pressed(): void {
    this.#pressedMs = performance.now();
  }

  /** Whoever presses where nothing can have the focus gives it up on purpose. */
  givenUp(): void {
    this.#last = null;
  }

  moved(to: HTMLElement): void {
    this.#last = to;
    this.#focusedMs = performance.now();
    this.#heldBack = false;
    this.#chain = [];
    for (let at = to.parentElement; at; at = at.parentElement) this.#chain.push(at);
  }

  /** Something of the page has changed. */
  changed(): void {
    if (this.#last?.matches(':disabled')) this.#heldBack = true;
  }

  /** To the first field that is wrong, after something was pressed. */
  toWrong(): void {
    if (performance.now() - this.#pressedMs > BECAUSE_MS) return;
    const dialog = [...document.querySelectorAll('[role="dialog"], [role="alertdialog"]')].at(-1);
    const wrong = [...(dialog ?? document).querySelectorAll<HTMLElement>('[aria-invalid="true"]')].find(
      isShown,
    );
    if (!wrong) return;
    const active = document.activeElement;
    if (active?.matches('[aria-invalid="true"]')) return;
    // Whoever goes on writing elsewhere meanwhile is left in peace.
    const writing = active?.matches('input, textarea, select, [contenteditable="true"]');
    if (writing && this.#focusedMs > this.#pressedMs) return;
    this.#pressedMs = -Infinity;
    wrong.focus();
    wrong.scrollIntoView({ block: 'center' });
  }

  /** To what had it, or to what stands nearest, where nothing has it now. */
  giveBack(): void {
    const last = this.#last;
    if (!last || !isLost()) return;
    if (!last.isConnected) {
      nearest(this.#chain)?.focus({ preventScroll: true });
      return;
    }
    if (!this.#heldBack) return;
    if (!last.matches(':disabled') && isShown(last)) last.focus({ preventScroll: true });
    // What stays out of use gives its place to what stands nearest.
    else
      setTimeout(() => {
        if (this.#last === last && isLost()) nearest(this.#chain)?.focus({ preventScroll: true });
      }, OUT_OF_USE_MS);
  }

  /** An error that has come out of sight is brought into it. */
  inSight(): void {
    const alerts = [...document.querySelectorAll('[role="alert"]')].filter(
      (alert) => isShown(alert) && alert.textContent.trim() !== '',
    );
    const fresh = alerts.find((alert) => !this.#shown.has(alert));
    this.#shown = new Set(alerts);
    if (fresh && performance.now() - this.#pressedMs < BECAUSE_MS) fresh.scrollIntoView({ block: 'nearest' });
  }
}

/** Whether a change of the page says that something is wrong. */
const saysWrong = ({ type, target, attributeName, addedNodes }: MutationRecord): boolean =>
  (type === 'attributes' &&
    attributeName === 'aria-invalid' &&
    (target as Element).getAttribute('aria-invalid') === 'true') ||
  (type === 'childList' &&
    [...addedNodes].some(
      (node) =>
        node instanceof Element &&
        (node.matches('[role="alert"]') || node.querySelector('[aria-invalid="true"]') !== null),
    ));

function watchPage(focus: Focus): void {
  let waiting = false;
  let wrong = false;
  new MutationObserver((changes) => {
    focus.changed();
    wrong ||= changes.some(saysWrong);
    if (waiting) return;
    waiting = true;
    // After what is being drawn, and what takes the focus by itself, as a dialog does.
    requestAnimationFrame(() =>
      setTimeout(() => {
        waiting = false;
        if (wrong) focus.toWrong();
        wrong = false;
        focus.giveBack();
        focus.inSight();
      }, SETTLED_MS),
    );
  }).observe(document.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ['aria-invalid', 'disabled'],
  });
}

/**
 * Keeps the focus where a reader expects it, on every page: on the first field that is wrong after something was pressed, so
 * that its error is in sight and said aloud; on a button again after it was out of use for a moment; and near what went away
 * with the focus, rather than on nothing.
 */
export function keepFocus(): void {
  const focus = new Focus();
  document.addEventListener('submit', () => focus.pressed(), true);
  document.addEventListener(
    'click',
    ({ target }) => {
      if (target instanceof Element && target.closest('button, [role="button"]')) focus.pressed();
    },
    true,
  );
  document.addEventListener(
    'pointerdown',
    ({ target }) => {
      if (target instanceof Element && !target.closest(`${FOCUSABLE}, label`)) focus.givenUp();
    },
    true,
  );
  document.addEventListener('focusin', ({ target }) => {
    if (target instanceof HTMLElement && target !== document.body) focus.moved(target);
  });
  watchPage(focus);
}
