import { shownName } from '@dart-loop/core/people/shownName';
import type { AttemptView, DeliveryPage, DeliveryRow } from '@dart-loop/contract';
import type { Connection } from '../platform/db/pool';
import { notFound } from '../platform/problem';
import { NAME } from '../people/page';

const DELIVERIES = `
  select d.id, d.n::int, d.person_id as "personId", case when d.person_id is null then 'Everybody it is for'
    else ${NAME} end as name, d.status, d.is_test as "isTest", d.causes, d.attempts, d.outcome,
    d.made_at as "madeAt", d.due_at as "dueAt", d.ended_at as "endedAt"
  from delivery d left join person p on p.client_id = d.client_id and p.id = d.person_id
  where d.client_id = $1`;

/** Deliveries of a client that `more` narrows to, as they are shown; `values` begin with the client's id. */
export async function deliveryRows(db: Connection, more: string, values: unknown[]): Promise<DeliveryRow[]> {
  const { rows } = await db.query<DeliveryRow>(`${DELIVERIES} ${more}`, values);
  return rows.map((row) => ({ ...row, name: shownName(row.name) }));
}

/** One delivery with its tries; a 404 where there is none. */
export async function delivery(db: Connection, clientId: number, id: string): Promise<DeliveryPage> {
  const [row] = await deliveryRows(db, 'and d.id = $2', [clientId, id]);
  if (!row) throw notFound('delivery');
  const { rows: tries } = await db.query<AttemptView>(
    `
      select n, at, ms, ok, reason, calls from attempt where client_id = $1 and delivery_id = $2
      order by n desc`,
    [clientId, id],
  );
  return { ...row, tries };
}
