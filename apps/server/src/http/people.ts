import { FORMATS, writePeople } from '../people/exporting';
import { conditionWords, isZone, valueWords, type ChannelKind, type FieldType, type Value } from '@dart-loop/core';
import type { CellWorld } from '@dart-loop/core/people/cellReading';
import {
  CountQuery,
  EditPerson,
  ExportQuery,
  MergePeople,
  OptOut,
  OtherPerson,
  PeopleQuery,
  type MergePreview,
  type PeopleCount,
  type PeoplePage,
  type PeopleVocabulary,
  type PersonForRehearsal,
  type PersonPage,
  type Proof,
} from '@dart-loop/contract';
import type { Clock } from '../clock';
import { audit } from '../db/audit';
import type { Connection } from '../db/pool';
import { newId } from '../ids';
import { raiseCues, valueOf, withoutThoseWhoLeft, wordingsOf } from '../people/actions';
import { archiveOf } from '../people/archive';
import { changePeople } from '../people/change';
import { PARTED_WITHIN_MS, alikeOf, mergePeople, mergePreview, partPeople } from '../people/merge';
import { askedOf, chosenSql, countChosen, ruleOf } from '../people/select';
import { byWords, timelineOf } from '../people/timeline';
import type { ChangedBy } from '../work/apply';
import { TaskProblem } from '../work/tasks';
import { pageKey, readPageKey } from './pages';
import { Problem, notFound } from './problem';
import { route, type Account } from './route';

const ROWS = 60;
const SAMPLE = 5;

const NAME = `coalesce(nullif(concat_ws(' ', p.first_name, p.last_name), ''), (select coalesce(i.handle, i.address) from identity i where i.client_id = p.client_id and i.person_id = p.id order by i.created_at limit 1), 'somebody')`;

export const byTeam = (account: Account): ChangedBy => ({ kind: 'team', accountId: account.id, name: account.name });

/** By whose country, language and clock what the team types is read. */
export async function cellWorldOf(db: Connection, clientId: number, now: number): Promise<CellWorld> {
  const { rows } = await db.query<{ country: string; time_zone: string; languages: string[] }>(
    'select country, time_zone, languages from client where id = $1',
    [clientId],
  );
  const { country, time_zone, languages } = rows[0]!;
  return {
    country,
    language: languages[0] ?? 'en',
    now,
    zone: isZone(time_zone) ? time_zone : 'UTC',
    days: 'any',
    dayOrder: country === 'US' ? 'month first' : 'day first',
    ours: false,
  };
}

/** The person's id and those of the people who have become them; a 404 when there is no such person. */
async function whoIs(db: Connection, clientId: number, personId: string): Promise<string[]> {
  const { rows } = await db.query<{ who: string[] }>(
    `select array(select p.id union all select m.gone from merge m where m.client_id = p.client_id and m.kept = p.id and m.parted_at is null) as who from person p where p.client_id = $1 and p.id = $2`,
    [clientId, personId],
  );
  if (!rows[0]) throw notFound('person');
  return rows[0].who;
}

