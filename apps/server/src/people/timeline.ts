import { momentWords, valueWords, type Value } from '@dart-loop/core';
import type { By, TimelineEntry } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import type { ChangedBy } from '../conversations/changes';

/** Entries of each kind that are looked at; the newest first. */
const MOST = 150;

/** Who or what changed something, in words, with the place to go to. */
export function byWords(by: ChangedBy | null): By {
  if (by === null) return { words: 'the person', loopId: null, stepId: null };
  switch (by.kind) {
    case 'loop':
      return { words: `${by.loop}, version ${by.version}`, loopId: by.loopId, stepId: by.stepId };
    case 'person':
      return { words: 'the person', loopId: null, stepId: null };
    case 'merge':
      return { words: `merge (${by.name})`, loopId: null, stepId: null };
    default:
      return { words: by.name, loopId: null, stepId: null };
  }
}

/**
 * Everything that has happened to a person, the newest first. `who`: their id and those of the people who
 * have become them.
 */
export async function timelineOf(
  db: Connection,
  clientId: number,
  who: string[],
  names: ReadonlyMap<string, string>,
): Promise<TimelineEntry[]> {
  const key = [clientId, who];
  const entries: TimelineEntry[] = [];
  const add = (
    at: Date,
    kind: TimelineEntry['kind'],
    words: string,
    by: By | null,
    link: string | null = null,
  ) => void entries.push({ at: at.toISOString(), kind, words, by, link });

  const fields = await db.query<{
    field: string;
    before: Value | null;
    after: Value | null;
    at: Date;
    by: ChangedBy;
  }>(
    `
      select field, before, after, at, by from field_change
      where client_id = $1 and person_id = any ($2::uuid[]) order by id desc limit ${MOST}`,
    key,
  );
  for (const { field, before, after, at, by } of fields.rows)
    add(
      at,
      'fact',
      `${names.get(field) ?? field.replaceAll('_', ' ')} ${after ? `= ${valueWords(after)}` : 'cleared'}${before ? `, before: ${valueWords(before)}` : ''}`,
      byWords(by),
    );
  const tags = await db.query<{ tag: string; is_on: boolean; at: Date; by: ChangedBy }>(
    `
      select tag, is_on, at, by from tag_change where client_id = $1 and person_id = any ($2::uuid[])
      order by id desc limit ${MOST}`,
    key,
  );
  for (const { tag, is_on, at, by } of tags.rows)
    add(at, 'tag', `tag ${tag} ${is_on ? 'on' : 'off'}`, byWords(by));
  const lists = await db.query<{ list: string; is_on: boolean; at: Date; by: ChangedBy }>(
    `
      select list, is_on, at, by from list_change where client_id = $1 and person_id = any ($2::uuid[])
      order by id desc limit ${MOST}`,
    key,
  );
  for (const { list, is_on, at, by } of lists.rows)
    add(at, 'list', `list ${list} ${is_on ? 'joined' : 'left'}`, byWords(by));
  const consents = await db.query<{
    what: 'opt-in' | 'opt-out' | 'undone';
    words: string;
    line: string | null;
    scope: string;
    list: string | null;
    stated: string | null;
    at: Date;
    by: ChangedBy | null;
  }>(
    `
     select c.what, c.words, l.name as line, c.scope, c.list, c.stated, c.at, c.by from consent c
     left join line l on l.client_id = c.client_id and l.id = c.line_id
     where c.client_id = $1 and c.person_id = any ($2::uuid[]) order by c.id desc limit ${MOST}`,
    key,
  );
  for (const entry of consents.rows) {
    const about = entry.scope === 'everything' ? 'everything' : (entry.list ?? entry.line ?? 'a line');
    const by: By = entry.by
      ? byWords(entry.by)
      : { words: `the person, who wrote “${entry.words}”`, loopId: null, stepId: null };
    add(
      entry.at,
      'consent',
      entry.what === 'undone'
        ? `what was recorded on ${about} is undone: ${entry.words}`
        : `opted ${entry.what === 'opt-out' ? 'out of' : entry.scope === 'list' ? 'in to' : 'in on'} ${about}${entry.stated ? `: ${entry.stated}` : ''}`,
      by,
    );
  }
  const talks = await db.query<{ id: string; line: string; at: Date }>(
    `
      select i.id, l.name as line, i.created_at as at from identity i
      join line l on l.client_id = i.client_id and l.id = i.line_id
      where i.client_id = $1 and i.person_id = any ($2::uuid[])`,
    key,
  );
  for (const { id, line, at } of talks.rows)
    add(at, 'conversation', `conversation on ${line} began`, null, `/inbox/:client/${id}`);
  const talkIds = talks.rows.map((row) => row.id);
  const runs = await db.query<{
    loop: string;
    loop_id: string;
    version: number;
    status: string;
    started_at: Date;
    ended_at: Date | null;
  }>(
    `
     select l.name as loop, r.loop_id, r.version, r.status, r.started_at, r.ended_at from run r
     join loop l on l.client_id = r.client_id and l.id = r.loop_id
     where r.client_id = $1 and r.conversation_id = any ($2::uuid[]) order by r.started_at desc limit ${MOST}`,
    [clientId, talkIds],
  );
  for (const { loop, loop_id, version, status, started_at, ended_at } of runs.rows) {
    add(started_at, 'run', `${loop} began, version ${version}`, null, `/:client/loops/${loop_id}`);
    if (ended_at)
      add(
        ended_at,
        'run',
        `${loop} ${status === 'finished' ? 'was finished' : status === 'replaced' ? 'gave way to another' : 'was stopped'}`,
        null,
        `/:client/loops/${loop_id}`,
      );
  }
  const errands = await db.query<{
    kind: string;
    status: string;
    body: { address?: string; by?: string };
    answer: { reason?: string } | null;
    at: Date;
    by: ChangedBy;
  }>(
    `
      select kind, status, body, answer, coalesce(ended_at, made_at) as at, by from errand
      where client_id = $1 and conversation_id = any ($2::uuid[]) order by made_at desc limit ${MOST}`,
    [clientId, talkIds],
  );
  for (const { kind, status, body, answer, at, by } of errands.rows) {
    const to = kind === 'alert' ? `alert by ${body.by ?? 'email'}` : `sent out to ${hostOf(body.address)}`;
    add(
      at,
      'delivery',
      `${to}, ${status === 'done' ? 'delivered' : status === 'failed' ? `not delivered: ${answer?.reason ?? 'no reason known'}` : 'on its way'}`,
      byWords(by),
    );
  }
  const bookings = await db.query<{
    calendar: string;
    what: string;
    starts_at: Date;
    zone: string;
    at: Date;
    by: ChangedBy;
  }>(
    `
     select b.calendar, b.what, b.starts_at, k.time_zone as zone, b.at, b.by from booking_change b
     join client k on k.id = b.client_id
     where b.client_id = $1 and b.person_id = any ($2::uuid[]) order by b.id desc limit ${MOST}`,
    key,
  );
  for (const { calendar, what, starts_at, zone, at, by } of bookings.rows)
    add(
      at,
      'booking',
      `${calendar} ${what === 'moved' ? 'moved to' : `${what}:`} ${momentWords(starts_at.getTime(), zone)}`,
      byWords(by),
      '/:client/bookings',
    );
  const merges = await db.query<{ at: Date; parted_at: Date | null; by: ChangedBy; name: string | null }>(
    `
      select at, parted_at, by,
        nullif(concat_ws(' ', before #>> '{gone,first_name}', before #>> '{gone,last_name}'), '') as name
      from merge where client_id = $1 and (kept = any ($2::uuid[]) or gone = any ($2::uuid[]))`,
    key,
  );
  for (const { at, parted_at, by, name } of merges.rows) {
    add(at, 'merge', `${name ?? 'somebody'} became one with this person`, byWords(by));
    if (parted_at) add(parted_at, 'merge', `${name ?? 'somebody'} was parted from this person`, null);
  }
  return entries.sort((a, b) => b.at.localeCompare(a.at)).slice(0, 400);
}

function hostOf(address: string | undefined): string {
  try {
    return new URL(address ?? '').host;
  } catch {
    return 'an address';
  }
}
