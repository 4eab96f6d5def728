import type { LineRow } from '@dart-loop/contract';
import type { Adapters } from '../channels';
import { LineCaps } from '@dart-loop/contract';
import { type ChannelKind, Menus, type Template } from '@dart-loop/core';
import type { Failure } from '../channels/adapter';
import { Problem } from '../platform/problem';

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
export const otherAccount = (name: string) =>
  new Problem(
    422,
    'Not renewed',
    `These secrets are of another account. To renew ${name}, take them from its own page; to connect the other account, add a line.`,
  );
export const ROWS = `
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
export const shownLine = (row: Row, adapters: Adapters, hookAddress: (token: string) => string): LineRow => ({
  id: row.id,
  key: row.key,
  name: row.name,
  channel: row.channel,
  webhook: hookAddress(row.hook_token),
  known: adapters[row.channel].typedOf(row.account),
  hints: row.secret_hints,
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
