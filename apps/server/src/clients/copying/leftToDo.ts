import type { LeftToDo } from '@dart-loop/contract';
import type { Connection } from '../../platform/db/pool';

/** Something that a copy leaves to be done by hand. */
export interface Left {
  /** What tells when it is done; 'by hand' is ticked. */
  kind: 'brief' | 'line' | 'loop' | 'destination' | 'by hand';
  /** What it is about; a second one of the same kind about the same is the same. */
  about: string;
  words: string;
  /** Where it is done, below the client. */
  place: string;
}

/** Notes what is left; what was done before and is to be done once more stands open again. */
export async function noteLeft(
  db: Connection,
  clientId: number,
  from: string,
  left: readonly Left[],
  now: number,
): Promise<void> {
  await db.query(
    `
      insert into left_to_do (client_id, kind, about, words, place, copied_from, made_at)
      select distinct on (kind, about) $1::int, l.kind, l.about, l.words, l.place, $6, $7::timestamptz
      from unnest($2::text[], $3::text[], $4::text[], $5::text[]) l (kind, about, words, place)
      on conflict (client_id, kind, about) do update
      set words = excluded.words, place = excluded.place, copied_from = excluded.copied_from,
        made_at = excluded.made_at, done_at = null`,
    [
      clientId,
      left.map(({ kind }) => kind),
      left.map(({ about }) => about),
      left.map(({ words }) => words),
      left.map(({ place }) => place),
      from,
      new Date(now),
    ],
  );
}

/** What is still to do: what can be told from how things stand is told from that. */
export async function leftToDo(db: Connection, clientId: number): Promise<LeftToDo[]> {
  const { rows } = await db.query<LeftToDo>(
    `
      select t.id, t.words, t.place, t.copied_from as "from" from left_to_do t
      join client c on c.id = t.client_id
      where t.client_id = $1 and t.done_at is null and case t.kind
        when 'brief' then not c.brief ? t.about
        when 'line' then not exists (select from line l
          where l.client_id = c.id and l.channel = t.about and l.secrets is not null)
        when 'loop' then exists (select from loop o
          where o.client_id = c.id and o.name = t.about and o.live_version is null and o.archived_at is null)
        when 'destination' then exists (select from destination d
          where d.client_id = c.id and d.name = t.about and d.state = 'off')
        else true end
      order by t.id`,
    [clientId],
  );
  return rows;
}
