import type { ChangedBy } from '../../conversations/changes';
import { byWords } from '../byWords';
import { entriesOf, MOST, type Source } from './source';

/** Their conversations, whoever of those that became them had them. */
const TALKS = `array(
  select id from identity where client_id = $1 and person_id = any ($2::uuid[]))`;

/** Where they have written to us. */
export const conversations: Source = async ({ db, key }) => {
  const { entries, add } = entriesOf();
  const talks = await db.query<{ id: string; line: string; at: Date }>(
    `
      select i.id, l.name as line, i.created_at as at from identity i
      join line l on l.client_id = i.client_id and l.id = i.line_id
      where i.client_id = $1 and i.person_id = any ($2::uuid[])`,
    key,
  );
  for (const { id, line, at } of talks.rows)
    add(at, 'conversation', `conversation on ${line} began`, null, `/inbox/:client/${id}`);
  return entries;
};

/** The loops that ran with them. */
export const runs: Source = async ({ db, key }) => {
  const { entries, add } = entriesOf();
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
     where r.client_id = $1 and r.conversation_id = any (${TALKS}) order by r.started_at desc limit ${MOST}`,
    key,
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
  return entries;
};

/** What was sent to other systems and to the team about them. */
export const errands: Source = async ({ db, key }) => {
  const { entries, add } = entriesOf();
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
      where client_id = $1 and conversation_id = any (${TALKS}) order by made_at desc limit ${MOST}`,
    key,
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
  return entries;
};

function hostOf(address: string | undefined): string {
  try {
    return new URL(address ?? '').host;
  } catch {
    return 'an address';
  }
}
