import type { Condition } from '@dart-loop/core';
import { conditionElsewhere, linesElsewhere } from '@dart-loop/core/loops/edit/elsewhere';
import { copyFields } from '../../people/copyFields';
import { toJson } from '../../platform/db/json';
import { newId } from '../../platform/ids';
import { sorted, type Part } from './part';

export const fields: Part = {
  part: 'fields',
  async copy({ db, from, to, leave }) {
    const { rows: all } = await db.query<{ key: string; name: string; type: string; there: string | null }>(
      `
        select f.key, f.name, f.type, t.type as there from field f
        left join field t on t.client_id = $2 and t.key = f.key
        where f.client_id = $1 order by lower(f.name), f.key`,
      [from.id, to.id],
    );
    await copyFields(db, from.id, to.id);
    for (const { key, name, type, there } of all)
      if (there !== null && there !== type)
        leave({
          kind: 'by hand',
          about: `field ${key}`,
          words: `The field “${name}” is ${there} here and ${type} at ${from.name}: what was copied expects ${type}.`,
          place: 'fields',
        });
    return sorted(
      all,
      all.filter(({ there }) => there === null),
    );
  },
};

export const lists: Part = {
  part: 'lists',
  async copy({ db, from, to, accountId, now }) {
    const { rows: all } = await db.query<{ name: string }>(
      'select name from list where client_id = $1 order by name',
      [from.id],
    );
    const { rows: added } = await db.query<{ name: string }>(
      `
        insert into list (client_id, name, description, double)
        select $2, name, description, double from list where client_id = $1
        on conflict do nothing returning name`,
      [from.id, to.id],
    );
    await db.query(
      `
        insert into list_wording (client_id, list, version, words, at, by)
        select distinct on (list) $2, list, 1, words, $4, $5 from list_wording
        where client_id = $1 and list = any ($3) order by list, version desc`,
      [from.id, to.id, added.map(({ name }) => name), new Date(now), accountId],
    );
    return sorted(all, added);
  },
};

export const segments: Part = {
  part: 'segments',
  async copy({ db, from, to, accountId, now }) {
    const { rows: all } = await db.query<{ name: string; folded: string; rule: Condition }>(
      'select name, folded, rule from segment where client_id = $1 order by name',
      [from.id],
    );
    const elsewhere = linesElsewhere(from.lines, to.lines);
    const { rows: added } = await db.query<{ name: string }>(
      `
        insert into segment (client_id, id, name, folded, rule, made_at, made_by)
        select $1, s.id, s.name, s.folded, s.rule, $6, $7
        from unnest($2::uuid[], $3::text[], $4::text[], $5::jsonb[]) s (id, name, folded, rule)
        on conflict (client_id, folded) do nothing returning name`,
      [
        to.id,
        all.map(() => newId(now)),
        all.map(({ name }) => name),
        all.map(({ folded }) => folded),
        all.map(({ rule }) => toJson(conditionElsewhere(rule, elsewhere))),
        new Date(now),
        accountId,
      ],
    );
    return sorted(all, added);
  },
};

export const calendars: Part = {
  part: 'calendars',
  async copy({ db, from, to, now }) {
    const { rows: all } = await db.query<{ name: string }>(
      'select name from calendar where client_id = $1 and gone_at is null order by name',
      [from.id],
    );
    const { rows: added } = await db.query<{ name: string }>(
      `
        insert into calendar (client_id, id, name, folded, rule, made_at)
        select $2, (($3::uuid[])[row_number() over (order by name)]), name, folded, rule, $4 from calendar
        where client_id = $1 and gone_at is null
        on conflict (client_id, folded) where gone_at is null do nothing returning name`,
      [from.id, to.id, all.map(() => newId(now)), new Date(now)],
    );
    return sorted(all, added);
  },
};

/** Rules are the client's own from its first day: they are replaced. */
export const sending: Part = {
  part: 'sending',
  async copy({ db, from, to }) {
    const { rowCount } = await db.query(
      `
        update client t set quiet_hours = f.quiet_hours, frequency = f.frequency, matching = f.matching,
          retention = f.retention
        from client f where f.id = $1 and t.id = $2
          and (t.quiet_hours, t.frequency, t.matching, t.retention)
            is distinct from (f.quiet_hours, f.frequency, f.matching, f.retention)`,
      [from.id, to.id],
    );
    return rowCount ? { added: ['Sending rules'], kept: [] } : { added: [], kept: ['Sending rules'] };
  },
};
