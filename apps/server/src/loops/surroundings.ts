import { withNothingTaken, type FieldTypes, type Loop } from '@dart-loop/core';
import type { LoopPage, LoopSurroundings } from '@dart-loop/contract';
import { holidaysOf } from '@dart-loop/core/time/holidays';
import { gateOf } from '../answers/sheet';
import { hasSources } from '../answers/sources';
import { calendarFacts, calendarsOf } from '../bookings/calendars';
import type { Connection } from '../platform/db/pool';
import { peopleWordsOf } from '../people/peopleWords';

/**
 * What checks and rehearsals of a loop look at beside it: the client, its fields and lines, and its other
 * loops. `now` (ms): with what of its calendars is taken from then on, for a rehearsal.
 */
export async function surroundingsOf(
  db: Connection,
  clientId: number,
  loopId: string | null,
  now: number | null = null,
): Promise<LoopSurroundings> {
  const client = (
    await db.query<{
      name: string;
      brief: Record<string, string>;
      country: string;
      currency: string | null;
      time_zone: string;
      languages: string[];
      opening_hours: LoopSurroundings['client']['openingHours'];
      files: Record<string, string>;
    }>(
      'select name, brief, country, currency, time_zone, languages, opening_hours, files_of(id) as files from client where id = $1',
      [clientId],
    )
  ).rows[0]!;
  const fields = (
    await db.query<LoopPage['fields'][number]>(
      'select key, type, name from field where client_id = $1 order by name',
      [clientId],
    )
  ).rows;
  const lines = (
    await db.query<LoopPage['lines'][number]>(
      'select key, name, channel, templates from line where client_id = $1 order by id',
      [clientId],
    )
  ).rows;
  // As they are live, or as drafts where they are not yet, so that two can lead to each other.
  const others = (
    await db.query<{ loop: Loop; rests: boolean }>(
      `
       select coalesce(v.loop, l.draft) as loop, (l.live_version is null or l.state <> 'live') as rests
       from loop l left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id
         and v.version = l.live_version
       where l.client_id = $1 and l.id is distinct from $2 and l.archived_at is null order by l.position`,
      [clientId, loopId],
    )
  ).rows;
  const failing = (
    await db.query<{ address: string; reason: string }>(
      `
       select address, reason from (
         select distinct on (body ->> 'address') body ->> 'address' as address, status,
           answer ->> 'reason' as reason
         from errand where client_id = $1 and kind = 'send out' and status <> 'waiting'
         order by body ->> 'address', ended_at desc) last
       where status = 'failed'`,
      [clientId],
    )
  ).rows;
  const { rows: destinations } = await db.query<LoopSurroundings['destinations'][number]>(
    'select name, before, state, failure, kind = \'file\' as "isWhole" from destination where client_id = $1 order by name',
    [clientId],
  );
  const facts: LoopSurroundings['client'] = {
    name: client.name,
    country: client.country,
    ...(client.currency && { currency: client.currency }),
    timeZone: client.time_zone,
    languages: client.languages,
    openingHours: client.opening_hours,
  };
  const { segments, lists } = (await peopleWordsOf(db, [clientId]))(clientId);
  return {
    segments,
    lists,
    holidays: holidaysOf(client.country, client.languages, new Date(now ?? Date.now()).getUTCFullYear()),
    hasSources: await hasSources(db, clientId, { ...facts, brief: client.brief }),
    sheet: await gateOf(db, clientId),
    calendars:
      now === null
        ? withNothingTaken((await calendarsOf(db, [clientId]))(clientId))
        : await calendarFacts(db, clientId, now),
    client: facts,
    brief: client.brief,
    files: client.files,
    types: Object.fromEntries(fields.map((field) => [field.key, field.type])) as FieldTypes,
    fieldNames: Object.fromEntries(fields.map((field) => [field.key, field.name])),
    lines,
    others: others.map(({ loop: { takes: _takes, accepted: _accepted, ...loop } }) => loop),
    resting: others.filter(({ rests }) => rests).map(({ loop }) => loop.name),
    destinations,
    failing: Object.fromEntries(failing.map(({ address, reason }) => [address, reason])),
  };
}
