import { toJson } from '../platform/db/json';
import { type FieldType, type Value } from '@dart-loop/core';
import {
  EditPerson,
  OptOut,
  may,
  type PersonForRehearsal,
  type PersonPage,
  type Proof,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import type { Connection } from '../platform/db/pool';
import { valueOf, withoutThoseWhoLeft, wordingsOf } from './actions';
import { archiveOf } from './archive';
import { cellWorldOf } from './cellWorld';
import { changePeople } from './change';
import { NAME, personPage, whoIs } from './page';
import { byTeam } from './byTeam';
import { raiseCues } from './starting';
import { byWords } from './byWords';
import type { ChangedBy } from '../conversations/changes';
import { Problem, notFound } from '../platform/problem';
import { route } from '../http/route';
import { PERSON_COLUMNS, type StoredPerson } from './stored';
/** One person: what is known of them, changed by the team, given out. */
export function personRoutes({ clock, woken }: { clock: Clock; woken: () => void }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/people/:personId/for-rehearsal',
      may: 'see people',
      async handle({ db, client, params }): Promise<PersonForRehearsal> {
        const { rows } = await db.query<StoredPerson & { name: string }>(
          `
            select p.id, ${NAME} as name, ${PERSON_COLUMNS}
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
            return [key, valueOf(field, written, world, { part: key, name: field.name })];
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
