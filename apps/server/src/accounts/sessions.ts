import type { Request, Response, Router } from 'express';
import {
  SignIn,
  type ClientSummary,
  type DemoSignIn,
  type Display,
  type Grant,
  type Role,
  type Session,
  type SignInChoices,
  type TestPhone,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { auditAgency } from '../platform/db/agencyAudit';
import type { Db } from '../platform/db/pool';
import { newToken } from '../platform/ids';
import type { Keyring } from '../platform/keyring';
import { hashPassword, passwordFits, tokenHash } from '../platform/secrets';
import { takeCode } from './secondFactor';
import type { SignInLimit } from '../http/limits';
import { Problem, readBody } from '../platform/problem';
import { COOKIE, cookieOf } from '../http/cookie';
import { route, type Account } from '../http/route';

const LASTS_MS = 14 * 86_400_000;

interface AccountRow {
  id: number;
  agency_id: number;
  name: string;
  email: string;
  role: Role;
  grants: Grant[];
  password_hash: string;
  client_ids: number[];
  all_clients: boolean;
  has_factor: boolean;
}
const ACCOUNT = `
  select a.id, a.agency_id, a.name, a.email, a.role, a.grants, a.password_hash, a.all_clients,
    a.factor_since is not null as has_factor,
    case when a.all_clients then array(select id from client_of_agency(a.agency_id))
      else array(select client_id from account_client where account_id = a.id
        and client_id in (select id from client_of_agency(a.agency_id))
      order by client_id) end as client_ids
  from account a`;

/** Fails as slowly as a real check, so that addresses cannot be told apart by time. */
let nobodysHash: string | null = null;

export class Sessions {
  constructor(
    private readonly db: Db,
    private readonly clock: Clock,
    private readonly secure: boolean,
    private readonly keys: Keyring,
    private readonly limit: SignInLimit,
  ) {}

  /** How the session of a request is named where it is spoken of: the hash of its token. */
  nameOf = (request: Request): string => tokenHash(cookieOf(request) ?? '').toString('hex');

  /** Lets go of sessions that count no more. */
  async clear(): Promise<void> {
    await this.db.query('delete from session where expires_at < $1', [new Date(this.clock.now())]);
  }

  accountOf = async (request: Request): Promise<Account | null> => {
    const token = cookieOf(request);
    if (!token) return null;
    const { rows } = await this.db.query<AccountRow>(
      `${ACCOUNT} join session s on s.account_id = a.id where s.token_hash = $1 and s.expires_at > $2
        and a.left_at is null`,
      [tokenHash(token), new Date(this.clock.now())],
    );
    const row = rows[0];
    return row
      ? {
          id: row.id,
          agencyId: row.agency_id,
          name: row.name,
          email: row.email,
          role: row.role,
          grants: row.grants,
          clientIds: row.client_ids,
          allClients: row.all_clients,
        }
      : null;
  };

  /** The routes that need no session. */
  hang(router: Router, demo: DemoSignIn[]): void {
    router.get('/sign-in', async (_request, response) => {
      const choices: SignInChoices = { firstRun: await this.isFirstRun(), demo };
      response.json(choices);
    });
    // Not being signed in is an answer here, not an error: the web asks this first of all.
    router.get('/session', async (request, response, next) => {
      if (await this.accountOf(request)) next();
      else response.json(null);
    });
    router.post('/session', async (request, response) => {
      const { email, password, code } = readBody(SignIn, request.body);
      const from = request.ip ?? 'unknown';
      await this.limit.check(email, from);
      const { rows } = await this.db.query<AccountRow>(
        `${ACCOUNT} where a.email = $1 and a.left_at is null`,
        [email],
      );
      nobodysHash ??= await hashPassword(newToken());
      const fits = await passwordFits(password, rows[0]?.password_hash ?? nobodysHash);
      if (!rows[0] || !fits) {
        await this.limit.failed(email, from);
        if (rows[0]) await this.#note(rows[0], request, 'gave a wrong password');
        throw new Problem(401, 'Not signed in', 'That address and password do not belong together.');
      }
      if (rows[0].has_factor) await this.#stopWithoutCode(rows[0], code, request);
      await this.limit.succeeded(email, from);
      await this.#note(rows[0], request, 'signed in');
      await this.begin(request, response, rows[0].id);
    });
    router.delete('/session', async (request, response) => {
      const token = cookieOf(request);
      if (token) await this.db.query('delete from session where token_hash = $1', [tokenHash(token)]);
      response.clearCookie(COOKIE, { path: '/' }).status(204).end();
    });
  }

  /** The password alone does not let in whoever has a second factor. */
  async #stopWithoutCode(account: AccountRow, code: string | undefined, request: Request): Promise<void> {
    if (code && (await takeCode(this.db, this.keys, account.id, code, this.clock.now()))) return;
    if (code) {
      await this.limit.failed(account.email, request.ip ?? 'unknown');
      await this.#note(account, request, 'gave a wrong code');
    }
    const detail = code ? 'That code does not count (any more).' : 'Type the code of your authenticator.';
    throw new Problem(401, 'Not signed in', detail, { needsCode: true });
  }

  #note({ id, agency_id }: AccountRow, request: Request, what: string): Promise<void> {
    const by = { agencyId: agency_id, accountId: id, now: this.clock.now(), address: request.ip ?? null };
    return auditAgency(this.db, by, what, {});
  }

  /** Whether nobody has an account yet; once somebody has, it is not asked again. */
  async isFirstRun(): Promise<boolean> {
    if (this.#isFounded) return false;
    this.#isFounded = (await this.db.query('select from account limit 1')).rowCount !== 0;
    return !this.#isFounded;
  }

  #isFounded = false;

  /** Begins a session in the browser that asks, and ends the one it had. */
  async begin(request: Request, response: Response, accountId: number): Promise<void> {
    // Whoever signs in anew leaves the session that this browser had.
    const before = cookieOf(request);
    if (before) await this.db.query('delete from session where token_hash = $1', [tokenHash(before)]);
    const token = newToken();
    const now = this.clock.now();
    await this.db.query(
      `
        insert into session (token_hash, account_id, created_at, expires_at, browser, address)
        values ($1, $2, $3, $4, $5, $6)`,
      [
        tokenHash(token),
        accountId,
        new Date(now),
        new Date(now + LASTS_MS),
        (request.headers['user-agent'] ?? '').slice(0, 300),
        request.ip ?? '',
      ],
    );
    response
      .cookie(COOKIE, token, {
        httpOnly: true,
        sameSite: 'lax',
        secure: this.secure,
        path: '/',
        maxAge: LASTS_MS,
      })
      .status(204)
      .end();
  }
}

export function sessionRoutes(testPhone: TestPhone | null) {
  return [
    route({
      method: 'get',
      path: '/session',
      may: 'signed in',
      async handle({ account, db }): Promise<Session> {
        const own = await db.query<{ agency: string; display: Display }>(
          `
            select g.name as agency, jsonb_build_object('locale', a.locale, 'timeZone', a.time_zone) as display
            from account a join agency g on g.id = a.agency_id where a.id = $1`,
          [account.id],
        );
        const clients = await db.query<ClientSummary>(
          `
           select c.slug, c.id, c.name,
             (select count(*) from conversation v
               where v.client_id = c.id and v.shelf = 'waiting on us')::int as waiting,
             (select count(*) from line l
               where l.client_id = c.id and l.failing_since is not null)::int as "failingLines",
             c.id = any (a.pinned) as pinned
           from client c cross join account a where a.id = $1 order by pinned desc, lower(c.name), c.id`,
          [account.id],
        );
        return {
          account: {
            id: account.id,
            name: account.name,
            email: account.email,
            role: account.role,
            grants: account.grants,
            ...own.rows[0]!,
          },
          clients: clients.rows,
          testPhone,
        };
      },
    }),
  ];
}
