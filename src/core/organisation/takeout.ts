/** An archive of the organisation that is being made, or lies ready to be fetched. */
export interface Takeout {
  id: number;
  by: string;
  state: 'under way' | 'ready' | 'failed';
  /** How much of it is read, of 100; by an estimate of how much there is. */
  percent: number;
  /** So far. */
  bytes: number;
  /** Milliseconds since 1970. */
  begunMs: number;
  /** Of one that is ready: until when it can be fetched. */
  untilMs: number | null;
  /** Of one that failed, in words. */
  why: string | null;
}

/** How long an archive lies ready, in hours. */
export const TAKEOUT_HOURS = 24;
