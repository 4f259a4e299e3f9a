import { createHash } from 'node:crypto';
import mysql from 'mysql2';
import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import { CALLS_A_MINUTE } from '../../core/api/token.ts';
import { POINTS_A_MINUTE, pointsOfCall } from '../../core/gateways/limits.ts';
import { Problem } from '../problem.ts';

const WINDOW_S = 15 * 60;
const LIMITS = {
  /** Attempts for one mail address from one place. */
  'account at place': { points: 10, duration: WINDOW_S },
  /** Attempts for one mail address from anywhere: many places together guess no faster. */
  account: { points: 60, duration: WINDOW_S },
  /** Attempts from one place, whatever the address. */
  place: { points: 50, duration: WINDOW_S },
  /**
   * Sign-ins with a passkey or at a provider that are begun from one place. Nothing can be guessed there, and a whole house may
   * begin its Monday behind one address: it bounds what is written, not who comes in.
   */
  begun: { points: 5_000, duration: WINDOW_S },
  /** People signed up for events from one place. */
  'sign-ups': { points: 12, duration: 3_600 },
  /** Forms sent in from one place by people who are not signed in. */
  forms: { points: 20, duration: 3_600 },
  /** What one way in takes in a minute; each call takes a share of it, as many as the way in is set to. */
  hooks: { points: POINTS_A_MINUTE, duration: 60 },
  /** Answers by mail of one person: two systems that answer each other end here. */
  letters: { points: 10, duration: 600 },
  /** Calls one token makes. */
  calls: { points: CALLS_A_MINUTE, duration: 60 },
} as const;
type Kind = keyof typeof LIMITS;

/**
 * Counts attempts in the database, so that the limits hold across processes. An attempt is counted before it is looked at,
 * so that of any number at once no more pass than may; one that succeeds is taken off again.
 */
export class AttemptLimit {
  readonly #ready: Promise<Record<Kind, RateLimiterMySQL>>;

  constructor(databaseUrl: string) {
    const pool = mysql.createPool({
      uri: databaseUrl.replace(/^mariadb:/, 'mysql:'),
      connectionLimit: 2,
      charset: 'utf8mb4',
    });
    const dbName = decodeURIComponent(new URL(databaseUrl).pathname.slice(1));
    const limiter = (keyPrefix: string, { points, duration }: { points: number; duration: number }) =>
      new Promise<RateLimiterMySQL>((resolve, reject) => {
        const made: RateLimiterMySQL = new RateLimiterMySQL(
          { storeClient: pool, dbName, tableName: 'rate_limits', keyPrefix, points, duration },
          (error?: Error) => {
            if (error) reject(error);
            else resolve(made);
          },
        );
      });
    this.#ready = (async () => ({
      // One after the other: each makes the table where there is none.
      'account at place': await limiter('account-at-place', LIMITS['account at place']),
      account: await limiter('account', LIMITS.account),
      place: await limiter('place', LIMITS.place),
      begun: await limiter('begun', LIMITS.begun),
      'sign-ups': await limiter('sign-ups', LIMITS['sign-ups']),
      forms: await limiter('forms', LIMITS.forms),
      hooks: await limiter('hooks', LIMITS.hooks),
      letters: await limiter('letters', LIMITS.letters),
      calls: await limiter('calls', LIMITS.calls),
    }))();
    this.#ready.catch(() => undefined);
  }

  /**
   * Counts an attempt to sign in.
   *
   * @param mail the address in its one form, as `normalMail` gives it
   * @param place the address the request came from
   * @throws a 429 problem, with the seconds to wait, where there were too many
   */
  async attempt(mail: string, place: string): Promise<void> {
    await this.#count('place', place);
    await this.#count('account', mail);
    await this.#count('account at place', `${place} ${mail}`);
  }

  /** Takes an attempt off again that succeeded. */
  async succeeded(mail: string, place: string): Promise<void> {
    const limiters = await this.#ready;
    await Promise.all([
      limiters['account at place'].delete(keyOf(`${place} ${mail}`)),
      limiters.account.reward(keyOf(mail)),
      limiters.place.reward(keyOf(place)),
    ]);
  }

  /** Counts a sign-in with a passkey, or at a provider, that is begun; a 429 problem where there were too many from one place. */
  async begun(place: string): Promise<void> {
    await this.#count('begun', place);
  }

  /** Counts somebody signed up for an event; a 429 problem where there were too many from one place. */
  async signUp(place: string): Promise<void> {
    await this.#count('sign-ups', place);
  }

  /** Counts a form sent in by somebody who is not signed in; a 429 problem where there were too many from one place. */
  async form(place: string): Promise<void> {
    await this.#count('forms', place);
  }

  /** Counts a call of a way in that takes at most so many a minute; a 429 problem where there were more. */
  async hook(id: number, perMinute: number): Promise<void> {
    await this.#count('hooks', String(id), pointsOfCall(perMinute));
  }

  /** Counts an answer by mail of a person; a 429 problem where there were too many. */
  async letter(personId: number): Promise<void> {
    await this.#count('letters', String(personId));
  }

  /**
   * Counts a call of a token.
   *
   * @returns how many it may make yet, and in how many seconds it may make all of them again
   * @throws a 429 problem, with the seconds to wait, where there were too many
   */
  async call(tokenId: number): Promise<{ left: number; seconds: number }> {
    try {
      const limiters = await this.#ready;
      const counted = await limiters.calls.consume(String(tokenId));
      return { left: counted.remainingPoints, seconds: Math.ceil(counted.msBeforeNext / 1000) };
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error;
      const seconds = Math.max(1, Math.ceil(error.msBeforeNext / 1000));
      throw new Problem(
        429,
        `A token makes at most ${CALLS_A_MINUTE} calls a minute. Wait ${seconds} seconds.`,
        {
          more: { retryAfter: seconds },
        },
      );
    }
  }

  async #count(kind: Kind, key: string, points = 1): Promise<void> {
    try {
      await (await this.#ready)[kind].consume(keyOf(key), points);
    } catch (error) {
      if (error instanceof RateLimiterRes) throw tooMany(error.msBeforeNext);
      throw error;
    }
  }
}

/** A key of one form and length, whatever was typed. */
const keyOf = (text: string): string => createHash('sha256').update(text).digest('base64url');

function tooMany(waitMs: number): Problem {
  const minutes = Math.max(1, Math.ceil(waitMs / 60_000));
  return new Problem(
    429,
    `There were too many attempts. Try again in ${minutes === 1 ? 'a minute' : `${minutes} minutes`}.`,
    { more: { retryAfter: Math.ceil(waitMs / 1000) } },
  );
}
