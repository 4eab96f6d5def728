import {
  SaveAgencyModel,
  SaveClientModel,
  type AgencyModelPage,
  type ClientModelPage,
  type ModelCall,
  type ModelSpent,
} from '@dart-loop/contract';
import { UNITS, USUAL_LIMITS } from '@dart-loop/core/answers/hosted/settings';
import { byOf } from '../../accounts/byOf';
import { route } from '../../http/route';
import type { Clock } from '../../platform/clock';
import { auditAgency } from '../../platform/db/agencyAudit';
import { audit } from '../../platform/db/audit';
import { toJson } from '../../platform/db/json';
import type { Connection } from '../../platform/db/pool';
import type { Keyring } from '../../platform/keyring';
import { Problem, wrong } from '../../platform/problem';
import { agencyModel, clientModel, type ClientModelRow, type StoredModel } from './stored';

const SHOWN_CALLS = 30;
/** Characters of what came back that are shown. */
const SHOWN_OF_ANSWER = 500;

/** The hosted model of the agency, and what each client does with one. */
export const modelRoutes = ({ clock, keys }: { clock: Clock; keys: Keyring }) => [
  route({
    method: 'get',
    path: '/model',
    may: 'manage clients',
    async handle({ db, account }): Promise<AgencyModelPage> {
      const kept = await agencyModel(db, account.agencyId);
      const { rows: spent } = await db.query<ModelSpent>('select * from model_spent_by($1, $2)', [
        account.agencyId,
        new Date(clock.now()),
      ]);
      const { rows: clients } = await db.query<{ name: string }>(
        `
          select c.name from client_model m join client c on c.id = m.client_id
          where m.uses = 'agency' order by lower(c.name)`,
      );
      return {
        kept: shownModel(kept),
        spent: spent.map(inCurrency),
        usedBy: clients.map(({ name }) => name),
      };
    },
  }),
  route<Record<string, never>, SaveAgencyModel>({
    method: 'put',
    path: '/model',
    may: 'manage clients',
    body: SaveAgencyModel,
    async handle(asked): Promise<void> {
      const { db, account, body } = asked;
      const before = await agencyModel(db, account.agencyId);
      stopIfNoKey(before, body.token);
      await db.query(
        `
          insert into agency_model as m (agency_id, settings, secrets, hint) values ($1, $2, $3, $4)
          on conflict (agency_id) do update set settings = excluded.settings,
            secrets = coalesce(excluded.secrets, m.secrets), hint = coalesce(excluded.hint, m.hint)`,
        [account.agencyId, toJson(body.model), ...sealed(keys, body.token)],
      );
      await auditAgency(db, byOf(asked, clock.now()), 'set the hosted model', {
        before: before?.settings ?? null,
        after: body.model,
        newKey: body.token !== undefined,
      });
    },
  }),
  route({
    method: 'delete',
    path: '/model',
    may: 'manage clients',
    async handle(asked): Promise<void> {
      const { db, account } = asked;
      const before = await agencyModel(db, account.agencyId);
      await db.query('delete from agency_model where agency_id = $1', [account.agencyId]);
      await auditAgency(db, byOf(asked, clock.now()), 'removed the hosted model', {
        before: before?.settings ?? null,
      });
    },
  }),
  route({
    method: 'get',
    path: '/clients/:client/model',
    may: 'see sources',
    handle: ({ db, client, account }) => clientPage(db, client.id, account.agencyId, clock.now()),
  }),
  route<Record<string, never>, SaveClientModel>({
    method: 'put',
    path: '/clients/:client/model',
    may: 'change sources',
    body: SaveClientModel,
    async handle({ db, client, account, body }): Promise<ClientModelPage> {
      const before = await clientModel(db, client.id);
      if (body.uses === 'none') await db.query('delete from client_model where client_id = $1', [client.id]);
      else await save(db, client.id, account.agencyId, body, before, keys);
      await audit(db, client.id, account.id, clock.now(), 'set the hosted model', {
        before: before && { uses: before.uses, model: before.settings, limits: before.limits },
        after: { uses: body.uses, model: body.own, limits: body.limits },
        newKey: body.token !== undefined,
      });
      return clientPage(db, client.id, account.agencyId, clock.now());
    },
  }),
];

async function save(
  db: Connection,
  clientId: number,
  agencyId: number,
  body: SaveClientModel,
  before: ClientModelRow | null,
  keys: Keyring,
): Promise<void> {
  if (body.uses === 'own') {
    if (!body.own) throw wrong('own', 'is missing: where the model is, and what it costs');
    stopIfNoKey(before, body.token);
  } else if ((await agencyModel(db, agencyId)) === null)
    throw new Problem(409, 'There is none', 'The agency has no hosted model; an owner can set one up.');
  await db.query(
    `
      insert into client_model as m (client_id, uses, settings, limits, secrets, hint)
      values ($1, $2, $3, $4, $5, $6)
      on conflict (client_id) do update set uses = excluded.uses, limits = excluded.limits,
        settings = coalesce(excluded.settings, m.settings),
        secrets = coalesce(excluded.secrets, m.secrets), hint = coalesce(excluded.hint, m.hint)`,
    [clientId, body.uses, body.own && toJson(body.own), toJson(body.limits), ...sealed(keys, body.token)],
  );
}

function stopIfNoKey(before: { secrets: Buffer | null } | null, token: string | undefined): void {
  if (!before?.secrets && token === undefined) throw wrong('token', 'is missing: the model’s key');
}

const sealed = (keys: Keyring, token: string | undefined): [Buffer | null, string | null] =>
  token === undefined ? [null, null] : [keys.seal({ token }), token.slice(-4)];

const shownModel = (kept: Pick<StoredModel, 'settings' | 'hint'> | null) =>
  kept && { model: kept.settings, hint: kept.hint };

const inCurrency = ({ cost, ...spent }: ModelSpent): ModelSpent => ({ ...spent, cost: cost / UNITS });

async function clientPage(
  db: Connection,
  clientId: number,
  agencyId: number,
  now: number,
): Promise<ClientModelPage> {
  const row = await clientModel(db, clientId);
  const agency = await agencyModel(db, agencyId);
  const { rows: spent } = await db.query<ModelSpent>(
    `
      select currency, sum(calls)::int as calls, sum(cost)::bigint as cost from model_spent
      where client_id = $1 and month = date_trunc('month', $2::timestamptz at time zone 'UTC')::date
      group by currency order by currency`,
    [clientId, new Date(now)],
  );
  const { rows: calls } = await db.query<
    Omit<ModelCall, 'at' | 'tokens' | 'conversationId' | 'tookMs'> & {
      at: Date;
      conversation_id: string | null;
      tokens: number | null;
      took_ms: number | null;
    }
  >(
    `
      select id, at, conversation_id, model, question, left(answer, $3) as answer, said, came, why,
        sent + back as tokens, cost, currency, took_ms
      from model_call where client_id = $1 order by id desc limit $2`,
    [clientId, SHOWN_CALLS, SHOWN_OF_ANSWER],
  );
  return {
    uses: row?.uses ?? 'none',
    own: row?.settings ? { model: row.settings, hint: row.hint } : null,
    limits: row?.limits ?? USUAL_LIMITS,
    agency: agency?.secrets ? { model: agency.settings.model, currency: agency.settings.currency } : null,
    spent: spent.map(inCurrency),
    calls: calls.map(({ at, conversation_id, took_ms, cost, ...call }) => ({
      ...call,
      at: at.toISOString(),
      conversationId: conversation_id,
      cost: cost / UNITS,
      tookMs: took_ms,
    })),
  };
}
