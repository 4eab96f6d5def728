import { namesMissing } from '@dart-loop/core/sync/copies';
import { destinationKind } from '@dart-loop/core/sync/kinds/index';
import { mappingFindings, type TheirColumn } from '@dart-loop/core/sync/mapping';
import type { FieldTypes } from '@dart-loop/core';
import {
  DeliveriesQuery,
  Replay,
  Seen,
  SaveDestination,
  SetDestinationState,
  TryDestination,
  type AttemptView,
  type DeliveryPage,
  type DeliveryRow,
  type DestinationPage,
  type DestinationRow,
  type PreviewRow,
  type Triggers,
} from '@dart-loop/contract';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { clientFacts, readPeople } from '../people/facts';
import { NAME } from '../people/page';
import type { Keyring } from '../platform/keyring';
import { exchange, wordsOf } from './exchange';
import { parcelOf } from './parcel';
import { NAMES_THERE, hostOf, isWhole, storedDestination, tokenOf, type StoredDestination } from './stored';
import { askOutside, signingSecret } from '../platform/outside';
import { noteFile } from './noting';
import { planSending } from './schedule';
import { Problem, isTaken, notFound } from '../platform/problem';
import { revisionOf, stopIfChanged } from '../http/revision';
import { asking, route } from '../http/route';

const SHOWN = 50;
/** Recent people that a mapping is shown on. */
const PREVIEWED = 10;

const DELIVERIES = `
  select d.id, d.n::int, d.person_id as "personId", case when d.person_id is null then 'Everybody it is for'
    else ${NAME} end as name, d.status, d.is_test as "isTest", d.causes, d.attempts, d.outcome,
    d.made_at as "madeAt", d.due_at as "dueAt", d.ended_at as "endedAt"
  from delivery d left join person p on p.client_id = d.client_id and p.id = d.person_id
  where d.client_id = $1`;

const revisionOfDestination = ({ name, settings, mapping, triggers, who, hint }: StoredDestination): string =>
  revisionOf([name, settings, mapping, triggers, who, hint]);

type Found = StoredDestination & { waiting: number; shelf: number };
const rowView = (row: Found): DestinationRow => ({
  id: row.id,
  name: row.name,
  kind: row.kind,
  what: destinationKind(row.kind).words,
  host: hostOf(row),
  state: row.state,
  waiting: row.waiting,
  shelf: row.shelf,
  failingSince: row.failing_since?.toISOString() ?? null,
  failure: row.failure,
  resumesAt: row.resume_at?.toISOString() ?? null,
  lastOkAt: row.last_ok_at?.toISOString() ?? null,
});

