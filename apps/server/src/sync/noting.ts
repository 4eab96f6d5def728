import { destinationNamed } from '@dart-loop/core/sync/named';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import type { Changes } from '../conversations/changes';

/** A delivery that is wanted. `off`: nothing goes to the destination, and the delivery says so. */
export interface Wanted {
  client_id: number;
  person_id: string;
  destination_id: string;
  off: boolean;
  cause: string;
  at: string;
}

/**
 * Notes deliveries, at most one for each person and destination; what happens within a second is one
 * delivery, as with all that changes.
 */
export async function noteDeliveries(db: Connection, wanted: readonly Wanted[]): Promise<void> {
  if (wanted.length === 0) return;
  await db.query({
    name: 'note-deliveries',
    text: `
           insert into delivery (client_id, id, destination_id, person_id, status, causes, due_at, made_at,
             outcome, ended_at)
           select t.client_id, gen_random_uuid(), t.destination_id, t.person_id, case
             when t.off then 'left out' else 'waiting' end, array[t.cause],
             t.at + interval '1 second', t.at, case when t.off then 'the destination is off' end, case
               when t.off then t.at end
           from json_to_recordset($1::json) as t (client_id int, person_id uuid, destination_id uuid,
             off boolean, cause text, at timestamptz)
           join person p on p.client_id = t.client_id and p.id = t.person_id
           order by t.client_id, t.destination_id, t.person_id
           on conflict (client_id, destination_id, person_id) where status = 'waiting' and attempts = 0
             and taken_until is null
           do update
           set causes = (array(select distinct unnest(delivery.causes || excluded.causes) order by 1))[1:20]`,
    values: [toJson(wanted)],
  });
}

/**
 * Notes what steps send out, each to the destination of the name it says. One that is not there was refused
 * when the loop was published.
 */
export async function noteSentOut(db: Connection, steps: Changes['deliveries']): Promise<void> {
  const { rows: destinations } = await db.query<{
    client_id: number;
    id: string;
    name: string;
    before: string[];
    state: string;
  }>('select client_id, id, name, before, state from destination where client_id = any ($1)', [
    [...new Set(steps.map((each) => each.client_id))],
  ]);
  const wanted = new Map<string, Wanted>();
  for (const { client_id, person_id, destination, cause, at } of steps) {
    const ofClient = destinations.filter((each) => each.client_id === client_id);
    const found = destinationNamed(ofClient, destination);
    if (found)
      wanted.set(`${found.id} ${person_id}`, {
        client_id,
        person_id,
        destination_id: found.id,
        off: found.state === 'off',
        cause,
        at,
      });
  }
  await noteDeliveries(db, [...wanted.values()]);
}

/** Notes that a file is to go out; one that waits already is enough. */
export async function noteFile(
  db: Connection,
  { client_id, id }: { client_id: number; id: string },
  cause: string,
  now: number,
): Promise<void> {
  await db.query(
    `
     insert into delivery (client_id, id, destination_id, person_id, causes, due_at, made_at)
     select $1, gen_random_uuid(), $2, null, array[$3::text], $4, $4
     where not exists (select from delivery where client_id = $1 and destination_id = $2 and person_id is null
       and status = 'waiting' and taken_until is null)`,
    [client_id, id, cause, new Date(now)],
  );
}
