import type { Alike } from '@dart-loop/contract';
import type { ChangedBy } from '../conversations/changes';
import { type Connection, type Db, inTransactionAgain } from '../platform/db/pool';
import type { Resting } from '../platform/jobs/resting';
import { readPeople } from './facts';
import { nameOf, mergePeople } from './merge';

/**
 * Others with a number or address of this person's, but for those that somebody has said are not the same.
 */

export async function alikeOf(db: Connection, clientId: number, personId: string): Promise<Alike[]> {
  const { rows } = await db.query<{ id: string; shared: string[] }>(
    `
     select o.person_id as id, array_agg(substr(o.value, 3) order by o.value) as shared from contact m
     join contact o on o.client_id = m.client_id and o.value = m.value and o.person_id <> m.person_id
     where m.client_id = $1 and m.person_id = $2
       and not exists (select from not_same n
         where n.client_id = $1 and n.one = least(m.person_id, o.person_id)
         and n.other = greatest(m.person_id, o.person_id))
     group by o.person_id limit 10`,
    [clientId, personId],
  );
  const names = new Map(
    (
      await readPeople(
        db,
        clientId,
        rows.map((row) => row.id),
      )
    ).map((person) => [person.id, nameOf(person)]),
  );
  return rows.map(({ id, shared }) => ({ id, name: names.get(id) ?? 'somebody', shared }));
}
/**
 * Makes one of people with the same number or address, for clients that wish that it happens by itself. The
 * one that was met first is kept.
 */

export async function mergeAlike(db: Db, now: number, resting: Resting): Promise<number[]> {
  const { rows } = await db.query<{ client_id: number; ids: string[] }>(
    `
     select n.client_id, array_agg(n.person_id::text order by p.created_at, p.id) as ids from contact n
     join client k on k.id = n.client_id and k.matching = 'automatic'
     join person p on p.client_id = n.client_id and p.id = n.person_id
     group by n.client_id, n.value having count(*) > 1 limit 200`,
  );
  const clients = new Set<number>();
  for (const { client_id, ids } of rows)
    await resting.try('merging', ids.join(' '), () =>
      inTransactionAgain(db, async (connection) => {
        const { rows: apart } = await connection.query(
          `
            select from not_same where client_id = $1 and one = least($2::uuid, $3::uuid)
              and other = greatest($2::uuid, $3::uuid)`,
          [client_id, ids[0], ids[1]],
        );
        const by: ChangedBy = { kind: 'merge', name: 'the same number or address' };
        if (
          apart.length === 0 &&
          (await mergePeople(connection, client_id, ids[0]!, ids[1]!, { take: [], by, now }))
        )
          clients.add(client_id);
      }),
    );
  return [...clients];
}
