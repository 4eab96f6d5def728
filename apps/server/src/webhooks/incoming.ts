import { readReply } from '@dart-loop/core';
import {
  NOTHING,
  columnsFor,
  readIncoming,
  type Heard,
  type IncomingMapping,
} from '@dart-loop/core/sync/incoming';
import {
  hearing,
  overrule,
  type Overruled,
  type Standing,
  type StandsThere,
} from '@dart-loop/core/sync/settle';
import type { Cell, Mapping } from '@dart-loop/core/sync/mapping';
import type { PersonBy } from '@dart-loop/contract';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { isUuid } from '../platform/ids';
import type { KnownPerson } from '../people/facts';
import { settingOf, type Setting } from '../people/meeting';
import { contactOf } from '../people/terms';
import { readFields, upsertPerson } from '../people/upsert';
import { noteDeliveries } from '../sync/noting';
import { nobodyFound, wrong } from '../platform/problem';

/** An incoming webhook as its token opens it. */
export interface OpenInlet {
  client_id: number;
  id: number;
  hook: string;
  reading: IncomingMapping | null;
  /** The destination that it is the way back of. */
  destination_id: string | null;
  listens_until: Date | null;
}

export interface TakenIn {
  person: KnownPerson;
  made: boolean;
  /** Fields that are others now. */
  changed: string[];
  passedOver: string[];
}

/** What is told of a field, with what is known then of the columns it goes into. */
interface Told {
  field: string;
  columns: { column: string; cell: Cell; news: boolean; standing: Standing }[];
  isNews: boolean;
}

/**
 * The destination that an incoming webhook is the way back of, with what is known to stand there of one
 * person.
 */
interface WayBack {
  id: string;
  state: string;
  mapping: Mapping;
  stands: StandsThere;
  overruled: Record<string, Overruled>;
  /** Rows on their way there. */
  underWay: Record<string, Cell>[];
}

/**
 * Takes in a body of another system: a person is found or made, and changed where it says something new and
 * the one who wins is theirs. Where ours wins, it goes out to the destination that this is the way back of.
 * What comes back of our own deliveries changes nothing. All in the caller's transaction; throws {@link
 * NotTaken}.
 */
export async function takeIn(
  db: Connection,
  inlet: OpenInlet & { reading: IncomingMapping },
  body: unknown,
  now: number,
  key: Buffer,
): Promise<TakenIn> {
  const { client_id: clientId, hook, destination_id: destinationId } = inlet;
  const heard = readIncoming(inlet.reading, body);
  const setting = await settingOf(db, clientId, now);
  // Two bodies about one person come one after the other.
  for (const { by, value } of [...heard.who].sort((a, b) => a.by.localeCompare(b.by)))
    await db.query('select pg_advisory_xact_lock($1, hashtext($2))', [
      clientId,
      `${hook} ${by} ${value.toLowerCase()}`,
    ]);
  const who = await whoIsMeant(db, clientId, destinationId, heard, setting);
  const back =
    destinationId === null ? null : await wayBack(db, clientId, destinationId, 'id' in who ? who.id! : null);
  const told = Object.entries(readFields(heard.fields, setting)).map(([field, { value }]) => {
    const columns = (back ? columnsFor(back.mapping, field, value) : []).map(({ column, cell }) => {
      const underWay = back!.underWay.flatMap((row) => (row[column] === undefined ? [] : [row[column]]));
      return { column, cell, ...hearing(cell, back!.stands[column], underWay, now) };
    });
    return { field, columns, isNews: columns.length === 0 || columns.some(({ news }) => news) };
  });
  const old = new Set(told.filter(({ isNews }) => !isNews).map(({ field }) => field));
  const names = Object.fromEntries(heard.names.map(({ what, value }) => [KEYS[what], value]));
  const done = await upsertPerson(
    db,
    setting,
    {
      by: who,
      ...names,
      onlyGaps: heard.names.filter(({ wins }) => wins === 'ours').map(({ what }) => KEYS[what]),
      fields: Object.fromEntries(Object.entries(heard.fields).filter(([field]) => !old.has(field))),
      tags: { on: heard.tags },
      stated: null,
      at: Math.min(heard.at ?? now, now),
      source: hook,
    },
    { kind: 'system', name: hook },
    key,
  );
  const passedOver = [...heard.passedOver, ...done.passedOver];
  if (back)
    passedOver.push(...(await noteHeard(db, inlet, back, done.person.id, told, done.kept, heard, now)));
  return { person: done.person, made: done.made, changed: done.changed, passedOver };
}

const KEYS = { 'first name': 'firstName', 'last name': 'lastName', language: 'language' } as const;