export function peopleRoutes({ clock, woken }: { clock: Clock; woken: () => void }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/people',
      may: 'see people',
      query: PeopleQuery,
      async handle({ db, client, query }): Promise<PeoplePage> {
        const from = query.after ? readPageKey(query.after) : null;
        const chosen = chosenSql({ q: query.q, rule: ruleOf(query.where) }, await askedOf(db, client.id, clock.now()), 3);
        const { rows } = await db.query<{
          id: string;
          name: string;
          channels: ChannelKind[];
          fields: Record<string, Value>;
          tags: string[];
          last_seen_at: Date;
        }>(
          `select p.id, ${NAME} as name, p.fields, p.tags, p.last_seen_at,
             array(select distinct l.channel from identity i join line l on l.client_id = i.client_id and l.id = i.line_id where i.client_id = p.client_id and i.person_id = p.id order by 1) as channels
           from ${chosen.from} where ${chosen.where} and ($1::timestamptz is null or (p.last_seen_at, p.id) < ($1, $2::uuid))
           order by p.last_seen_at desc, p.id desc limit ${ROWS + 1}`,
          [from?.at ?? null, from?.id ?? null, ...chosen.values],
        );
        const last = rows.length > ROWS ? rows[ROWS - 1] : undefined;
        return {
          rows: rows.slice(0, ROWS).map((row) => ({
            id: row.id,
            name: row.name,
            channels: row.channels,
            facts: Object.entries(row.fields)
              .slice(0, 3)
              .map(([key, value]) => `${key.replaceAll('_', ' ')} ${valueWords(value)}`),
            cells: Object.fromEntries(query.columns.flatMap((key) => (row.fields[key] ? [[key, valueWords(row.fields[key])]] : []))),
            tags: row.tags,
            lastSeenAt: row.last_seen_at.toISOString(),
          })),
          next: last ? pageKey(last.last_seen_at, last.id) : null,
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/count',
      may: 'see people',
      query: CountQuery,
      async handle({ db, client, query }): Promise<PeopleCount> {
        const rule = ruleOf(query.where);
        const asked = await askedOf(db, client.id, clock.now());
        const chosen = chosenSql({ q: query.q, rule }, asked, 1);
        const total = await countChosen(db, { q: query.q, rule }, asked);
        const sample =
          total === 0
            ? []
            : (
                await db.query<{ id: string; name: string }>(
                  `select p.id, ${NAME} as name from ${chosen.from} where ${chosen.where} limit ${SAMPLE}`,
                  chosen.values,
                )
              ).rows;
        return { total, sample, understood: rule && conditionWords(rule), rule };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/vocabulary',
      may: 'see people',
      async handle({ db, client }): Promise<PeopleVocabulary> {
        const rows = async <T extends object>(sql: string) => (await db.query<T>(sql, [client.id])).rows;
        const names = async (sql: string) => (await rows<{ name: string }>(sql)).map((row) => row.name);
        return {
          fields: await rows('select key, name, type, options from field where client_id = $1 order by name'),
          // Of the last changes: those that are in use, without looking at everybody.
          tags: await names(
            'select distinct tag as name from (select tag from tag_change where client_id = $1 order by id desc limit 20000) recent order by 1 limit 200',
          ),
          lists: await names(
            'select name from list where client_id = $1 union select distinct list from (select list from list_change where client_id = $1 order by id desc limit 20000) recent order by 1 limit 200',
          ),
          lines: await rows('select id, key, name, channel from line where client_id = $1 order by id'),
          loops: await rows(
            `select l.id, l.name, (l.live_version is not null and l.state = 'live') as live,
               coalesce((select jsonb_agg(jsonb_build_object('id', s ->> 'id', 'name', s ->> 'name')) from jsonb_array_elements(coalesce(v.loop, l.draft) -> 'scenes') s), '[]') as scenes
             from loop l left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id and v.version = l.live_version where l.client_id = $1 and l.archived_at is null order by l.position`,
          ),
          sources: await names("select distinct title as name from task where client_id = $1 and kind = 'import' order by 1 limit 50"),
          segments: await rows('select id, name from segment where client_id = $1 order by name'),
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/export',
      may: 'manage people',
      query: ExportQuery,
      async handle({ db, client, query, account, response }): Promise<void> {
        const rule = ruleOf(query.where);
        const asked = await askedOf(db, client.id, clock.now());
        const { type, ending } = FORMATS[query.format];
        await audit(db, client.id, account.id, clock.now(), 'took people out', { format: query.format, where: query.where });
        response
          .status(200)
          .setHeader('content-type', type)
          .setHeader('content-disposition', `attachment; filename="${client.slug}-people.${ending}"`);
        await writePeople(db, response, asked, { q: query.q, rule }, query.format);
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
        const who = await whoIs(db, client.id, params.personId!);
        return personPage(db, client.id, params.personId!, who, clock.now());
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/people/:personId',
      may: 'change people',
      body: EditPerson,
      async handle({ db, client, params, body, account, afterwards }): Promise<PersonPage> {
        const personId = params.personId!;
        const who = await whoIs(db, client.id, personId);
        const now = clock.now();
        const world = await cellWorldOf(db, client.id, now);
        const { rows: definitions } = await db.query<{ key: string; type: FieldType; options: string[]; name: string }>(
          'select key, type, options, name from field where client_id = $1',
          [client.id],
        );
        const fields = Object.fromEntries(
          Object.entries(body.fields ?? {}).map(([key, written]): [string, Value | null] => {
            const field = definitions.find((each) => each.key === key);
            if (!field) throw new Problem(400, 'That cannot be used', `fields: the client has no field “${key}”.`);
            if (written === null || written.trim() === '') return [key, null];
            try {
              return [key, valueOf(field, written, world)];
            } catch (error) {
              if (!(error instanceof TaskProblem)) throw error;
              throw new Problem(400, 'That cannot be used', `${field.name}: ${error.message}`, {
                errors: [{ field: key, detail: error.message }],
              });
            }
          }),
        );
        for (const list of body.listsOn ?? []) {
          const { kept } = await withoutThoseWhoLeft(db, client.id, list, [{ id: personId }]);
          if (kept > 0)
            throw new Problem(409, 'They have left it', `They have left the list ${list} by themselves; only they can join it again.`);
        }
        const changed = await changePeople(
          db,
          { clientId: client.id, now, by: byTeam(account), stated: body.stated ?? null, wordings: await wordingsOf(db, client.id) },
          [
            {
              id: personId,
              firstName: body.firstName === '' ? null : body.firstName,
              lastName: body.lastName === '' ? null : body.lastName,
              language: body.language,
              fields,
              tags: { on: body.tagsOn, off: body.tagsOff },
              lists: { on: body.listsOn, off: body.listsOff },
            },
          ],
        );
        await raiseCues(db, client.id, changed, now);
        await audit(db, client.id, account.id, now, 'changed a person', { personId, fields: Object.keys(fields) });
        afterwards(woken);
        return personPage(db, client.id, personId, who, now);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/:personId/opt-out',
      may: 'change people',
      body: OptOut,
      async handle({ db, client, params, body, account }): Promise<PersonPage> {
        const personId = params.personId!;
        const who = await whoIs(db, client.id, personId);
        const now = clock.now();
        const { of } = body;
        await changePeople(db, { clientId: client.id, now, by: byTeam(account), stated: body.stated }, [
          {
            id: personId,
            ...(of.scope === 'everything' && { everything: 'opt-out' as const }),
            ...(of.scope === 'line' && { optOuts: [{ lineId: of.lineId }] }),
            ...(of.scope === 'list' && { lists: { off: [of.list] } }),
          },
        ]);
        await audit(db, client.id, account.id, now, 'opted a person out', { personId, scope: of.scope });
        return personPage(db, client.id, personId, who, now);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/proof',
      may: 'see people',
      async handle({ db, client, params }): Promise<Proof> {
        const who = await whoIs(db, client.id, params.personId!);
        const person = (
          await db.query<{ name: string }>(`select ${NAME} as name from person p where p.client_id = $1 and p.id = $2`, [
            client.id,
            params.personId,
          ])
        ).rows[0]!;
        const identities = await db.query<{ line: string; address: string }>(
          'select l.name as line, i.address from identity i join line l on l.client_id = i.client_id and l.id = i.line_id where i.client_id = $1 and i.person_id = $2 order by i.created_at',
          [client.id, params.personId],
        );
        const entries = await db.query<{
          at: Date;
          what: 'opt-in' | 'opt-out';
          scope: string;
          line: string | null;
          list: string | null;
          words: string;
          wording: number | null;
          language: string | null;
          stated: string | null;
          confirmed: boolean;
          by: ChangedBy | null;
          cue: string | null;
          message: string | null;
        }>(
          `select c.at, c.what, c.scope, l.name as line, c.list, c.words, c.wording, c.language, c.stated, c.confirmed, c.by, c.cue_id as cue, e.provider_id as message
           from consent c left join line l on l.client_id = c.client_id and l.id = c.line_id left join event e on e.client_id = c.client_id and e.id = c.event_id
           where c.client_id = $1 and c.person_id = any ($2::uuid[]) order by c.id`,
          [client.id, who],
        );
        return {
          client: client.name,
          name: person.name,
          identities: identities.rows,
          madeAt: new Date(clock.now()).toISOString(),
          entries: entries.rows.map(({ at, scope, line, list, by, message, ...entry }) => ({
            ...entry,
            at: at.toISOString(),
            about: scope === 'everything' ? 'everything' : scope === 'list' ? `the list ${list}` : (line ?? 'a line that is gone'),
            by: byWords(by).words,
            step: by?.kind === 'loop' ? by.stepId : null,
            messageId: message,
          })),
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/archive',
      may: 'manage people',
      async handle({ db, client, params, account, response }): Promise<void> {
        const who = await whoIs(db, client.id, params.personId!);
        await audit(db, client.id, account.id, clock.now(), 'took out everything about a person', { personId: params.personId });
        const archive = await archiveOf(db, client.id, who);
        response
          .status(200)
          .setHeader('content-type', 'application/json; charset=utf-8')
          .setHeader('content-disposition', `attachment; filename="person-${params.personId}.json"`)
          .end(JSON.stringify({ client: client.name, madeAt: new Date(clock.now()).toISOString(), ...archive }, null, 2));
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/merge',
      may: 'manage people',
      query: OtherPerson,
      async handle({ db, client, params, query }): Promise<MergePreview> {
        const { rows } = await db.query<{ key: string; name: string }>('select key, name from field where client_id = $1', [client.id]);
        const preview = await mergePreview(
          db,
          client.id,
          params.personId!,
          query.other,
          Object.fromEntries(rows.map(({ key, name }) => [key, name])),
        );
        if (!preview) throw notFound('person');
        return preview;
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/:personId/merge',
      may: 'manage people',
      body: MergePeople,
      async handle({ db, client, params, body, account }): Promise<PersonPage> {
        const now = clock.now();
        const id = await mergePeople(db, client.id, params.personId!, body.other, { take: body.take, by: byTeam(account), now });
        if (!id) throw notFound('person');
        await audit(db, client.id, account.id, now, 'made one of two people', { personId: params.personId, other: body.other });
        return personPage(db, client.id, params.personId!, await whoIs(db, client.id, params.personId!), now);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people/:personId/not-same',
      may: 'manage people',
      body: OtherPerson,
      async handle({ db, client, params, body, account }): Promise<void> {
        await whoIs(db, client.id, params.personId!);
        await whoIs(db, client.id, body.other);
        await db.query(
          'insert into not_same (client_id, one, other, at, by) values ($1, least($2::uuid, $3::uuid), greatest($2::uuid, $3::uuid), $4, $5) on conflict do nothing',
          [client.id, params.personId, body.other, new Date(clock.now()), account.id],
        );
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/merges/:mergeId/part',
      may: 'manage people',
      async handle({ db, client, params, account }): Promise<{ kept: string; gone: string }> {
        const now = clock.now();
        const parted = await partPeople(db, client.id, params.mergeId!, { by: byTeam(account), now });
        if (!parted) throw notFound('merge');
        await audit(db, client.id, account.id, now, 'parted two people', parted);
        return parted;
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people',
      may: 'change people',
      body: EditPerson,
      async handle({ db, client, account, body }): Promise<{ id: string }> {
        if (!body.firstName && !body.lastName) throw new Problem(400, 'That cannot be used', 'firstName: say who it is.');
        const now = clock.now();
        const id = newId(now);
        await changePeople(db, { clientId: client.id, now, by: byTeam(account), stated: null }, [
          {
            id,
            isNew: { source: `written down by ${account.name}` },
            firstName: body.firstName,
            lastName: body.lastName,
            language: body.language,
          },
        ]);
        await audit(db, client.id, account.id, now, 'wrote a person down', { personId: id });
        return { id };
      },
    }),
  ];
}

async function personPage(db: Connection, clientId: number, personId: string, who: string[], now: number): Promise<PersonPage> {
  const key = [clientId, personId];
  const person = (
    await db.query<{
      id: string;
      name: string;
      first_name: string | null;
      last_name: string | null;
      language: string | null;
      source: string | null;
      fields: Record<string, Value>;
      tags: string[];
      lists: string[];
      created_at: Date;
      last_seen_at: Date;
    }>(
      `select p.id, ${NAME} as name, p.first_name, p.last_name, p.language, p.source, p.fields, p.tags, p.lists, p.created_at, p.last_seen_at from person p where p.client_id = $1 and p.id = $2`,
      key,
    )
  ).rows[0]!;
  const identities = await db.query<Omit<PersonPage['identities'][number], 'since'> & { since: Date }>(
    `select i.id, l.channel, l.name as line, l.id as "lineId", i.address, i.handle, i.created_at as since,
       coalesce((c.standing ->> 'optedOut')::boolean, false) as "optedOut", coalesce((c.standing ->> 'optedIn')::boolean, false) as "optedIn"
     from identity i join line l on l.client_id = i.client_id and l.id = i.line_id left join conversation c on c.client_id = i.client_id and c.id = i.id
     where i.client_id = $1 and i.person_id = $2 order by i.created_at`,
    key,
  );
  const fields = await db.query<{ key: string; name: string; personal: boolean }>(
    'select key, name, personal from field where client_id = $1',
    [clientId],
  );
  // The last change of each field, tag and list: who or what said what is known now.
  const last = async (table: string, column: string, more: string) =>
    new Map(
      (
        await db.query<{ what: string; at: Date; by: ChangedBy }>(
          `select distinct on (${column}) ${column} as what, at, by from ${table} where client_id = $1 and person_id = any ($2::uuid[]) ${more} order by ${column}, id desc`,
          [clientId, who],
        )
      ).rows.map((row) => [row.what, row]),
    );
  const saidField = await last('field_change', 'field', '');
  const saidTag = await last('tag_change', 'tag', 'and is_on');
  const saidList = await last('list_change', 'list', 'and is_on');
  const merged = await db.query<{ id: string; at: Date; name: string | null }>(
    `select id, at, nullif(concat_ws(' ', before #>> '{gone,first_name}', before #>> '{gone,last_name}'), '') as name from merge
     where client_id = $1 and kept = $2 and parted_at is null and at > $3 order by at desc`,
    [...key, new Date(now - PARTED_WITHIN_MS)],
  );
  const definition = new Map(fields.rows.map((field) => [field.key, field]));
  const source = (change: { at: Date; by: ChangedBy } | undefined) => ({
    at: change?.at.toISOString() ?? null,
    by: change ? byWords(change.by) : null,
  });
  return {
    id: person.id,
    name: person.name,
    firstName: person.first_name,
    lastName: person.last_name,
    language: person.language,
    source: person.source,
    createdAt: person.created_at.toISOString(),
    lastSeenAt: person.last_seen_at.toISOString(),
    identities: identities.rows.map((identity) => ({ ...identity, since: identity.since.toISOString() })),
    facts: Object.entries(person.fields).map(([field, value]) => ({
      key: field,
      name: definition.get(field)?.name ?? field,
      type: value.type,
      words: valueWords(value),
      personal: definition.get(field)?.personal ?? false,
      ...source(saidField.get(field)),
    })),
    tags: person.tags.map((tag) => ({ tag, ...source(saidTag.get(tag)) })),
    lists: person.lists.map((list) => ({ list, ...source(saidList.get(list)) })),
    timeline: await timelineOf(db, clientId, who, new Map(fields.rows.map((field) => [field.key, field.name]))),
    alike: await alikeOf(db, clientId, personId),
    merged: merged.rows.map(({ id, at, name }) => ({
      id,
      name: name ?? 'somebody',
      at: at.toISOString(),
      until: new Date(at.getTime() + PARTED_WITHIN_MS).toISOString(),
    })),
  };
}
