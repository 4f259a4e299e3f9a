type Listener = () => void;

const SOON_MS = 50;
/** How long a stream that broke off may take to come back, before it is said that there is no connection. */
const BACK_MS = 5_000;

/**
 * The one stream of live updates of a page, however many parts of it listen. Browsers keep six connections to a house,
 * over all tabs, and a stream takes one for as long as it lasts: with one for each listener two tabs would leave none
 * for anything else. For the same reason a tab nobody sees gives its stream up, and catches up when it is seen again.
 */
class LiveHub {
  readonly #listeners = new Map<string, Set<Listener>>();
  #source: EventSource | undefined;
  #address = '';
  #timer: ReturnType<typeof setTimeout> | undefined;
  #gone: ReturnType<typeof setTimeout> | undefined;
  #missed = false;

  /** Calls back after something of these topics changed. Gives what ends that. */
  listen(topics: readonly string[], listener: Listener): () => void {
    if (this.#listeners.size === 0) document.addEventListener('visibilitychange', this.#soon);
    for (const topic of topics) {
      const known = this.#listeners.get(topic) ?? new Set();
      this.#listeners.set(topic, known.add(listener));
    }
    this.#soon();
    return () => {
      for (const topic of topics) {
        const known = this.#listeners.get(topic);
        known?.delete(listener);
        if (known?.size === 0) this.#listeners.delete(topic);
      }
      if (this.#listeners.size === 0) document.removeEventListener('visibilitychange', this.#soon);
      this.#soon();
    };
  }

  /** Several parts that begin to listen at once are one stream. */
  readonly #soon = (): void => {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#connect(), SOON_MS);
  };

  #connect(): void {
    const topics = [...this.#listeners.keys()].sort();
    const wanted =
      topics.length === 0 || document.hidden
        ? ''
        : `/api/live?${topics.map((topic) => `topic=${encodeURIComponent(topic)}`).join('&')}`;
    if (wanted === this.#address) return;
    if (document.hidden) this.#missed = true;
    clearTimeout(this.#gone);
    this.#gone = undefined;
    this.#source?.close();
    this.#source = undefined;
    this.#address = wanted;
    if (wanted === '') return;
    // What happened between the making of the page and this is told by the stream, once: a part of the page that wakes later than
    // others shows what the page came with, and where the parts change what is listened to, a stream makes room for another.
    const source = new EventSource(`${wanted}&age=${Math.ceil(performance.now())}`);
    let opened = this.#missed;
    this.#missed = false;
    source.addEventListener('changed', (event) => {
      for (const listener of this.#listeners.get(String(event.data)) ?? []) listener();
    });
    source.addEventListener('over', () => {
      // The session has ended: the page as it stands is the last of it.
      source.close();
      dispatchEvent(new Event('session-over'));
    });
    source.addEventListener('error', () => {
      // The browser tries again by itself. Its own word on whether there is a network is not enough: it can be mistaken.
      this.#gone ??= setTimeout(() => dispatchEvent(new Event('unreachable')), BACK_MS);
    });
    source.addEventListener('open', () => {
      clearTimeout(this.#gone);
      this.#gone = undefined;
      dispatchEvent(new Event('reachable'));
      // Whatever happened while there was no stream is caught up with.
      if (opened)
        for (const listener of new Set([...this.#listeners.values()].flatMap((each) => [...each])))
          listener();
      opened = true;
    });
    this.#source = source;
  }
}

let hub: LiveHub | undefined;

/** The hub of this page. */
export const liveHub = (): LiveHub => (hub ??= new LiveHub());
