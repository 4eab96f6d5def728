import {
  afterBooking,
  afterCancelling,
  calendarsByName,
  type Booked,
  type BookedAhead,
  type Calendar,
  type CalendarFacts,
  type Taken,
} from '@dart-loop/core';
import { toJson } from '../platform/db/json';
import type { Connection, Db } from '../platform/db/pool';
import type { Changes } from '../conversations/changes';

/** A client's calendars, without what is taken of them. */
export type Calendars = readonly Omit<CalendarFacts, 'taken'>[];

/** The calendars of several clients. */
export async function calendarsOf(
  db: Connection | Db,
  clientIds: readonly number[],
): Promise<(clientId: number) => Calendars> {
  const { rows } = await db.query<{
    client_id: number;
    id: string;
    name: string;
    rule: Omit<Calendar, 'name'>;
  }>(
    `
      select client_id, id, name, rule from calendar where client_id = any ($1) and gone_at is null
      order by name`,
    [clientIds],
  );
  return (clientId) =>
    rows.flatMap(({ client_id, id, name, rule }) =>
      client_id === clientId ? [{ id, calendar: { name, ...rule } }] : [],
    );
}

/** What is taken of the clients' calendars after a moment. */
async function takenOf(
  db: Connection,
  clientIds: readonly number[],
  after: Date,
): Promise<(calendarId: string) => Taken[]> {
  const { rows } = await db.query<{ calendar_id: string; starts_at: Date; kept_until: Date; count: number }>({
    name: 'taken',
    text: `select calendar_id, starts_at, kept_until, count(*)::int as count from booking
           where client_id = any ($1::int[]) and state = 'booked' and kept_until > $2 group by 1, 2, 3`,
    values: [clientIds, after],
  });
  return (calendarId) =>
    rows.flatMap(({ calendar_id, starts_at, kept_until, count }) =>
      calendar_id === calendarId ? [{ from: starts_at.getTime(), until: kept_until.getTime(), count }] : [],
    );
}

/** A client's calendars with what is taken of them. */
export async function calendarFacts(db: Connection, clientId: number, now: number): Promise<CalendarFacts[]> {
  const calendars = (await calendarsOf(db, [clientId]))(clientId);
  if (calendars.length === 0) return [];
  const taken = await takenOf(db, [clientId], new Date(now));
  return calendars.map((each) => ({ ...each, taken: taken(each.id) }));
}

/**
 * What is free and what people have booked, as a batch of answers goes by it: each sees what those before it
 * have taken.
 */
export class BookingsAhead {
  readonly #calendars = new Map<number, Readonly<Record<string, CalendarFacts>>>();
  readonly #booked = new Map<string, readonly Booked[]>();

  calendars(clientId: number): Readonly<Record<string, CalendarFacts>> | undefined {
    return this.#calendars.get(clientId);
  }
  booked(personId: string): readonly Booked[] {
    return this.#booked.get(personId) ?? [];
  }

  /** Reads what is ahead of the clients that have calendars, and of the people who may answer. */
  async load(
    db: Connection,
    clients: ReadonlyMap<number, Calendars>,
    people: readonly string[],
    now: number,
  ): Promise<void> {
    const clientIds = [...clients].filter(([, calendars]) => calendars.length > 0).map(([id]) => id);
    if (clientIds.length === 0) return;
    const [taken, { rows }] = await Promise.all([
      takenOf(db, clientIds, new Date(now)),
      db.query<{ id: string; person_id: string; calendar_id: string; starts_at: Date }>({
        name: 'booked-ahead',
        text: `
               select id, person_id, calendar_id, starts_at from booking
               where client_id = any ($1::int[]) and person_id = any ($2::uuid[]) and state = 'booked'
                 and starts_at > $3`,
        values: [clientIds, people, new Date(now)],
      }),
    ]);
    for (const id of clientIds)
      this.#calendars.set(
        id,
        calendarsByName(clients.get(id)!.map((each) => ({ ...each, taken: taken(each.id) }))),
      );
    for (const row of rows)
      this.#booked.set(row.person_id, [
        ...this.booked(row.person_id),
        { id: row.id, calendarId: row.calendar_id, from: row.starts_at.getTime() },
      ]);
  }

  cancel(clientId: number, personId: string, bookingId: string): void {
    this.#become(
      clientId,
      personId,
      afterCancelling(
        { calendars: this.#calendars.get(clientId)!, booked: this.booked(personId) },
        bookingId,
      ),
    );
  }

  take(clientId: number, personId: string, taken: Parameters<typeof afterBooking>[1]): void {
    this.#become(
      clientId,
      personId,
      afterBooking({ calendars: this.#calendars.get(clientId)!, booked: this.booked(personId) }, taken),
    );
  }

  #become(clientId: number, personId: string, { calendars, booked }: BookedAhead): void {
    this.#calendars.set(clientId, calendars);
    this.#booked.set(personId, booked);
  }
}

/**
 * Writes bookings that were decided on, each into a place that is free now. Where none is any more, because
 * another process was quicker, it throws; the batch is then taken again and sees what is taken. One statement
 * each: two of a batch must see each other.
 */
export async function writeBookings(db: Connection, bookings: Changes['bookings']): Promise<void> {
  for (const each of bookings) {
    const { name, text } = STATEMENTS[each.what];
    const { rowCount } = await db.query({ name, text, values: [toJson(each)] });
    // One that the team has cancelled meanwhile is what was wanted.
    if (rowCount === 0 && each.what !== 'cancelled')
      throw new Error('a booking that moves, or its calendar, is not there any more');
  }
  await db.query({
    name: 'note-bookings',
    text: `
           insert into booking_change (client_id, booking_id, person_id, calendar, what, starts_at, at, by)
           select client_id, id, person_id, calendar, what, starts_at, at, by
           from json_to_recordset($1::json) as t (client_id int, id uuid, person_id uuid, calendar text,
             what text, starts_at timestamptz, at timestamptz, by jsonb)`,
    values: [toJson(bookings)],
  });
}

const ROW = `json_to_record($1::json) as t (client_id int, id uuid, calendar_id uuid, person_id uuid, starts_at timestamptz, ends_at timestamptz,
  kept_until timestamptz, day_field text, time_field text, at timestamptz) join calendar c on c.client_id = t.client_id and c.id = t.calendar_id and c.gone_at is null`;
const PLACE = (own: string) =>
  `free_place(t.client_id, t.calendar_id, t.starts_at, t.kept_until, (c.rule ->> 'places')::int, ${own})`;
const BOOK = `
  insert into booking (client_id, id, calendar_id, person_id, place, starts_at, ends_at, kept_until,
    day_field, time_field, made_at)
  select t.client_id, t.id, t.calendar_id, t.person_id, ${PLACE('null')}, t.starts_at, t.ends_at,
    t.kept_until, t.day_field, t.time_field, t.at from ${ROW}`;
const MOVE = `
  update booking b
  set place = ${PLACE('t.id')}, starts_at = t.starts_at, ends_at = t.ends_at, kept_until = t.kept_until,
    day_field = t.day_field, time_field = t.time_field
  from ${ROW} where b.client_id = t.client_id and b.id = t.id and b.state = 'booked'`;
const CANCEL = `
  update booking b set state = 'cancelled'
  from json_to_record($1::json) as t (client_id int, id uuid)
  where b.client_id = t.client_id and b.id = t.id and b.state = 'booked'`;
const STATEMENTS = {
  booked: { name: 'book', text: BOOK },
  moved: { name: 'move-booking', text: MOVE },
  cancelled: { name: 'cancel-booking', text: CANCEL },
};
