import { copyDifferences, fieldsNeeded, namesMissing } from '@dart-loop/core/sync/copies';
import { destinationKind } from '@dart-loop/core/sync/kinds/index';
import { CopyDestination, type CopyRow } from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { copyFields } from '../people/copyFields';
import { toJson } from '../platform/db/json';
import { openClients, type Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import type { Keyring } from '../platform/keyring';
import { planSending } from './schedule';
import { NAMES_THERE, hostOf, storedDestination, type StoredDestination } from './stored';
import { cuesChanged } from '../loops/cueRevision';
import { Problem } from '../platform/problem';
import { route, type OpenClient } from '../http/route';

interface Other {
  id: number;
  slug: string;
  name: string;
  copy: StoredDestination | null;
  fields: string[];
  loops: string[];
  calendars: string[];
}

/**
 * One destination for many clients: copied with its mapping, each with its own token, and what the copies
 * have otherwise.
 */
export function copyRoutes({ clock, keys }: { clock: Clock; keys: Keyring }) {
  return [
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId/copies',
      may: 'change sync',
      async handle({ db, client, params, account }): Promise<CopyRow[]> {
        const from = await storedDestination(db, client.id, params.destinationId!);
        return rowsOf(from, await others(db, client, account.clientIds, from.name));
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/copies',
      may: 'change sync',
      body: CopyDestination,
      async handle({ db, client, params, account, body }): Promise<CopyRow[]> {
        const from = await storedDestination(db, client.id, params.destinationId!);
        const all = await others(db, client, account.clientIds, from.name);
        for (const { client: slug, token, address } of body.to) {
          const to = all.find((each) => each.slug === slug);
          if (!to)
            throw new Problem(
              404,
              'Not found',
              `There is no other client “${slug}”, or it is not one of yours.`,
            );
          if (to.copy && to.copy.kind !== from.kind)
            throw new Problem(
              409,
              'Another kind',
              `${to.name} has a destination “${from.name}” of another kind; rename one of them first.`,
            );
          if (!to.copy && destinationKind(from.kind).needsToken && !token)
            throw new Problem(
              400,
              'That cannot be used',
              `token: ${to.name} needs a token of its own to be let in.`,
              {
                errors: [{ field: slug, detail: 'needs a token of its own' }],
              },
            );
          await put(db, from, to, { token, address });
          await audit(
            db,
            to.id,
            account.id,
            clock.now(),
            to.copy ? 'brought a destination in line' : 'copied a destination in',
            {
              name: from.name,
              from: client.name,
            },
          );
        }
        return rowsOf(from, await others(db, client, account.clientIds, from.name));
      },
    }),
  ];

  /** Makes or changes the copy; one that is new is off, so that it is tried before anything goes out. */
  async function put(
    db: Connection,
    from: StoredDestination,
    to: Other,
    { token, address }: { token?: string; address?: string },
  ): Promise<void> {
    await copyFields(db, from.client_id, to.id, fieldsNeeded(copied(from)));
    await cuesChanged(db, to.id);
    const own = address ?? (to.copy?.settings as { address?: string } | undefined)?.address;
    const values = [
      to.id,
      from.name,
      toJson({ ...(from.settings as object), ...(own !== undefined && { address: own }) }),
      toJson(from.mapping),
      toJson(from.triggers),
      from.who && toJson(from.who),
      token ? keys.seal({ token }) : null,
      token?.slice(-4) ?? null,
    ];
    if (to.copy) {
      await db.query(
        `
           update destination
           set settings = $3, mapping = $4, triggers = $5, who = $6, secrets = coalesce($7, secrets),
             hint = coalesce($8, hint),
           columns = case when settings = $3::jsonb then columns end where client_id = $1 and name = $2`,
        values,
      );
      await planSending(db, to.id, to.copy.id, clock.now());
    } else
      await db.query(
        `
          insert into destination (client_id, name, settings, mapping, triggers, who, secrets, hint, id,
            kind, made_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
        [...values, newId(clock.now()), from.kind, new Date(clock.now())],
      );
  }
}

/** The account's other clients; from here on the transaction sees them all. */
async function others(
  db: Connection,
  client: OpenClient,
  clientIds: readonly number[],
  name: string,
): Promise<Other[]> {
  await openClients(db, clientIds);
  const { rows } = await db.query<Omit<Other, 'copy'>>(
    `select c.id, c.slug, c.name, array(select key from field f where f.client_id = c.id) as fields,
       ${NAMES_THERE}
     from client c where c.id <> $1 order by c.name`,
    [client.id],
  );
  const copies = await db.query<StoredDestination>(
    'select * from destination where name = $1 and client_id <> $2',
    [name, client.id],
  );
  return rows.map((row) => ({
    ...row,
    copy: copies.rows.find(({ client_id }) => client_id === row.id) ?? null,
  }));
}

const copied = ({ kind, settings, mapping, triggers, who }: StoredDestination) => ({
  kind,
  settings: settings as Record<string, unknown>,
  mapping,
  triggers: { ...triggers },
  who,
});

const rowsOf = (from: StoredDestination, all: readonly Other[]): CopyRow[] =>
  all.map(({ slug, name, copy, fields, ...there }) => ({
    client: slug,
    name,
    copy: copy && { id: copy.id, host: hostOf(copy), state: copy.state, hint: copy.hint },
    differences: copy ? copyDifferences(copied(from), copied(copy)) : [],
    missingFields: fieldsNeeded(copied(from)).filter((field) => !fields.includes(field)),
    missingNames: namesMissing({ ...from.triggers }, there).map(
      ({ what, name: missing }) =>
        `There is no ${what} “${missing}” there, which is to bring a delivery about.`,
    ),
  }));
