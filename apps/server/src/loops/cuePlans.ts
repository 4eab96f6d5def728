import { dateDue, zoneOf, type ClientFacts, type PersonFacts, type Value } from '@dart-loop/core';
import { durationMs } from '@dart-loop/core/loops/model/basics';
import type { Clock } from '../platform/clock';
import { toJson } from '../platform/db/json';
import { inTransactionAgain, type Connection, type Db } from '../platform/db/pool';
import { PublishedLoops } from './liveLoops';
import type { Resting } from '../platform/jobs/resting';

const AT_ONCE = 1_000;

interface Row {
  address: string;
  person_id: string;
  conversation_id: string;
  line_id: number;
  fields: Record<string, Value>;
  heard_at: string | null;
}

/**
 * Cues that wait for a day or for silence get their timers for everybody when they are published: days that
 * are known already, silences that have begun and are not over. One client at a time, a thousand people at a
 * time. Returns whether anything was done.
 */
export async function planCues(
  db: Db,
  clock: Clock,
  resting: Resting,
  loops = new PublishedLoops(),
): Promise<boolean> {
  return inTransactionAgain(db, async (connection) => {
    const { rows } = await connection.query<Planned>(
      `
        select id, cue_revision from client where planned_revision < cue_revision and id <> all ($1::int[])
        order by id limit 1 for no key update skip locked`,
      [resting.of('cues').map(Number)],
    );
    const client = rows[0];
    if (!client) return false;
    await connection.query('savepoint planning');
    // One that fails is not planned, and is tried again later.
    if (await resting.try('cues', client.id, () => planFor(connection, client, clock.now(), loops)))
      return true;
    await connection.query('rollback to savepoint planning');
    return true;
  });
}

interface Planned {
  id: number;
  cue_revision: number;
}

async function planFor(
  connection: Connection,
  client: Planned,
  now: number,
  loops: PublishedLoops,
): Promise<true> {
  await loops.loadClients(connection, new Map([[client.id, client.cue_revision]]));
  const { cues, facts } = loops.client(client.id);
  for (const { loopId, cue, lines } of cues.dates)
    await eachPerson(connection, client.id, lines, `p.fields ? $4`, cue.field, (row) => {
      const value = row.fields[cue.field];
      const due =
        value?.type === 'date'
          ? dateDue(
              cue,
              value.value,
              now,
              zoneOf(personOf(row), facts as ClientFacts, row.address.startsWith('+') ? row.address : null),
            )
          : null;
      return due === null || value?.type !== 'date'
        ? null
        : {
            key: `date:${loopId}:${cue.id}`,
            due,
            incoming: { kind: 'date', loopId, cueId: cue.id, of: value.value },
          };
    });
  for (const { loopId, cue, lines } of cues.silences)
    await eachPerson(
      connection,
      client.id,
      lines,
      `c.standing ? 'lastHeardAt' and $4::text is not null`,
      '',
      (row) => {
        const since = Number(row.heard_at);
        const due = since + durationMs(cue.after);
        return since > 0 && due > now
          ? {
              key: `silence:${loopId}:${cue.id}`,
              due,
              incoming: { kind: 'silence', loopId, cueId: cue.id, since },
            }
          : null;
      },
    );
  await connection.query('update client set planned_revision = $2 where id = $1', [
    client.id,
    client.cue_revision,
  ]);
  return true;
}

const personOf = (row: Row) => ({ fields: row.fields }) as PersonFacts;

/**
 * People by key, a thousand at a time, each with the conversation that was last used among the cue's lines.
 */
async function eachPerson(
  db: Connection,
  clientId: number,
  lines: readonly string[],
  where: string,
  value: string,
  timerOf: (row: Row) => { key: string; due: number; incoming: object } | null,
): Promise<void> {
  let after = '00000000-0000-0000-0000-000000000000';
  for (;;) {
    const { rows } = await db.query<Row>(
      `
       select distinct on (p.id) p.id as person_id, c.id as conversation_id, c.line_id, c.address, p.fields,
         c.standing ->> 'lastHeardAt' as heard_at
       from person p
       join identity i on i.client_id = p.client_id and i.person_id = p.id
       join conversation c on c.client_id = i.client_id and c.id = i.id
       join line l on l.client_id = c.client_id and l.id = c.line_id
       where p.client_id = $1 and p.id > $2 and (cardinality($3::text[]) = 0 or l.key = any($3)) and ${where}
       order by p.id, c.last_at desc limit ${AT_ONCE}`,
      [clientId, after, lines, value],
    );
    if (rows.length === 0) return;
    after = rows.at(-1)!.person_id;
    const timers = rows.flatMap((row) => {
      const timer = timerOf(row);
      return timer ? [{ row, ...timer }] : [];
    });
    await db.query(
      `
       insert into timer (client_id, conversation_id, key, line_id, due_at, incoming)
       select $1, * from unnest($2::uuid[], $3::text[], $4::int[], $5::timestamptz[], $6::jsonb[])
       on conflict (client_id, conversation_id, key) do update
       set due_at = excluded.due_at, incoming = excluded.incoming`,
      [
        clientId,
        timers.map(({ row }) => row.conversation_id),
        timers.map(({ key }) => key),
        timers.map(({ row }) => row.line_id),
        timers.map(({ due }) => new Date(due)),
        timers.map(({ incoming }) => toJson(incoming)),
      ],
    );
  }
}
