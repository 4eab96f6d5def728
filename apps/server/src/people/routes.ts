import { FORMATS, writePeople } from './exporting';
import { conditionWords, type ChannelKind, type Value } from '@dart-loop/core';
import { shownName, shownValue } from '@dart-loop/core/people/shownName';
import {
  CountQuery,
  EditPerson,
  type ErasureReceipt,
  ExportQuery,
  PeopleQuery,
  type PeopleCount,
  type PeoplePage,
  type PeopleVocabulary,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { newId } from '../platform/ids';
import { changePeople } from './change';
import { NAME } from './page';
import { askedOf, chosenSql, countChosen, ruleOf } from './select';
import { byTeam } from './byTeam';
import { pageKey, readPageKey } from '../http/pages';
import { Problem } from '../platform/problem';
import { route, transferring } from '../http/route';

const ROWS = 60;
const SAMPLE = 5;

export function peopleRoutes({ clock }: { clock: Clock }) {
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
