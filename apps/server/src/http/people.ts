import { type ChannelKind, valueWords, type Value } from '@dart-loop/core';
import { PeopleQuery, type By, type PeoplePage, type PersonForRehearsal, type PersonPage } from '@dart-loop/contract';
import type { ChangedBy } from '../work/apply';
import { pageKey, readPageKey } from './pages';
import { notFound } from './problem';
import { route } from './route';

const ROWS = 60;

function byWords(by: ChangedBy): By {
  switch (by.kind) {
    case 'loop':
      return { words: `${by.loop}, version ${by.version}`, loopId: by.loopId, stepId: by.stepId };
    case 'person':
      return { words: 'the person', loopId: null, stepId: null };
    default:
      return { words: by.name, loopId: null, stepId: null };
  }
}

const NAME = `coalesce(nullif(concat_ws(' ', p.first_name, p.last_name), ''), (select coalesce(i.handle, i.address) from identity i where i.client_id = p.client_id and i.person_id = p.id order by i.created_at limit 1), 'somebody')`;

export function peopleRoutes() {
  return [
    route({
      method: 'get',
      path: '/clients/:client/people',
      may: 'see people',
      query: PeopleQuery,
      async handle({ db, client, query }): Promise<PeoplePage> {
        const from = query.after ? readPageKey(query.after) : null;
        const like = query.q === '' ? null : `%${query.q.replace(/[\\%_]/g, '\\$&')}%`;
        const matches = `p.client_id = $1 and ($2::text is null or concat_ws(' ', p.first_name, p.last_name) ilike $2
          or exists (select from identity i where i.client_id = p.client_id and i.person_id = p.id and (i.address ilike $2 or i.handle ilike $2))
          or p.fields -> 'email' ->> 'value' ilike $2 or $2 = any (select '%' || tag || '%' from unnest(p.tags) as tag))`;
        const total = await db.query<{ total: number }>(`select count(*)::int as total from person p where ${matches}`, [client.id, like]);
        const { rows } = await db.query<{
          id: string;
          name: string;
          channels: PeoplePage['rows'][number]['channels'];
          fields: Record<string, Value>;
          tags: string[];
          last_seen_at: Date;
        }>(
          `select p.id, ${NAME} as name, p.fields, p.tags, p.last_seen_at,
             array(select distinct l.channel from identity i join line l on l.client_id = i.client_id and l.id = i.line_id where i.client_id = p.client_id and i.person_id = p.id order by 1) as channels
           from person p where ${matches} and ($3::timestamptz is null or (p.last_seen_at, p.id) < ($3, $4::uuid))
           order by p.last_seen_at desc, p.id desc limit ${ROWS + 1}`,
          [client.id, like, from?.at ?? null, from?.id ?? null],
        );
        const last = rows.length > ROWS ? rows[ROWS - 1] : undefined;
        return {
          total: total.rows[0]!.total,
          rows: rows.slice(0, ROWS).map((row) => ({
            id: row.id,
            name: row.name,
            channels: row.channels,
            facts: Object.entries(row.fields)
              .slice(0, 3)
              .map(([key, value]) => `${key.replaceAll('_', ' ')} ${valueWords(value)}`),
            tags: row.tags,
            lastSeenAt: row.last_seen_at.toISOString(),
          })),
          next: last ? pageKey(last.last_seen_at, last.id) : null,
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/for-rehearsal',
      may: 'see people',
      async handle({ db, client, params }): Promise<PersonForRehearsal> {
        const { rows } = await db.query<{
          name: string;
          first_name: string | null;
          last_name: string | null;
          language: string | null;
          fields: Record<string, Value>;
          tags: string[];
          lists: string[];
        }>(
          `select ${NAME} as name, p.first_name, p.last_name, p.language, p.fields, p.tags, p.lists from person p where p.client_id = $1 and p.id = $2`,
          [client.id, params.personId],
        );
        const person = rows[0];
        if (!person) throw notFound('person');
        return {
          name: person.name,
          ...(person.first_name && { firstName: person.first_name }),
          ...(person.last_name && { lastName: person.last_name }),
          ...(person.language && { language: person.language }),
          fields: person.fields,
          tags: person.tags,
          lists: person.lists,
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/:personId',
      may: 'see people',
      async handle({ db, client, params }): Promise<PersonPage> {
        const key = [client.id, params.personId];
        const people = await db.query<{
          id: string;
          name: string;
          fields: Record<string, Value>;
          tags: string[];
          lists: string[];
          created_at: Date;
          last_seen_at: Date;
        }>(
          `select p.id, ${NAME} as name, p.fields, p.tags, p.lists, p.created_at, p.last_seen_at from person p where p.client_id = $1 and p.id = $2`,
          key,
        );
        const person = people.rows[0];
        if (!person) throw notFound('person');
        const identities = await db.query<{
          id: string;
          channel: ChannelKind;
          line: string;
          address: string;
          handle: string | null;
          since: Date;
          optedOut: boolean;
        }>(
          `select i.id, l.channel, l.name as line, i.address, i.handle, i.created_at as since, coalesce((c.standing ->> 'optedOut')::boolean, false) as "optedOut"
           from identity i join line l on l.client_id = i.client_id and l.id = i.line_id left join conversation c on c.client_id = i.client_id and c.id = i.id
           where i.client_id = $1 and i.person_id = $2 order by i.created_at`,
          key,
        );
        const fields = await db.query<{ key: string; name: string; type: string }>(
          'select key, name, type from field where client_id = $1 order by name',
          [client.id],
        );
        const changes = await db.query<{ field: string; before: Value | null; after: Value | null; at: Date; by: ChangedBy }>(
          'select field, before, after, at, by from field_change where client_id = $1 and person_id = $2 order by id desc limit 200',
          key,
        );
        const tags = await db.query<{ tag: string; is_on: boolean; at: Date; by: ChangedBy }>(
          'select tag, is_on, at, by from tag_change where client_id = $1 and person_id = $2 order by id desc limit 200',
          key,
        );
        const lists = await db.query<{ list: string; is_on: boolean; at: Date; by: ChangedBy }>(
          'select list, is_on, at, by from list_change where client_id = $1 and person_id = $2 order by id desc limit 200',
          key,
        );
        const consents = await db.query<{ what: 'opt-in' | 'opt-out'; words: string; line: string; at: Date; by: ChangedBy | null }>(
          'select c.what, c.words, l.name as line, c.at, c.by from consent c join line l on l.client_id = c.client_id and l.id = c.line_id where c.client_id = $1 and c.person_id = $2 order by c.id desc limit 200',
          key,
        );
        const runs = await db.query<{
          id: string;
          loop: string;
          loop_id: string;
          version: number;
          status: string;
          started_at: Date;
          ended_at: Date | null;
        }>(
          `select r.id, l.name as loop, r.loop_id, r.version, r.status, r.started_at, r.ended_at from run r join loop l on l.client_id = r.client_id and l.id = r.loop_id
           where r.client_id = $1 and r.conversation_id = any(select id from identity where client_id = $1 and person_id = $2) order by r.started_at desc limit 100`,
          key,
        );
        const nameOf = new Map(fields.rows.map((field) => [field.key, field.name]));
        const history = [
          ...changes.rows.map((change) => ({
            at: change.at.toISOString(),
            words: `${nameOf.get(change.field) ?? change.field} ${change.after ? `= ${valueWords(change.after)}` : 'cleared'}${change.before ? `, before: ${valueWords(change.before)}` : ''}`,
            by: byWords(change.by),
          })),
          ...tags.rows.map((change) => ({
            at: change.at.toISOString(),
            words: `tag ${change.tag} ${change.is_on ? 'on' : 'off'}`,
            by: byWords(change.by),
          })),
          ...lists.rows.map((change) => ({
            at: change.at.toISOString(),
            words: `list ${change.list} ${change.is_on ? 'joined' : 'left'}`,
            by: byWords(change.by),
          })),
          ...consents.rows.map((consent) => ({
            at: consent.at.toISOString(),
            words: `opted ${consent.what === 'opt-out' ? 'out of' : 'in on'} ${consent.line}`,
            by: consent.by ? byWords(consent.by) : { words: `the person, who wrote “${consent.words}”`, loopId: null, stepId: null },
          })),
        ].sort((a, b) => b.at.localeCompare(a.at));
        return {
          id: person.id,
          name: person.name,
          createdAt: person.created_at.toISOString(),
          lastSeenAt: person.last_seen_at.toISOString(),
          identities: identities.rows.map((identity) => ({ ...identity, since: identity.since.toISOString() })),
          facts: Object.entries(person.fields).map(([fieldKey, value]) => {
            const change = changes.rows.find((each) => each.field === fieldKey);
            return {
              key: fieldKey,
              name: nameOf.get(fieldKey) ?? fieldKey,
              type: value.type,
              words: valueWords(value),
              at: change?.at.toISOString() ?? null,
              by: change ? byWords(change.by) : null,
            };
          }),
          tags: person.tags.map((tag) => {
            const change = tags.rows.find((each) => each.tag === tag && each.is_on);
            return { tag, at: change?.at.toISOString() ?? null, by: change ? byWords(change.by) : null };
          }),
          lists: person.lists.map((list) => {
            const change = lists.rows.find((each) => each.list === list && each.is_on);
            return { list, at: change?.at.toISOString() ?? null, by: change ? byWords(change.by) : null };
          }),
          history,
          runs: runs.rows.map((run) => ({
            id: run.id,
            loop: run.loop,
            loopId: run.loop_id,
            version: run.version,
            status: run.status,
            startedAt: run.started_at.toISOString(),
            endedAt: run.ended_at?.toISOString() ?? null,
          })),
        };
      },
    }),
  ];
}
