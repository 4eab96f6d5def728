import { ClientBrief, HolidayQuery, Seen, type BriefPage, type HolidayRow } from '@dart-loop/contract';
import { publicHolidays } from '@dart-loop/core/time/holidays';
import { localTime } from '@dart-loop/core';
import { fileNamed } from '@dart-loop/core/people/client';
import { entryProblem } from '@dart-loop/core/people/briefEntries';
import type { z } from 'zod';
import { revisionOf, stopIfChanged } from '../http/revision';
import { route } from '../http/route';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { wrong } from '../platform/problem';
import { stopIfNoZone } from './routes';
import { sameJson } from '@dart-loop/core/sameJson';

/** What the audit calls it. */
const CHANGED = 'changed the brief';

/** A client's brief: its facts, kept once and merged anywhere. */
export const briefRoutes = ({
  clock,
  linesChanged,
}: {
  clock: Clock;
  /** What is known of a client by heart is read again. */
  linesChanged: (clientId: number) => void;
}) => [
  route({
    method: 'get',
    path: '/clients/:client/brief',
    may: 'see brief',
    async handle({ db, client }): Promise<BriefPage> {
      const kept = await briefOf(db, client.id);
      return {
        ...kept,
        revision: revisionOf(kept),
        usedBy: await usesOf(db, client.id),
      };
    },
  }),
  route({
    method: 'get',
    path: '/clients/:client/brief/holidays',
    may: 'see brief',
    query: HolidayQuery,
    async handle({ db, client, query }): Promise<HolidayRow[]> {
      const { timeZone, languages } = await briefOf(db, client.id);
      const { date } = localTime(clock.now(), timeZone);
      return publicHolidays(query.country, languages[0] ?? 'en', date);
    },
  }),
  route<z.infer<typeof Seen>, ClientBrief>({
    method: 'put',
    path: '/clients/:client/brief',
    may: 'change brief',
    query: Seen,
    body: ClientBrief,
    async handle({ db, client, account, body, query, afterwards }) {
      stopIfNoZone(body.timeZone);
      stopIfUnread(body, clock.now());
      const before = await briefOf(db, client.id, true);
      await stopIfNoFile(db, client.id, body);
      await stopIfChanged(db, client.id, query.seen, revisionOf(before), { what: CHANGED, detail: {} });
      const brief = Object.fromEntries(Object.entries(body.brief).filter(([, said]) => said));
      const types = Object.entries(body.entryTypes).filter(([key, type]) => brief[key] && type !== 'text');
      await db.query(
        `
          update client set name = $2, brief = $3, country = $4, time_zone = $5, languages = $6,
            opening_hours = $7, currency = $8, entry_types = $9, cue_revision = cue_revision + 1,
              sources_revision = sources_revision + 1, sources_because = 'the brief was changed'
          where id = $1`,
        [
          client.id,
          body.name,
          toJson(brief),
          body.country,
          body.timeZone,
          body.languages,
          toJson(body.openingHours),
          body.currency,
          toJson(Object.fromEntries(types)),
        ],
      );
      const after = await briefOf(db, client.id);
      await audit(db, client.id, account.id, clock.now(), CHANGED, differences(before, after));
      afterwards(() => linesChanged(client.id));
    },
  }),
];

/** An entry that is a file is one that the client has. */
async function stopIfNoFile(
  db: Connection,
  clientId: number,
  { brief, entryTypes }: Pick<ClientBrief, 'brief' | 'entryTypes'>,
): Promise<void> {
  const entries = Object.keys(entryTypes).filter((each) => entryTypes[each] === 'file');
  if (entries.length === 0) return;
  const { rows } = await db.query<{ key: string }>('select key from kept_file where client_id = $1', [
    clientId,
  ]);
  const files = new Set(rows.map((row) => row.key));
  for (const key of entries) {
    const named = fileNamed((brief as Record<string, string>)[key] ?? '');
    if (named !== null && !files.has(named))
      throw wrong(`brief.${key}`, 'names a file that the client does not have');
  }
}

/** An entry with a type is what it says it is; the first that is not is told. */
function stopIfUnread({ brief, entryTypes, country, timeZone }: ClientBrief, now: number): void {
  for (const [key, type] of Object.entries(entryTypes)) {
    const problem = entryProblem(type, brief[key] ?? '', { country, now, zone: timeZone });
    if (problem) throw wrong(`brief.${key}`, problem);
  }
}

async function briefOf(db: Connection, clientId: number, held = false): Promise<ClientBrief> {
  const { rows } = await db.query<ClientBrief>(
    `
      select name, brief, entry_types as "entryTypes", country, currency, time_zone as "timeZone",
        languages, opening_hours as "openingHours"
      from client where id = $1 ${held ? 'for no key update' : ''}`,
    [clientId],
  );
  return rows[0]!;
}

/** Which loops name which entry, by a merge field anywhere in their drafts. */
async function usesOf(db: Connection, clientId: number): Promise<Record<string, string[]>> {
  const { rows } = await db.query<{ name: string; keys: string[] }>(
    `
      select name, array(select distinct m[1]
        from regexp_matches(draft::text, '\\{\\{-?\\s*brief\\.([a-z0-9_]+)', 'g') as m) as keys
      from loop where client_id = $1 and archived_at is null order by lower(name)`,
    [clientId],
  );
  const uses: Record<string, string[]> = {};
  for (const { name, keys } of rows) for (const key of keys) (uses[key] ??= []).push(name);
  return uses;
}

/** What is another now, before and after. */
function differences(before: ClientBrief, after: ClientBrief): Record<string, unknown> {
  const flat = ({ brief, ...rest }: ClientBrief): Record<string, unknown> => ({ ...rest, ...brief });
  const [was, is] = [flat(before), flat(after)];
  const changed = [...new Set([...Object.keys(was), ...Object.keys(is)])].filter(
    (key) => !sameJson(was[key] ?? null, is[key] ?? null),
  );
  const pick = (from: Record<string, unknown>) =>
    Object.fromEntries(changed.map((key) => [key, from[key] ?? null]));
  return { before: pick(was), after: pick(is) };
}
