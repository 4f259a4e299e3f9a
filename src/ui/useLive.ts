import { useEffect, useRef } from 'react';
import { liveHub } from './liveHub.ts';

/** Several changes at once are fetched once. */
const SOON_MS = 150;
/** However much changes, nothing is fetched more often than this. */
const LEAST_MS = 1_000;
/**
 * A server that is slow to answer is asked more seldom: after an answer nothing is asked for so many times as long as that took,
 * but no longer than this. Those who only look on leave room for those who come to answer.
 */
const RESTS = 3;
const LONGEST_REST_MS = 10_000;

/**
 * Calls back soon after something of these topics changed, and once more after the connection was lost and came back: at most once
 * a second, and not before what it did the last time is done and some time has gone by that depends on how long that took. What changes
 * meanwhile is told after that.
 */
export function useLive(topics: readonly string[], changed: () => unknown): void {
  const latest = useRef(changed);
  useEffect(() => {
    latest.current = changed;
  });
  const named = topics.join(' ');
  useEffect(() => {
    if (named === '') return undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let notBefore = 0;
    let busy = false;
    let missed = false;
    let gone = false;
    const call = async (): Promise<void> => {
      timer = undefined;
      busy = true;
      const began = performance.now();
      try {
        await latest.current();
      } finally {
        const ended = performance.now();
        notBefore = Math.max(began + LEAST_MS, ended + Math.min(LONGEST_REST_MS, RESTS * (ended - began)));
        busy = false;
        if (missed && !gone) soon();
        missed = false;
      }
    };
    const soon = (): void => {
      if (busy) missed = true;
      else timer ??= setTimeout(() => void call(), Math.max(SOON_MS, notBefore - performance.now()));
    };
    const stop = liveHub().listen(named.split(' '), soon);
    return () => {
      gone = true;
      clearTimeout(timer);
      stop();
    };
  }, [named]);
}
