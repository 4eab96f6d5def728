import { toJson } from '../platform/db/json';
import { FORMATS, writePeople } from './exporting';
import { conditionWords, type ChannelKind, type FieldType, type Value } from '@dart-loop/core';
import { shownName, shownValue } from '@dart-loop/core/people/shownName';
import {
  CountQuery,
  EditPerson,
  type ErasureReceipt,
  ExportQuery,
  OptOut,
  PeopleQuery,
  may,
  type PeopleCount,
  type PeoplePage,
  type PeopleVocabulary,
  type PersonForRehearsal,
  type PersonPage,
  type Proof,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { valueOf, withoutThoseWhoLeft, wordingsOf } from './actions';
import { archiveOf } from './archive';
import { cellWorldOf } from './cellWorld';
import { changePeople } from './change';
import { NAME, personPage, whoIs } from './page';
import { askedOf, chosenSql, countChosen, ruleOf } from './select';
import { raiseCues } from './starting';
import { byWords } from './timeline';
import type { ChangedBy } from '../conversations/changes';
import { TaskProblem } from '../platform/jobs/tasks';
import { pageKey, readPageKey } from '../http/pages';
import { Problem, notFound } from '../platform/problem';
import { route, transferring, type Account } from '../http/route';

const ROWS = 60;
const SAMPLE = 5;

export const byTeam = (account: Account): ChangedBy => ({
  kind: 'team',
  accountId: account.id,
  name: account.name,
});

export function peopleRoutes({ clock, woken }: { clock: Clock; woken: () => void }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/people',
      may: 'see people',
      query: PeopleQuery,
      async handle({ db, client, query }): Promise<PeoplePage> {
        const from = query.after ? readPageKey(query.after) : null;
        const chosen = chosenSql(
          { q: query.q, rule: ruleOf(query.where) },
          await askedOf(db, client.id, clock.now()),
          3,
        );
        const { rows } = await db.query<{
          id: string;
          name: string;
          channels: ChannelKind[];
          fields: Record<string, Value>;
          tags: string[];
          last_seen_at: Date;
        }>(
          `
           select p.id, ${NAME} as name, p.fields, p.tags, p.last_seen_at,
             array(select distinct l.channel from identity i
               join line l on l.client_id = i.client_id and l.id = i.line_id
             where i.client_id = p.client_id and i.person_id = p.id order by 1) as channels
           from ${chosen.from}
           where ${chosen.where} and ($1::timestamptz is null or (p.last_seen_at, p.id) < ($1, $2::uuid))
           order by p.last_seen_at desc, p.id desc limit ${ROWS + 1}`,
          [from?.at ?? null, from?.id ?? null, ...chosen.values],
        );
        const last = rows.length > ROWS ? rows[ROWS - 1] : undefined;
        return {
          rows: rows.slice(0, ROWS).map((row) => ({
            id: row.id,
            name: shownName(row.name),
            channels: row.channels,
            facts: Object.entries(row.fields)
              .slice(0, 3)
              .map(([key, value]) => `${key.replaceAll('_', ' ')} ${shownValue(value)}`),
            cells: Object.fromEntries(
              query.columns.flatMap((key) => (row.fields[key] ? [[key, shownValue(row.fields[key])]] : [])),
            ),
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
        return {
          total,
          sample: sample.map((each) => ({ ...each, name: shownName(each.name) })),
          understood: rule && conditionWords(rule),
          rule,
        };
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
            `
              select distinct tag as name
              from (select tag from tag_change where client_id = $1 order by id desc limit 20000) recent
              order by 1 limit 200`,
          ),
          lists: await names(
            `
              select name from list where client_id = $1 union select distinct list
              from (select list from list_change where client_id = $1 order by id desc limit 20000) recent
              order by 1 limit 200`,
          ),
          lines: await rows('select id, key, name, channel from line where client_id = $1 order by id'),
          loops: await rows(
            `
             select l.id, l.name, (l.live_version is not null and l.state = 'live') as live,
               coalesce((select jsonb_agg(jsonb_build_object('id', s ->> 'id', 'name', s ->> 'name'))
                 from jsonb_array_elements(coalesce(v.loop, l.draft) -> 'scenes') s), '[]') as scenes
             from loop l left join loop_version v on v.client_id = l.client_id and v.loop_id = l.id
               and v.version = l.live_version where l.client_id = $1 and l.archived_at is null
             order by l.position`,
          ),
          sources: await names(
            `
              select distinct title as name from task where client_id = $1 and kind = 'import' order by 1
              limit 50`,
          ),
          segments: await rows('select id, name from segment where client_id = $1 order by name'),
          destinations: await rows(
            `
              select id, name from destination where client_id = $1 and state <> 'off' and kind <> 'file'
              order by name`,
          ),
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/export',
      may: 'manage people',
      query: ExportQuery,
      async handle({ db, client, query, account, response }) {
        const rule = ruleOf(query.where);
        const asked = await askedOf(db, client.id, clock.now());
        const { type, ending } = FORMATS[query.format];
        await audit(db, client.id, account.id, clock.now(), 'took people out', {
          format: query.format,
          where: query.where,
        });
        return transferring(async (connection) => {
          response
            .status(200)
            .setHeader('content-type', type)
            .setHeader('content-disposition', `attachment; filename="${client.slug}-people.${ending}"`);
          await writePeople(connection, response, asked, { q: query.q, rule }, query.format);
        });
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
          `
            select ${NAME} as name, p.first_name, p.last_name, p.language, p.fields, p.tags, p.lists
            from person p where p.client_id = $1 and p.id = $2`,
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
      may: 'see people of the inbox',
      async handle({ db, client, params, account }): Promise<PersonPage> {
        if (!may(account, 'see people')) await stopIfNotInInbox(db, client.id, params.personId!);
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
        const { rows: definitions } = await db.query<{
          key: string;
          type: FieldType;
          options: string[];
          name: string;
        }>('select key, type, options, name from field where client_id = $1', [client.id]);
        const fields = Object.fromEntries(
          Object.entries(body.fields ?? {}).map(([key, written]): [string, Value | null] => {
            const field = definitions.find((each) => each.key === key);
            if (!field)
              throw new Problem(400, 'That cannot be used', `fields: the client has no field “${key}”.`);
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
            throw new Problem(
              409,
              'They have left it',
              `They have left the list ${list} by themselves; only they can join it again.`,
            );
        }
        const changed = await changePeople(
          db,
          {
            clientId: client.id,
            now,
            by: byTeam(account),
            stated: body.stated ?? null,
            wordings: await wordingsOf(db, client.id),
          },
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
        await audit(db, client.id, account.id, now, 'changed a person', {
          personId,
          fields: Object.keys(fields),
        });
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
          await db.query<{ name: string }>(
            `select ${NAME} as name from person p where p.client_id = $1 and p.id = $2`,
            [client.id, params.personId],
          )
        ).rows[0]!;
        const identities = await db.query<{ line: string; address: string }>(
          `
            select l.name as line, i.address from identity i join line l on l.client_id = i.client_id
              and l.id = i.line_id where i.client_id = $1 and i.person_id = $2 order by i.created_at`,
          [client.id, params.personId],
        );
        const entries = await db.query<{
          at: Date;
          what: 'opt-in' | 'opt-out' | 'undone';
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
          `
           select c.at, c.what, c.scope, l.name as line, c.list, c.words, c.wording, c.language, c.stated,
             c.confirmed, c.by, c.cue_id as cue, e.provider_id as message
           from consent c left join line l on l.client_id = c.client_id and l.id = c.line_id
           left join event e on e.client_id = c.client_id and e.id = c.event_id
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
            about:
              scope === 'everything'
                ? 'everything'
                : scope === 'list'
                  ? `the list ${list}`
                  : (line ?? 'a line that is gone'),
            by: byWords(by).words,
            step: by?.kind === 'loop' ? by.stepId : null,
            messageId: message,
          })),
        };
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/erasures',
      may: 'manage people',
      async handle({ db, client }): Promise<ErasureReceipt[]> {
        const { rows } = await db.query<{
          id: string;
          at: Date;
          by: string | null;
          reason: string;
          counts: Record<string, number>;
        }>(
          `
            select e.id, e.at, a.name as by, e.reason, e.counts from erasure e
            left join account a on a.id = e.by where e.client_id = $1 order by e.at desc, e.id desc limit 200`,
          [client.id],
        );
        return rows.map(({ at, counts, ...row }) => ({
          ...row,
          at: at.toISOString(),
          counts: Object.fromEntries(Object.entries(counts).filter(([, count]) => count > 0)),
        }));
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/archive',
      may: 'manage people',
      async handle({ db, client, params, account, response }): Promise<void> {
        const who = await whoIs(db, client.id, params.personId!);
        await audit(db, client.id, account.id, clock.now(), 'took out everything about a person', {
          personId: params.personId,
        });
        const archive = await archiveOf(db, client.id, who);
        response
          .status(200)
          .setHeader('content-type', 'application/json; charset=utf-8')
          .setHeader('content-disposition', `attachment; filename="person-${params.personId}.json"`)
          .end(toJson({ client: client.name, madeAt: new Date(clock.now()).toISOString(), ...archive }, 2));
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/people',
      may: 'change people',
      body: EditPerson,
      async handle({ db, client, account, body }): Promise<{ id: string }> {
        if (!body.firstName && !body.lastName)
          throw new Problem(400, 'That cannot be used', 'firstName: say who it is.');
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

/** Whoever sees the inbox alone sees, of people, those in it. */
async function stopIfNotInInbox(db: Connection, clientId: number, personId: string): Promise<void> {
  const { rowCount } = await db.query(
    'select from conversation where client_id = $1 and person_id = $2 limit 1',
    [clientId, personId],
  );
  if (!rowCount) throw notFound('person');
}
