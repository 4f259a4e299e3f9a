import mysql from 'mysql2';
import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import { Problem } from '../problem.ts';

const MOST = 10;
const WINDOW_S = 15 * 60;

/**
 * Counts failed attempts in the database, so that the limit holds across processes. Ten a quarter of an hour for
 * each mail address and place they come from, and five times that for the place as a whole.
 */
export class SignInLimit {
  readonly #ready: Promise<{ account: RateLimiterMySQL; place: RateLimiterMySQL }>;

  constructor(databaseUrl: string) {
    const pool = mysql.createPool({ uri: databaseUrl.replace(/^mariadb:/, 'mysql:'), connectionLimit: 2 });
    const dbName = decodeURIComponent(new URL(databaseUrl).pathname.slice(1));
    const limiter = (keyPrefix: string, points: number): Promise<RateLimiterMySQL> =>
      new Promise((resolve, reject) => {
        const made: RateLimiterMySQL = new RateLimiterMySQL(
          { storeClient: pool, dbName, tableName: 'rate_limits', keyPrefix, points, duration: WINDOW_S },
          (error?: Error) => {
            if (error) reject(error);
            else resolve(made);
          },
        );
      });
    this.#ready = (async () => ({
      account: await limiter('account', MOST),
      place: await limiter('place', MOST * 5),
    }))();
    this.#ready.catch(() => undefined);
  }

  /** @throws a 429 problem, with the seconds to wait, when there were too many failures */
  async check(mail: string, place: string): Promise<void> {
    const { account, place: everywhere } = await this.#ready;
    const states = await Promise.all([account.get(keyOf(mail, place)), everywhere.get(place)]);
    const limits = [MOST, MOST * 5];
    states.forEach((state, i) => {
      if (state && state.consumedPoints >= (limits[i] ?? MOST)) throw tooMany(state.msBeforeNext);
    });
  }

  /** Counts a failure. */
  async failed(mail: string, place: string): Promise<void> {
    const { account, place: everywhere } = await this.#ready;
    await Promise.all([consume(account, keyOf(mail, place)), consume(everywhere, place)]);
  }

  async succeeded(mail: string, place: string): Promise<void> {
    await (await this.#ready).account.delete(keyOf(mail, place));
  }
}

const keyOf = (mail: string, place: string): string => `${place} ${mail.toLowerCase()}`.slice(0, 200);

async function consume(limiter: RateLimiterMySQL, key: string): Promise<void> {
  try {
    await limiter.consume(key);
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
  }
}

function tooMany(waitMs: number): Problem {
  const minutes = Math.max(1, Math.ceil(waitMs / 60_000));
  return new Problem(
    429,
    `There were too many failed attempts. Try again in ${minutes === 1 ? 'a minute' : `${minutes} minutes`}.`,
    { more: { retryAfter: Math.ceil(waitMs / 1000) } },
  );
}
