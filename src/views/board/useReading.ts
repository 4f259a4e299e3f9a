import { useEffect, useEffectEvent, useRef } from 'react';
import { MOST_READ_AT_ONCE } from '../../core/boards/reading.ts';
import { request } from '../../ui/api.ts';

/** So long a post has to stand on the screen to count as read. */
const DWELL_MS = 1_000;
const TELL_EVERY_MS = 1_500;
/** A post longer than the screen counts once it fills this much of it. */
const ENOUGH = 0.5;

/**
 * Tells the server which posts of a board were on the screen, as elements with `data-unread` and the post's id: half of a
 * post, or half the screen full of it, for a second; `onRead` is called with how many were taken. What is scrolled past, or lies in a tab that nobody sees, is not read.
 */
export function useReading(boardId: number, shown: string, onRead: (n: number) => void): void {
  const told = useRef(new Set<number>());
  const read = useEffectEvent(onRead);
  useEffect(() => {
    const timers = new Map<Element, ReturnType<typeof setTimeout>>();
    let waiting: number[] = [];
    const tell = (): void => {
      if (waiting.length === 0) return;
      const posts = waiting.slice(0, MOST_READ_AT_ONCE);
      waiting = waiting.slice(MOST_READ_AT_ONCE);
      request('PUT', `/api/boards/${boardId}/seen`, { posts }).then(
        () => read(posts.length),
        () => {
          // Not known to be noted: told again when it is next on the screen.
          for (const id of posts) told.current.delete(id);
        },
      );
    };
    const observer = new IntersectionObserver(
      (entries) => {
        for (const entry of entries) {
          const id = Number((entry.target as HTMLElement).dataset.unread);
          clearTimeout(timers.get(entry.target));
          const share = Math.max(
            entry.intersectionRatio,
            entry.intersectionRect.height / (entry.rootBounds?.height ?? Infinity),
          );
          if (share < ENOUGH || told.current.has(id)) continue;
          timers.set(
            entry.target,
            setTimeout(() => {
              if (document.hidden) return;
              told.current.add(id);
              waiting.push(id);
              observer.unobserve(entry.target);
            }, DWELL_MS),
          );
        }
      },
      { threshold: [0, 0.1, 0.2, 0.3, 0.4, ENOUGH, 0.75, 1] },
    );
    const look = (): void => {
      observer.disconnect();
      if (!document.hidden)
        for (const element of document.querySelectorAll('[data-unread]')) observer.observe(element);
    };
    look();
    const every = setInterval(tell, TELL_EVERY_MS);
    document.addEventListener('visibilitychange', look);
    addEventListener('pagehide', tell);
    return () => {
      observer.disconnect();
      clearInterval(every);
      for (const timer of timers.values()) clearTimeout(timer);
      document.removeEventListener('visibilitychange', look);
      removeEventListener('pagehide', tell);
      tell();
    };
    // `shown` changes with the posts that stand on the page, so that new ones are watched too.
  }, [boardId, shown]);
}
