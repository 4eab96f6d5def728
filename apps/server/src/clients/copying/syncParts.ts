import type { Condition } from '@dart-loop/core';
import { conditionElsewhere, linesElsewhere } from '@dart-loop/core/loops/edit/elsewhere';
import { destinationKind, type DestinationKindName } from '@dart-loop/core/sync/kinds/index';
import { toJson } from '../../platform/db/json';
import { newId, newToken } from '../../platform/ids';
import { tokenHash } from '../../platform/secrets';
import { sorted, type Part } from './part';

export const destinations: Part = {
  part: 'destinations',
  async copy({ db, from, to, now, leave }) {
    const { rows: all } = await db.query<{ name: string; kind: DestinationKindName; who: Condition | null }>(
      'select name, kind, who from destination where client_id = $1 order by name',
      [from.id],
    );
    const elsewhere = linesElsewhere(from.lines, to.lines);
    const added: typeof all = [];
    for (const each of all) {
      const { rows } = await db.query<{ id: string }>(
        `
          insert into destination (client_id, id, name, kind, settings, mapping, triggers, who, made_at)
          select $2, $4, name, kind, settings, mapping, triggers, $5, $6 from destination
          where client_id = $1 and name = $3
          on conflict (client_id, name) do nothing returning id`,
        [
          from.id,
          to.id,
          each.name,
          newId(now),
          each.who && toJson(conditionElsewhere(each.who, elsewhere)),
          new Date(now),
        ],
      );
      if (!rows[0]) continue;
      added.push(each);
      leave({
        kind: 'destination',
        about: each.name,
        words: `Look where “${each.name}” goes${destinationKind(each.kind).needsToken ? ', give it a token' : ''}, try it, and switch it on: it stands as at ${from.name}.`,
        place: `sync/${rows[0].id}`,
      });
    }
    return sorted(all, added);
  },
};

export const webhooks: Part = {
  part: 'webhooks',
  async copy({ db, from, to, now, leave }) {
    const { rows: all } = await db.query<{ name: string; destination: string | null }>(
      `
        select i.hook as name, d.name as destination from inlet i
        left join destination d on d.client_id = i.client_id and d.id = i.destination_id
        where i.client_id = $1 order by i.hook`,
      [from.id],
    );
    const added: typeof all = [];
    for (const each of all) {
      // Its address is made anew when somebody asks for it; until then nobody knows one.
      const unknown = newToken();
      const { rows } = await db.query<{ id: number }>(
        `
          insert into inlet (client_id, hook, token_hash, hint, created_at, reading, destination_id)
          select $2, hook, $4, $5, $6, reading, (select t.id from destination t
            where t.client_id = $2 and t.name = $7 and not exists (select from inlet o
              where o.client_id = $2 and o.destination_id = t.id))
          from inlet where client_id = $1 and hook = $3
          on conflict (client_id, hook) do nothing returning id`,
        [from.id, to.id, each.name, tokenHash(unknown), unknown.slice(-4), new Date(now), each.destination],
      );
      if (!rows[0]) continue;
      added.push(each);
      leave({
        kind: 'by hand',
        about: `webhook ${each.name}`,
        words: `Make a new address for the incoming webhook “${each.name}”, and give it to the system that calls it.`,
        place: `webhooks/${rows[0].id}`,
      });
    }
    return sorted(all, added);
  },
};
