import type { FieldDefinition, Loop } from '@dart-loop/core';
import { fieldsIn } from '@dart-loop/core/loops/check/fieldsOf';
import { FieldDefinition as Field } from '@dart-loop/core/people/person';
import {
  ChangeType,
  EditField,
  ShareFields,
  type FieldRow,
  type FieldsPage,
  type TaskView,
  type TypeChangePreview,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { openClients, type Connection } from '../platform/db/pool';
import { cellWorldOf } from './cellWorld';
import { typeChangePreview } from './convert';
import { makeTask } from './taskRoutes';
import { cuesChanged } from '../loops/cueRevision';
import { Problem, isTaken, notFound } from '../platform/problem';
import { route } from '../http/route';

type Definition = FieldDefinition;
const COLUMNS = 'key, type, name, description, options, personal';

async function definitionsOf(db: Connection, clientId: number): Promise<Definition[]> {
  return (
    await db.query<Definition>(
      `select ${COLUMNS} from field where client_id = $1 order by lower(name), key`,
      [clientId],
    )
  ).rows;
}

async function one(db: Connection, clientId: number, key: string): Promise<Definition> {
  const { rows } = await db.query<Definition>(
    `select ${COLUMNS} from field where client_id = $1 and key = $2`,
    [clientId, key],
  );
  if (!rows[0]) throw notFound('field');
  return rows[0];
}

/** What of a field differs from the agency's, in words. */
function differencesOf(own: Definition, shared: Definition): string[] {
  return [
    ...(own.type === shared.type ? [] : [`here it is ${own.type}, shared it is ${shared.type}`]),
    ...(own.name === shared.name ? [] : [`here it is called ${own.name}, shared ${shared.name}`]),
    ...(own.description === shared.description ? [] : ['the description differs']),
    ...(own.options.join('|') === shared.options.join('|')
      ? []
      : [
          `here one may choose ${own.options.join(', ') || 'anything'}, shared ${shared.options.join(', ') || 'anything'}`,
        ]),
    ...(own.personal === shared.personal
      ? []
      : [shared.personal ? 'shared it is personal' : 'shared it is not personal']),
  ];
}

export function fieldRoutes({
  clock,
  woken,
  linesChanged,
}: {
  clock: Clock;
  woken: () => void;
  linesChanged: (clientId: number) => void;
}) {
  const page = async (db: Connection, client: { id: number }, agencyId: number): Promise<FieldsPage> => {
    const definitions = await definitionsOf(db, client.id);
    const shared = (
      await db.query<Definition>(`select ${COLUMNS} from shared_field where agency_id = $1 order by name`, [
        agencyId,
      ])
    ).rows;
    const { rows: loops } = await db.query<{ name: string; loop: Loop }>(
      'select name, draft as loop from loop where client_id = $1 and archived_at is null',
      [client.id],
    );
    const used = loops.map(({ name, loop }) => ({ name, fields: fieldsIn(loop) }));
    const { rows: known } = await db.query<{ key: string; known: number }>(
      `
       select f.key, (select count(*)::int from person_terms t
         where t.client_id = $1
         and t.terms @@ (select string_agg(quote_literal($1 || ':k:' || f.key || '|' || w), ' | ')
         from unnest(array['t','s','n','d','h','b']) w)::tsquery) as known
       from field f where f.client_id = $1`,
      [client.id],
    );
    const counts = new Map(known.map((row) => [row.key, row.known]));
    return {
      fields: definitions.map((field): FieldRow => {
        const same = shared.find((each) => each.key === field.key);
        const differences = same ? differencesOf(field, same) : [];
        return {
          ...field,
          known: counts.get(field.key) ?? 0,
          loops: used.filter((loop) => loop.fields.has(field.key)).map((loop) => loop.name),
          shared: !same ? 'no' : differences.length === 0 ? 'same' : differences,
        };
      }),
      missing: shared.filter((each) => !definitions.some((field) => field.key === each.key)),
    };
  };
  return [
    route({
      method: 'get',
      path: '/clients/:client/fields',
      may: 'see people',
      handle: ({ db, client, account }) => page(db, client, account.agencyId),
    }),
    route({
      method: 'post',
      path: '/clients/:client/fields',
      may: 'manage people',
      body: Field,
      async handle({ db, client, body, account, afterwards }): Promise<FieldsPage> {
        const { rowCount } = await db.query(
          `
            insert into field (client_id, key, type, name, description, options, personal)
            values ($1, $2, $3, $4, $5, $6, $7) on conflict do nothing`,
          [client.id, body.key, body.type, body.name, body.description, body.options, body.personal],
        );
        if (rowCount === 0) throw isTaken('field', body.key, 'key');
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'made a field', {
          key: body.key,
          type: body.type,
        });
        afterwards(() => linesChanged(client.id));
        return page(db, client, account.agencyId);
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/fields/:field',
      may: 'manage people',
      body: EditField,
      async handle({ db, client, params, body, account, afterwards }): Promise<FieldsPage> {
        await one(db, client.id, params.field!);
        await db.query(
          `
            update field set name = $3, description = $4, options = $5, personal = $6
            where client_id = $1 and key = $2`,
          [client.id, params.field, body.name, body.description, body.options, body.personal],
        );
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'changed a field', { key: params.field });
        afterwards(() => linesChanged(client.id));
        return page(db, client, account.agencyId);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/fields/:field/type',
      may: 'manage people',
      body: ChangeType,
      async handle({ db, client, params, body, account, afterwards }): Promise<TypeChangePreview | TaskView> {
        const field = await one(db, client.id, params.field!);
        const world = await cellWorldOf(db, client.id, clock.now());
        const change = { field: field.key, to: body.type, options: field.options, world };
        if (body.dry) return typeChangePreview(db, client.id, change);
        await db.query('update field set type = $3 where client_id = $1 and key = $2', [
          client.id,
          field.key,
          body.type,
        ]);
        await cuesChanged(db, client.id);
        const task = await makeTask(db, client.id, account, clock.now(), {
          kind: 'convert',
          title: `${field.name} from ${field.type} to ${body.type}`,
          spec: { ...change, from: field.type },
          total: null,
        });
        await audit(db, client.id, account.id, clock.now(), 'changed a field’s type', {
          key: field.key,
          from: field.type,
          to: body.type,
        });
        afterwards(() => {
          linesChanged(client.id);
          woken();
        });
        return task;
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/fields/:field',
      may: 'manage people',
      async handle({ db, client, params, account, afterwards }): Promise<FieldsPage> {
        const field = await one(db, client.id, params.field!);
        const before = (await page(db, client, account.agencyId)).fields.find(
          (each) => each.key === field.key,
        )!;
        if (before.known > 0)
          throw new Problem(
            409,
            'It is in use',
            `${before.known} people have a value of ${field.name}. Clear it for them first.`,
          );
        if (before.loops.length > 0)
          throw new Problem(
            409,
            'It is in use',
            `${before.loops.join(', ')} ${before.loops.length === 1 ? 'uses' : 'use'} ${field.name}. Take it out there first.`,
          );
        await db.query('delete from field where client_id = $1 and key = $2', [client.id, field.key]);
        await cuesChanged(db, client.id);
        await audit(db, client.id, account.id, clock.now(), 'removed a field', { key: field.key });
        afterwards(() => linesChanged(client.id));
        return page(db, client, account.agencyId);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/fields/share',
      may: 'manage people',
      body: ShareFields,
      // Fields of this client become the agency's; with clients named, the agency's are put into those.
      async handle({ db, client, body, account, afterwards }): Promise<FieldsPage> {
        const definitions = (await definitionsOf(db, client.id)).filter((field) =>
          body.keys.includes(field.key),
        );
        for (const { key, type, name, description, options, personal } of definitions)
          await db.query(
            `
             insert into shared_field (agency_id, key, type, name, description, options, personal)
             values ($1, $2, $3, $4, $5, $6, $7)
             on conflict (agency_id, key) do update
             set type = excluded.type, name = excluded.name, description = excluded.description,
               options = excluded.options, personal = excluded.personal`,
            [account.agencyId, key, type, name, description, options, personal],
          );
        const changed = await putShared(db, account.agencyId, body.keys, body.clients, account.clientIds);
        for (const id of changed)
          await audit(db, id, account.id, clock.now(), 'put shared fields in', { keys: body.keys });
        await openClients(db, [client.id]);
        await audit(db, client.id, account.id, clock.now(), 'shared fields', { keys: body.keys });
        afterwards(() => {
          for (const id of [client.id, ...changed]) linesChanged(id);
        });
        return page(db, client, account.agencyId);
      },
    }),
  ];
}

/**
 * Puts shared fields into clients of the account's. A field that is there keeps its type; name, description
 * and choices become the shared ones.
 */
async function putShared(
  db: Connection,
  agencyId: number,
  keys: readonly string[],
  slugs: readonly string[],
  clientIds: readonly number[],
): Promise<number[]> {
  if (slugs.length === 0) return [];
  await openClients(db, clientIds);
  const { rows } = await db.query<{ id: number; slug: string }>(
    'select id, slug from client where slug = any ($1)',
    [slugs],
  );
  const unknown = slugs.find((slug) => !rows.some((row) => row.slug === slug));
  if (unknown)
    throw new Problem(404, 'Not found', `There is no client “${unknown}”, or it is not one of yours.`);
  const ids = rows.map((row) => row.id);
  await db.query(
    `
     insert into field (client_id, key, type, name, description, options, personal)
     select c.id, s.key, s.type, s.name, s.description, s.options, s.personal from shared_field s
     cross join unnest($3::int[]) as c (id) where s.agency_id = $1 and s.key = any ($2)
     on conflict (client_id, key) do update
     set name = excluded.name, description = excluded.description, options = excluded.options,
       personal = excluded.personal`,
    [agencyId, keys, ids],
  );
  await db.query('update client set cue_revision = cue_revision + 1 where id = any ($1)', [ids]);
  return ids;
}