/** The first way of saying who it is that finds somebody; else whoever is to be made. */
async function whoIsMeant(
  db: Connection,
  clientId: number,
  destinationId: string | null,
  heard: Heard,
  { cells }: Setting,
): Promise<PersonBy> {
  const makes: PersonBy[] = [];
  for (const { by, value } of heard.who) {
    if (by === 'their id') {
      const { rows } = await db.query<{ person_id: string }>(
        `
          select person_id from counterpart where client_id = $1 and destination_id = $2 and their_id = $3
          limit 1`,
        [clientId, destinationId, value],
      );
      if (rows[0]) return { id: rows[0].person_id };
    } else if (by === 'id') {
      const { rowCount } = isUuid(value)
        ? await db.query('select from person where client_id = $1 and id = $2', [clientId, value])
        : { rowCount: 0 };
      if (rowCount) return { id: value };
    } else {
      const reading = readReply(by, value, cells);
      if (!reading.ok) throw wrong('who', `“${value}” does not fit: ${reading.reason}`);
      const { rows } = await db.query<{ person_id: string }>(
        'select person_id from contact where client_id = $1 and value = $2 order by person_id limit 1',
        [clientId, contactOf(reading.value)],
      );
      if (rows[0]) return { id: rows[0].person_id };
      makes.push({ [by]: value });
    }
  }
  if (!makes[0])
    throw heard.who.length === 0
      ? wrong('who', 'nothing in it tells who it is; the mapping of this webhook says where that stands')
      : nobodyFound('who', 'the client has nobody with this id, and nobody is made of an id alone');
  return makes[0];
}
/**
 * What is known of one person over there is locked: a delivery that ends at the same moment waits, or has
 * been waited for.
 */
async function wayBack(
  db: Connection,
  clientId: number,
  id: string,
  personId: string | null,
): Promise<WayBack | null> {
  const { rows } = await db.query<Pick<WayBack, 'id' | 'state' | 'mapping'>>(
    'select id, state, mapping from destination where client_id = $1 and id = $2',
    [clientId, id],
  );
  if (!rows[0]) return null;
  const key = [clientId, id, personId];
  if (personId !== null)
    await db.query(
      `
        insert into stands_there (client_id, destination_id, person_id)
        values ($1, $2, $3) on conflict do nothing`,
      key,
    );
  const known = await db.query<{
    columns: StandsThere;
    overruled: WayBack['overruled'];
    under_way: WayBack['underWay'];
  }>(
    `
      select columns, overruled, under_way from stands_there where client_id = $1 and destination_id = $2
        and person_id = $3 for update`,
    key,
  );
  const { columns = {}, overruled = {}, under_way = [] } = known.rows[0] ?? {};
  return { ...rows[0], stands: columns, overruled, underWay: under_way };
}

/**
 * Keeps what stands over there now, and sends ours there where ours has won. What ours has not won over says
 * so.
 */
async function noteHeard(
  db: Connection,
  { client_id: clientId, hook }: OpenInlet,
  back: WayBack,
  personId: string,
  told: readonly Told[],
  kept: readonly string[],
  heard: Heard,
  now: number,
): Promise<string[]> {
  const theirId = heard.who.find(({ by }) => by === 'their id')?.value;
  if (theirId !== undefined)
    await db.query(
      `
        insert into counterpart (client_id, destination_id, person_id, their_id)
        values ($1, $2, $3, $4) on conflict do nothing`,
      [clientId, back.id, personId, theirId],
    );
  const stands = Object.fromEntries(
    told.flatMap(({ columns }) => columns.map(({ column, standing }) => [column, standing])),
  );
  const news = told.filter(({ isNews }) => isNews);
  const overruled = { ...back.overruled };
  const insists: string[] = [];
  let sends = false;
  for (const { field, columns } of news)
    for (const { column, cell } of columns) {
      if (!kept.includes(field)) {
        delete overruled[column];
        continue;
      }
      const again = overrule(overruled[column], cell, now);
      if (again === null)
        insists.push(
          `${field}: it comes back with the same value again and again, and is left as it is there`,
        );
      else {
        overruled[column] = again;
        sends = true;
      }
    }
  if (Object.keys(stands).length > 0)
    await db.query(
      `
       insert into stands_there (client_id, destination_id, person_id, columns, overruled)
       values ($1, $2, $3, $4, $5)
       on conflict (client_id, destination_id, person_id) do update
       set columns = stands_there.columns || excluded.columns, overruled = excluded.overruled`,
      [clientId, back.id, personId, toJson(stands), toJson(overruled)],
    );
  // A row that has gone out and goes again must not bring back what they have changed meanwhile.
  const taken = news.flatMap(({ field, columns }) => (kept.includes(field) ? [] : columns));
  if (taken.length > 0)
    await db.query(
      `
       update delivery set cells = (cells || $4) - $5::text[]
       where client_id = $1 and destination_id = $2 and person_id = $3 and status = 'waiting'
         and cells is not null`,
      [
        clientId,
        back.id,
        personId,
        toJson(Object.fromEntries(taken.map(({ column, cell }) => [column, cell]))),
        taken.filter(({ cell }) => cell === NOTHING).map(({ column }) => column),
      ],
    );
  if (sends && back.state !== 'off')
    await noteDeliveries(db, [
      {
        client_id: clientId,
        person_id: personId,
        destination_id: back.id,
        off: false,
        cause: `webhook:${hook}`,
        at: new Date(now).toISOString(),
      },
    ]);
  return insists;
}
