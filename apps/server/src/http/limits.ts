import { createHash } from 'node:crypto';
import type { Request, RequestHandler, Response } from 'express';
import { RateLimiterMemory, RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { isTooDeep } from '../platform/db/json';
import type { Db } from '../platform/db/pool';
import { Problem } from '../platform/problem';

/** Wrong passwords from one address for one account that cost nothing; each further one doubles the pause. */
const FREE_TRIES = 5;
/** The same for an account from anywhere, and for an address whatever the account. */
const FREE_OF_ACCOUNT = 30;
const FREE_OF_ADDRESS = 30;
const FIRST_PAUSE_S = 15;
const LONGEST_PAUSE_S = 3_600;
/** Wrong tries are forgotten after so long. */
const REMEMBERED_S = 6 * 3_600;

/**
 * How often somebody may call, counted for all processes together; where the database is away each process
 * counts for itself.
 */
export class Limits {
  constructor(private readonly db: Db) {}

  /**
   * So many calls in a minute of whoever `keyOf` names: each address, unless it says otherwise. Whoever calls
   * oftener is told to wait.
   */
  aMinute(
    name: string,
    limit: number,
    {
      keyOf = addressOf,
      skip = () => false,
    }: {
      keyOf?: (request: Request, response: Response) => string;
      skip?: (request: Request) => boolean;
    } = {},
  ): RequestHandler {
    const limiter = this.#limiter(name, limit, 60);
    return async (request, response, next) => {
      if (skip(request)) return next();
      const { left, waitMs } = await taken(limiter, keyOf(request, response));
      response
        .set('ratelimit-policy', `"${name}";q=${limit};w=60`)
        .set('ratelimit', `"${name}";r=${Math.max(0, left)};t=${Math.ceil(waitMs / 1_000)}`);
      if (left >= 0) return next();
      response.set('retry-after', String(Math.max(1, Math.ceil(waitMs / 1_000))));
      throw new Problem(
        429,
        'Too many requests',
        'Too many requests came from here. Wait a minute and go on.',
      );
    };
  }

  /**
   * Signing in: wrong passwords are counted by account and address together, by account and by address, and
   * the pauses grow.
   */
  signIn(): SignInLimit {
    return new SignInLimit((name) => this.#limiter(`sign-in ${name}`, 1_000_000, REMEMBERED_S));
  }

  /** Lets go of what is counted no more. */
  async clear(now: number): Promise<void> {
    await this.db.query('delete from rate_limit where expire < $1', [now]);
  }

  #limiter(name: string, points: number, duration: number): RateLimiterPostgres {
    return new RateLimiterPostgres({
      storeClient: this.db,
      storeType: 'pool',
      tableName: 'rate_limit',
      tableCreated: true,
      clearExpiredByTimeout: false,
      keyPrefix: name,
      points,
      duration,
      // Whoever is over the limit costs the database nothing more.
      inMemoryBlockOnConsumed: points + 1,
      insuranceLimiter: new RateLimiterMemory({ keyPrefix: name, points, duration }),
    });
  }
}

const addressOf = (request: Request) => request.ip ?? 'unknown';
/** Keys hold neither tokens nor addresses of people. */
const hidden = (key: string) => createHash('sha256').update(key).digest('base64url');

/** Counts one call. `left`: how many more there may be; below nothing when this one is too many. */
async function taken(limiter: RateLimiterPostgres, key: string): Promise<{ left: number; waitMs: number }> {
  try {
    const { remainingPoints, msBeforeNext } = await limiter.consume(hidden(key));
    return { left: remainingPoints, waitMs: msBeforeNext };
  } catch (refused) {
    if (!(refused instanceof RateLimiterRes)) throw refused;
    return { left: -1, waitMs: refused.msBeforeNext };
  }
}

export class SignInLimit {
  readonly #kinds: {
    limiter: RateLimiterPostgres;
    free: number;
    keyOf: (account: string, address: string) => string;
  }[];
  constructor(limiter: (name: string) => RateLimiterPostgres) {
    this.#kinds = [
      {
        limiter: limiter('of both'),
        free: FREE_TRIES,
        keyOf: (account, address) => hidden(`${account.toLowerCase()} ${address}`),
      },
      {
        limiter: limiter('of account'),
        free: FREE_OF_ACCOUNT,
        keyOf: (account) => hidden(account.toLowerCase()),
      },
      {
        limiter: limiter('of address'),
        free: FREE_OF_ADDRESS,
        keyOf: (_account, address) => hidden(address),
      },
    ];
  }

  /** Throws while a pause lasts; the password is then not looked at. */
  async check(account: string, address: string): Promise<void> {
    for (const { limiter, keyOf } of this.#kinds) {
      const pause = await limiter.get(`${keyOf(account, address)} pause`);
      if (pause && pause.consumedPoints > 0 && pause.msBeforeNext > 0) throw tooMany(pause.msBeforeNext);
    }
  }

  /** A wrong password: the next try waits, longer each time. */
  async failed(account: string, address: string): Promise<void> {
    for (const { limiter, free, keyOf } of this.#kinds) {
      const key = keyOf(account, address);
      const { consumedPoints } = await limiter.penalty(key, 1);
      if (consumedPoints < free) continue;
      const seconds = Math.min(LONGEST_PAUSE_S, FIRST_PAUSE_S * 2 ** Math.min(20, consumedPoints - free));
      await limiter.set(`${key} pause`, 1, seconds);
    }
  }

  /** The right one: what was wrong before is forgotten for this account from this address. */
  async succeeded(account: string, address: string): Promise<void> {
    const { limiter, keyOf } = this.#kinds[0]!;
    await limiter.delete(keyOf(account, address));
    await limiter.delete(`${keyOf(account, address)} pause`);
  }
}

function tooMany(waitMs: number): Problem {
  const seconds = Math.ceil(waitMs / 1_000);
  const wait = seconds < 90 ? `${seconds} s` : `${Math.ceil(seconds / 60)} min`;
  return new Problem(
    429,
    'Too many wrong passwords',
    `There were too many wrong passwords. Wait ${wait} and try again.`,
    {
      waitSeconds: seconds,
    },
  );
}

/** Bodies that stand too deep within each other are refused before anything walks through them. */
export const refuseTooDeep: RequestHandler = (request, _response, next) => {
  if (isTooDeep(request.body))
    throw new Problem(400, 'That cannot be used', 'The body is nested more than 100 levels deep.');
  next();
};