/** Outside systems that people are synced with: set up, tried, watched and mended. */
export function destinationRoutes({
  clock,
  keys,
  standins,
  changed,
}: {
  clock: Clock;
  keys: Keyring;
  standins: string | null;
  /** Something of the client's destinations is otherwise: it is seen to, and open screens are told. */
  changed: (clientId: number) => void;
}) {
  /**
   * The client's destinations as they are kept, with what waits and what stands on the shelf; or the one of
   * this id.
   */
  const found = async (db: Connection, clientId: number, id: string | null = null): Promise<Found[]> =>
    (
      await db.query<Found>(
        `
         select d.*,
           (select count(*)::int from delivery w where w.client_id = d.client_id and w.destination_id = d.id
             and w.status = 'waiting') as waiting,
           (select count(*)::int from delivery w where w.client_id = d.client_id and w.destination_id = d.id
             and w.status = 'shelf') as shelf
         from destination d where client_id = $1 and ($2::uuid is null or id = $2) order by name`,
        [clientId, id],
      )
    ).rows;
  const typesOf = async (db: Connection, clientId: number): Promise<FieldTypes> =>
    Object.fromEntries(
      (
        await db.query<{ key: string; type: FieldTypes[string] }>(
          'select key, type from field where client_id = $1',
          [clientId],
        )
      ).rows.map(({ key: field, type }) => [field, type]),
    );
  const pageOf = async (db: Connection, clientId: number, id: string): Promise<DestinationPage> => {
    const [kept] = await found(db, clientId, id);
    if (!kept) throw notFound('destination');
    const { hint, mapping, triggers, who, columns } = kept;
    const findings = mappingFindings(mapping, await typesOf(db, clientId), columns);
    const revision = revisionOfDestination(kept);
    return {
      ...rowView(kept),
      revision,
      settings: kept.settings as DestinationPage['settings'],
      hint,
      mapping,
      triggers,
      who,
      columns,
      findings,
    };
  };
  /** What of a destination is written down: name, settings, mapping, triggers, who, secrets, hint. */
  const written = ({ name, settings, mapping, triggers, who, token }: SaveDestination): unknown[] => [
    name,
    toJson(settings),
    toJson(mapping),
    toJson(triggers),
    who && toJson(who),
    token ? keys.seal({ token }) : null,
    token?.slice(-4) ?? null,
  ];
  /**
   * Loops and calendars are named as they are called: one that is not there would never bring anything about.
   */
  const knowNames = async (db: Connection, clientId: number, triggers: Triggers): Promise<void> => {
    const { rows } = await db.query<{ loops: string[]; calendars: string[] }>(
      `select ${NAMES_THERE} from client c where c.id = $1`,
      [clientId],
    );
    const [missing] = namesMissing({ ...triggers }, rows[0]!);
    if (missing)
      throw new Problem(
        400,
        'That cannot be used',
        `triggers: the client has no ${missing.what} “${missing.name}”.`,
        {
          errors: [{ field: 'triggers', detail: `the client has no ${missing.what} “${missing.name}”` }],
        },
      );
  };
  const door = async (destination: StoredDestination) => ({
    standins,
    token: await tokenOf(keys, destination),
    secret: signingSecret(keys.root, destination.client_id),
    now: () => clock.now(),
  });

  return [
    route({
      method: 'get',
      path: '/clients/:client/destinations',
      may: 'see sync',
      handle: async ({ db, client }) => (await found(db, client.id)).map(rowView),
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations',
      may: 'change sync',
      body: SaveDestination,
      async handle({ db, client, body, account, afterwards }): Promise<DestinationPage> {
        afterwards(() => changed(client.id));
        if (destinationKind(body.kind).needsToken && !body.token)
          throw new Problem(400, 'That cannot be used', 'token: the other side needs a token to let us in.', {
            errors: [{ field: 'token', detail: 'is missing' }],
          });
        await knowNames(db, client.id, body.triggers);
        const id = newId(clock.now());
        const made = await db.query(
          `
           insert into destination (client_id, id, kind, name, settings, mapping, triggers, who, secrets,
             hint, made_at)
           values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) on conflict (client_id, name) do nothing`,
          [client.id, id, body.kind, ...written(body), new Date(clock.now())],
        );
        if (made.rowCount === 0) throw isTaken('destination', body.name);
        await audit(db, client.id, account.id, clock.now(), 'made a destination', { name: body.name });
        return pageOf(db, client.id, id);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId',
      may: 'see sync',
      handle: ({ db, client, params }) => pageOf(db, client.id, params.destinationId!),
    }),
    route({
      method: 'put',
      path: '/clients/:client/destinations/:destinationId',
      may: 'change sync',
      query: Seen,
      body: SaveDestination,
      async handle({ db, client, params, query, body, account, afterwards }): Promise<DestinationPage> {
        await db.query('select from destination where client_id = $1 and id = $2 for no key update', [
          client.id,
          params.destinationId,
        ]);
        const before = await storedDestination(db, client.id, params.destinationId!);
        await stopIfChanged(db, client.id, query.seen, revisionOfDestination(before), {
          what: 'changed a destination',
          detail: { name: before.name },
        });
        await knowNames(db, client.id, body.triggers);
        if (before.kind !== body.kind)
          throw new Problem(409, 'Another kind', 'A destination keeps its kind; make a new one for another.');
        const other = await db.query(
          'select from destination where client_id = $1 and name = $2 and id <> $3',
          [client.id, body.name, before.id],
        );
        if (other.rowCount !== 0) throw isTaken('destination', body.name);
        await db.query(
          `
           update destination set name = $3, before = case when name = $3 then before
             else array_append(array_remove(array_remove(before, name), $3), name) end, settings = $4,
             mapping = $5, triggers = $6, who = $7, secrets = coalesce($8, secrets),
             hint = coalesce($9, hint),
             fails = 0, resume_at = null, failing_since = null, failure = null, columns = case
               when settings = $4::jsonb then columns end
           where client_id = $1 and id = $2`,
          [client.id, before.id, ...written(body)],
        );
        await planSending(db, client.id, before.id, clock.now());
        const page = await pageOf(db, client.id, before.id);
        if (page.state === 'on') stopFor(page);
        await audit(db, client.id, account.id, clock.now(), 'changed a destination', { name: body.name });
        afterwards(() => changed(client.id));
        return page;
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/destinations/:destinationId',
      may: 'change sync',
      async handle({ db, client, params, account, afterwards }) {
        const { name } = await storedDestination(db, client.id, params.destinationId!);
        afterwards(() => changed(client.id));
        await db.query('delete from destination where client_id = $1 and id = $2', [
          client.id,
          params.destinationId,
        ]);
        await audit(db, client.id, account.id, clock.now(), 'removed a destination', { name });
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/state',
      may: 'change sync',
      body: SetDestinationState,
      async handle({ db, client, params, body, account, afterwards }): Promise<DestinationPage> {
        const page = await pageOf(db, client.id, params.destinationId!);
        if (body.state === 'on') stopFor(page);
        // Whoever switches it on has seen to what was wrong: it is tried at once.
        await db.query(
          `
            update destination set state = $3, fails = case when $4 then 0 else fails end, resume_at = case
              when $4 then null else resume_at end where client_id = $1 and id = $2`,
          [client.id, page.id, body.state, body.state === 'on'],
        );
        if (body.state === 'on')
          await db.query(
            `
              update delivery set due_at = least(due_at, $3) where client_id = $1 and destination_id = $2
                and status = 'waiting'`,
            [client.id, page.id, new Date(clock.now())],
          );
        await planSending(db, client.id, page.id, clock.now());
        await audit(
          db,
          client.id,
          account.id,
          clock.now(),
          `switched a destination ${body.state === 'paused' ? 'to paused' : body.state}`,
          {
            name: page.name,
          },
        );
        afterwards(() => changed(client.id));
        return pageOf(db, client.id, page.id);
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/columns',
      may: 'change sync',
      async handle({ db, client, params }) {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        return asking(
          () => theirColumns(destination),
          async (later, columns): Promise<DestinationPage> => {
            // Where its address has been changed meanwhile, they are the columns of another.
            await later.query(
              'update destination set columns = $3 where client_id = $1 and id = $2 and settings = $4::jsonb',
              [client.id, destination.id, toJson(columns), toJson(destination.settings)],
            );
            return pageOf(later, client.id, destination.id);
          },
        );
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId/preview',
      may: 'see sync',
      async handle({ db, client, params }): Promise<PreviewRow[]> {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        const { rows } = await db.query<{ id: string; name: string }>(
          `
            select p.id, ${NAME} as name from person p where p.client_id = $1
            order by p.last_seen_at desc, p.id limit ${PREVIEWED}`,
          [client.id],
        );
        const people = await readPeople(
          db,
          client.id,
          rows.map(({ id }) => id),
        );
        const facts = await clientFacts(db, client.id);
        return rows.flatMap(({ id, name }) => {
          const person = people.find((each) => each.id === id);
          if (!person) return [];
          const now = clock.now();
          const parcel = parcelOf(destination, person, facts, { id, at: now, now, theirId: null });
          const first = destinationKind(destination.kind).next(destination.settings as never, parcel, []);
          return [
            {
              personId: id,
              name,
              ...parcel.row,
              leftOut: first.kind === 'refused' && !isWhole(destination) ? first.reason : null,
            },
          ];
        });
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/try',
      may: 'change sync',
      body: TryDestination,
      async handle({ db, client, params, body, account }) {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        if (isWhole(destination))
          throw new Problem(409, 'As a whole', 'A file goes out as a whole; send it now to try it.');
        const person = (await readPeople(db, client.id, [body.personId]))[0];
        if (!person) throw notFound('person');
        const facts = await clientFacts(db, client.id);
        const id = newId(clock.now());
        const known = await db.query<{ their_id: string }>(
          'select their_id from counterpart where client_id = $1 and destination_id = $2 and person_id = $3',
          [client.id, destination.id, person.id],
        );
        const at = clock.now();
        const parcel = parcelOf(destination, person, facts, {
          id,
          at,
          now: at,
          theirId: known.rows[0]?.their_id ?? null,
        });
        return asking(
          async () => exchange(await door(destination), destination, parcel),
          async (later, { outcome, calls }): Promise<DeliveryPage> => {
            const there = await later.query(
              `
                select from person p join destination d on d.client_id = p.client_id and d.id = $3
                where p.client_id = $1 and p.id = $2 for key share`,
              [client.id, person.id, destination.id],
            );
            // Somebody erased the person, or took the destination away, while the other side answered:
            // nothing of it is written down.
            if (there.rowCount === 0)
              throw new Problem(
                404,
                'Gone meanwhile',
                'The person was erased, or the destination removed, while the other side answered. It went out, and nothing of it is kept.',
              );
            const words = wordsOf(outcome, parcel);
            await later.query(
              `
               insert into delivery (client_id, id, destination_id, person_id, status, is_test, causes,
                 due_at, attempts, cells, outcome, made_at, ended_at)
               values ($1, $2, $3, $4, $8, true, '{by hand}', $5, 1, $6, $7, $5, $5)`,
              [
                client.id,
                id,
                destination.id,
                person.id,
                new Date(at),
                toJson(parcel.row.cells),
                words,
                outcome.kind === 'done' ? 'done' : 'left out',
              ],
            );
            await later.query(
              `
                insert into attempt (client_id, delivery_id, n, at, ms, ok, reason, calls)
                values ($1, $2, 1, $3, $4, $5, $6, $7)`,
              [
                client.id,
                id,
                new Date(at),
                calls.reduce((sum, { ms }) => sum + ms, 0),
                outcome.kind === 'done',
                words,
                toJson(calls),
              ],
            );
            if (outcome.kind === 'done' && outcome.theirId !== null)
              await later.query(
                `
                 insert into counterpart (client_id, destination_id, person_id, their_id)
                 values ($1, $2, $3, $4)
                 on conflict (client_id, destination_id, person_id) do update set their_id = excluded.their_id`,
                [client.id, destination.id, person.id, outcome.theirId],
              );
            await audit(later, client.id, account.id, clock.now(), 'tried a destination', {
              name: destination.name,
            });
            return delivery(later, client.id, id);
          },
        );
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/send',
      may: 'change sync',
      // A file, now and not only when its time comes.
      async handle({ db, client, params, account, afterwards }): Promise<DestinationPage> {
        const destination = await storedDestination(db, client.id, params.destinationId!);
        if (!isWhole(destination))
          throw new Problem(
            409,
            'Not as a whole',
            'People are sent there one by one, from the list of people.',
          );
        if (destination.state === 'off')
          throw new Problem(
            409,
            'It is off',
            'Switch it on first: nothing goes to a destination that is off.',
          );
        stopFor(await pageOf(db, client.id, destination.id));
        await noteFile(db, destination, 'by hand', clock.now());
        await audit(db, client.id, account.id, clock.now(), 'sent a file out', { name: destination.name });
        afterwards(() => changed(client.id));
        return pageOf(db, client.id, destination.id);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/destinations/:destinationId/deliveries',
      may: 'see sync',
      query: DeliveriesQuery,
      async handle({ db, client, params, query }): Promise<DeliveryRow[]> {
        await storedDestination(db, client.id, params.destinationId!);
        const { rows } = await db.query<DeliveryRow>(
          `${DELIVERIES} and d.destination_id = $2 and ($3 = 'all' or d.status = $3) and ($4::bigint is null or d.n < $4) order by d.n desc limit ${SHOWN}`,
          [client.id, params.destinationId, query.of, query.before ?? null],
        );
        return rows;
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/deliveries/:deliveryId',
      may: 'see sync',
      handle: ({ db, client, params }) => delivery(db, client.id, params.deliveryId!),
    }),
    route({
      method: 'post',
      path: '/clients/:client/destinations/:destinationId/replay',
      may: 'change sync',
      body: Replay,
      async handle({ db, client, params, body, account, afterwards }): Promise<{ replayed: number }> {
        const { name } = await storedDestination(db, client.id, params.destinationId!);
        // They keep their id, by which the other side drops a repeat; what goes out is what is known now.
        const { rowCount } = await db.query(
          `
           update delivery set status = 'waiting', due_at = $3, made_at = $3, cells = null, ended_at = null
           where client_id = $1 and destination_id = $2 and status = 'shelf'
             and ($4::uuid[] is null or id = any ($4))`,
          [client.id, params.destinationId, new Date(clock.now()), body.ids === 'all' ? null : body.ids],
        );
        await audit(db, client.id, account.id, clock.now(), 'replayed deliveries', {
          name,
          deliveries: rowCount,
        });
        afterwards(() => changed(client.id));
        return { replayed: rowCount ?? 0 };
      },
    }),
  ];

  /** Asks the other side for its columns. */
  async function theirColumns(destination: StoredDestination): Promise<TheirColumn[]> {
    const { columns } = destinationKind(destination.kind);
    if (!columns)
      throw new Problem(409, 'It cannot say', 'This kind of destination has no columns of its own.');
    const { token, ...outside } = await door(destination);
    const call = columns.call(destination.settings as never);
    const answer = await askOutside(outside, {
      ...call,
      headers: token ? { authorization: `Bearer ${token}` } : {},
    });
    const said =
      answer.kind === 'silence'
        ? answer.reason
        : answer.status >= 300
          ? `it was answered ${answer.status}`
          : null;
    if (said !== null || answer.kind === 'silence')
      throw new Problem(502, 'It did not say', `The other side did not tell its columns: ${said}.`);
    const read = columns.read(answer.body);
    if (!read)
      throw new Problem(
        502,
        'It did not say',
        'The other side’s answer is no list of columns, each with a “name” and a “type”. Fill the mapping by hand.',
      );
    return read;
  }
}

/** What stops a destination from being switched on is said at once, and not at night by the deliveries. */
function stopFor({ findings, mapping, kind }: DestinationPage): void {
  const stops = findings
    .filter((finding) => finding.stops)
    .map(({ column, reason }) => `${column}: ${reason}`);
  if (mapping.length === 0 && kind !== 'webhook')
    stops.push('mapping: nothing would go out; map at least one column.');
  if (stops.length > 0) throw new Problem(409, 'It cannot be switched on', stops.join(' '));
}

async function delivery(db: Connection, clientId: number, id: string): Promise<DeliveryPage> {
  const { rows } = await db.query<DeliveryRow>(`${DELIVERIES} and d.id = $2`, [clientId, id]);
  if (!rows[0]) throw notFound('delivery');
  const { rows: tries } = await db.query<AttemptView>(
    `
      select n, at, ms, ok, reason, calls from attempt where client_id = $1 and delivery_id = $2
      order by n desc`,
    [clientId, id],
  );
  return { ...rows[0], tries };
}
