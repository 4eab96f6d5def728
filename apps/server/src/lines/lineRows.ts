import type { LineCaps, LineRow } from '@dart-loop/contract';
import type { ChannelKind, Menus, Template } from '@dart-loop/core';
import { isTrial, type Adapters } from '../channels';
import type { Failure, OpenLine } from '../channels/adapter';
import type { Clock } from '../platform/clock';
import type { Connection } from '../platform/db/pool';
import type { Keyring } from '../platform/keyring';
import { notFound } from '../platform/problem';

export interface Row {
  id: number;
  key: string;
  name: string;
  channel: ChannelKind;
  account: Record<string, string>;
  secrets: Buffer | null;
  secret_hints: Record<string, string>;
  hook_token: string;
  connected_at: Date | null;
  last_heard_at: Date | null;
  last_sent_at: Date | null;
  failing_since: Date | null;
  failure: Failure | null;
  held: number;
  aside: number;
  caps: LineCaps;
  menus: Menus;
  templates: Template[];
  time_zone: string;
  failures: LineRow['failures'];
  platform_notes: LineRow['notes'] | null;
  unasked_today: number;
}
const ROWS = `
  select l.*, (select count(*) from message m where m.line_id = l.id and m.status = 'queued')::int as held,
    (select count(*) from aside a where a.client_id = l.client_id and a.line_id = l.id)::int as aside,
      k.time_zone,
    (select count(*) from message m
      where m.line_id = l.id and m.unasked
      and m.sent_at >= (date_trunc('day', $2::timestamptz at time zone k.time_zone) at time zone
      k.time_zone))::int as unasked_today,
    (select coalesce(jsonb_agg(jsonb_build_object('reason', reason, 'remedy', remedy, 'count', count, 'waits',
      waits) order by waits, count desc), '[]') from (
      select m.status <> 'failed' as waits, (array_agg(m.failure ->> 'reason' order by m.made_at desc))[1] as
        reason, (array_agg(m.failure ->> 'remedy' order by m.made_at desc))[1] as remedy, count(*) as count
      from message m where m.line_id = l.id and m.status in ('failed', 'queued', 'held')
        and m.made_at > $2::timestamptz - interval '7 days' and m.failure is not null
      group by m.status <> 'failed', m.failure ->> 'code') f) as failures
  from line l join client k on k.id = l.client_id where l.client_id = $1 and l.secrets is not null`;

/** A line as the team sees it: its secrets by their last four characters. */
const shownLine = (row: Row, adapters: Adapters, hookAddress: (token: string) => string): LineRow => ({
  id: row.id,
  key: row.key,
  name: row.name,
  channel: row.channel,
  webhook: hookAddress(row.hook_token),
  known: adapters.of(row).typedOf(row.account),
  hints: row.secret_hints,
  trial: isTrial(row.account),
  state: row.failing_since ? 'failing' : row.last_heard_at ? 'connected' : 'never heard',
  connectedAt: row.connected_at?.toISOString() ?? null,
  lastHeardAt: row.last_heard_at?.toISOString() ?? null,
  lastSentAt: row.last_sent_at?.toISOString() ?? null,
  failingSince: row.failing_since?.toISOString() ?? null,
  failure: row.failure && { reason: row.failure.reason, remedy: row.failure.remedy },
  notes: row.platform_notes ?? [],
  failures: row.failures,
  templates: row.templates.map(({ name, language, status, body }) => ({ name, language, status, body })),
  caps: row.caps,
  unaskedToday: row.unasked_today,
  held: row.held,
  aside: row.aside,
});

/** What the routes of lines are given. */
export interface LineOptions {
  clock: Clock;
  keys: Keyring;
  adapters: Adapters;
  /** Where the stand-ins are; null: there is no test phone. */
  standins: string | null;
  hookAddress: (token: string) => string;
  linesChanged: (clientId: number) => void;
}

/** How a client's lines are read, shown and opened. */
export interface LineParts {
  shown(row: Row): LineRow;
  rows(db: Connection, clientId: number, lineId?: string): Promise<Row[]>;
  /** Throws 404 where there is no such line. */
  one(db: Connection, clientId: number, lineId: string): Promise<Row>;
  openLine(clientId: number, row: Row): Promise<OpenLine>;
}

export function partsOf({ clock, keys, adapters, hookAddress }: LineOptions): LineParts {
  const rows = async (db: Connection, clientId: number, lineId?: string): Promise<Row[]> =>
    (
      await db.query<Row>(`${ROWS} and ($3::int is null or l.id = $3) order by l.id`, [
        clientId,
        new Date(clock.now()),
        lineId === undefined ? null : Number(lineId),
      ])
    ).rows;
  return {
    shown: (row) => shownLine(row, adapters, hookAddress),
    rows,
    async one(db, clientId, lineId) {
      const [row] = await rows(db, clientId, lineId);
      if (!row) throw notFound('line');
      return row;
    },
    openLine: async (clientId, row) => ({
      clientId,
      id: row.id,
      key: row.key,
      name: row.name,
      channel: row.channel,
      account: row.account,
      secrets: await keys.unseal(row.secrets!),
      hookToken: row.hook_token,
      caps: row.caps,
      timeZone: row.time_zone,
      // Nothing is sent with it.
      quiet: {},
    }),
  };
}
