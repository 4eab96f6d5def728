import { counted } from '@dart-loop/core/language/counted';
import { fold, freeTimes, localTime, type Loop, type Value } from '@dart-loop/core';
import { shownName } from '@dart-loop/core/people/shownName';
import {
  BookingsQuery,
  SaveCalendar,
  Seen,
  type BookingRow,
  type BookingsPage,
  type CalendarRow,
} from '@dart-loop/contract';
import { calendarFacts } from './calendars';
import type { Clock } from '../platform/clock';
import { audit } from '../platform/db/audit';
import { toJson } from '../platform/db/json';
import type { Connection } from '../platform/db/pool';
import { newId } from '../platform/ids';
import { changePeople } from '../people/change';
import { clientFacts, readPeople } from '../people/facts';
import { NAME } from '../people/page';
import { raiseCues } from '../people/starting';
import { cuesChanged } from '../loops/cueRevision';
import { pageKey, readPageKey } from '../http/pages';
import { byTeam } from '../people/byTeam';
import { Problem, isTaken, notFound } from '../platform/problem';
import { revisionOf, stopIfChanged } from '../http/revision';
import { route, type Asked } from '../http/route';

const booksIn = (loop: Loop, name: string) =>
  loop.scenes.some((scene) =>
    scene.steps.some((step) => step.kind === 'book' && fold(step.calendar) === fold(name)),
  );

const ROWS = 60;
const FREE = 3;

/** Calendars, and who has booked in them. */
export function bookingRoutes({
  clock,
  linesChanged,
  woken,
}: {
  clock: Clock;
  linesChanged: (clientId: number) => void;
  woken: () => void;
}) {
  const calendars = async (db: Connection, clientId: number): Promise<CalendarRow[]> => {
    const now = clock.now();
    const facts = await calendarFacts(db, clientId, now);
    const { timeZone, openingHours } = await clientFacts(db, clientId);
    const { rows: ahead } = await db.query<{ calendar_id: string; count: number }>(
      `
        select calendar_id, count(*)::int as count from booking where client_id = $1 and state = 'booked'
          and starts_at > $2 group by 1`,
      [clientId, new Date(now)],
    );
    const { rows: loops } = await db.query<{ name: string; loop: Loop }>(
      // As they are written, and as they are live.
      `
       select l.name, each.loop from loop l left join loop_version v on v.client_id = l.client_id
         and v.loop_id = l.id and v.version = l.live_version
       cross join lateral (values (l.draft), (v.loop)) each (loop)
       where l.client_id = $1 and l.archived_at is null and each.loop is not null order by l.position`,
      [clientId],
    );
    return facts.map((each) => ({
      id: each.id,
      revision: revisionOf(each.calendar),
      calendar: each.calendar,
      zone: timeZone,
      toCome: ahead.find((row) => row.calendar_id === each.id)?.count ?? 0,
      free: freeTimes(each, { now, zone: timeZone, daysOff: openingHours.daysOff })
        .slice(0, FREE)
        .map(({ from }) => new Date(from).toISOString()),
      loops: [
        ...new Set(loops.filter(({ loop }) => booksIn(loop, each.calendar.name)).map(({ name }) => name)),
      ],
    }));
  };
  const rowIn = (rows: readonly CalendarRow[], id: string): CalendarRow => {
    const found = rows.find((each) => each.id === id);
    if (!found) throw notFound('calendar');
    return found;
  };
  /**
   * What follows every change of a calendar: the lane reads them anew, the trail has it, and the others are
   * told. Gives them as they are now.
   */
  const auditChange = async (
    {
      db,
      client,
      account,
      afterwards,
    }: Pick<Asked<unknown, unknown>, 'db' | 'client' | 'account' | 'afterwards'>,
    what: string,
    name: string,
  ): Promise<CalendarRow[]> => {
    await cuesChanged(db, client.id);
    await audit(db, client.id, account.id, clock.now(), what, { name });
    afterwards(() => linesChanged(client.id));
    return calendars(db, client.id);
  };
  const usedBy = ({ calendar, loops }: CalendarRow, instead: string) =>
    new Problem(
      409,
      'It is in use',
      `${loops.join(', ')} ${loops.length === 1 ? 'books' : 'book'} in “${calendar.name}”. ${instead}`,
    );

  return [
    route({
      method: 'get',
      path: '/clients/:client/calendars',
      may: 'see bookings',
      handle: ({ db, client }) => calendars(db, client.id),
    }),
    route({
      method: 'post',
      path: '/clients/:client/calendars',
      may: 'change calendars',
      body: SaveCalendar,
      async handle({ db, client, body: { name, ...rule }, account, afterwards }): Promise<CalendarRow[]> {
        const { rowCount } = await db.query(
          `
            insert into calendar (client_id, id, name, folded, rule, made_at)
            values ($1, $2, $3, $4, $5, $6) on conflict (client_id, folded) where gone_at is null do nothing`,
          [client.id, newId(clock.now()), name, fold(name), toJson(rule), new Date(clock.now())],
        );
        if (rowCount === 0) throw isTaken('calendar', name);
        return auditChange({ db, client, account, afterwards }, 'made a calendar', name);
      },
    }),
    route({
      method: 'put',
      path: '/clients/:client/calendars/:calendarId',
      may: 'change calendars',
      query: Seen,
      body: SaveCalendar,
      async handle({
        db,
        client,
        params,
        query,
        body: { name, ...rule },
        account,
        afterwards,
      }): Promise<CalendarRow[]> {
        await db.query('select from calendar where client_id = $1 and id = $2 for no key update', [
          client.id,
          params.calendarId,
        ]);
        const all = await calendars(db, client.id);
        const before = rowIn(all, params.calendarId!);
        await stopIfChanged(db, client.id, query.seen, before.revision, {
          what: 'changed a calendar',
          detail: { name: before.calendar.name },
        });
        if (fold(name) !== fold(before.calendar.name)) {
          if (before.loops.length > 0) throw usedBy(before, 'Change it there first, or keep the name.');
          if (all.some((each) => fold(each.calendar.name) === fold(name))) throw isTaken('calendar', name);
        }
        await db.query(
          'update calendar set name = $3, folded = $4, rule = $5 where client_id = $1 and id = $2',
          [client.id, before.id, name, fold(name), toJson(rule)],
        );
        return auditChange({ db, client, account, afterwards }, 'changed a calendar', name);
      },
    }),
    route({
      method: 'delete',
      path: '/clients/:client/calendars/:calendarId',
      may: 'change calendars',
      async handle({ db, client, params, account, afterwards }): Promise<CalendarRow[]> {
        const before = rowIn(await calendars(db, client.id), params.calendarId!);
        if (before.loops.length > 0) throw usedBy(before, 'Remove it there first.');
        if (before.toCome > 0)
          throw new Problem(
            409,
            'It is in use',
            `“${before.calendar.name}” has ${counted(before.toCome, 'booking')} still to come. Cancel ${before.toCome === 1 ? 'it' : 'them'} first.`,
          );
        await db.query('update calendar set gone_at = $3 where client_id = $1 and id = $2', [
          client.id,
          before.id,
          new Date(clock.now()),
        ]);
        return auditChange({ db, client, account, afterwards }, 'removed a calendar', before.calendar.name);
      },
    }),
    route({
      method: 'get',
      path: '/clients/:client/bookings',
      may: 'see bookings',
      query: BookingsQuery,
      async handle({ db, client, query: { when, after } }): Promise<BookingsPage> {
        const from = after ? readPageKey(after) : null;
        const past = when === 'past';
        const { rows } = await db.query<{
          id: string;
          calendar: string;
          person_id: string;
          name: string;
          starts_at: Date;
          ends_at: Date;
          state: BookingRow['state'];
          conversation_id: string | null;
        }>(
          `
           select b.id, c.name as calendar, b.person_id, ${NAME} as name, b.starts_at, b.ends_at, b.state,
             (select o.id from conversation o where o.client_id = b.client_id and o.person_id = b.person_id
               order by o.last_at desc limit 1) as conversation_id
           from booking b join calendar c on c.client_id = b.client_id and c.id = b.calendar_id
           join person p on p.client_id = b.client_id and p.id = b.person_id
           where b.client_id = $1 and b.ends_at ${past ? '<=' : '>'} $2
             and ($3::timestamptz is null or (b.starts_at, b.id) ${past ? '<' : '>'} ($3, $4::uuid))
           order by b.starts_at ${past ? 'desc' : ''}, b.id ${past ? 'desc' : ''} limit ${ROWS + 1}`,
          [client.id, new Date(clock.now()), from?.at ?? null, from?.id ?? null],
        );
        const shown = rows.slice(0, ROWS);
        const last = rows.length > ROWS ? shown.at(-1) : undefined;
        return {
          zone: (await clientFacts(db, client.id)).timeZone,
          rows: shown.map(({ person_id, starts_at, ends_at, conversation_id, ...row }) => ({
            ...row,
            name: shownName(row.name),
            personId: person_id,
            startsAt: starts_at.toISOString(),
            endsAt: ends_at.toISOString(),
            conversationId: conversation_id,
          })),
          next: last ? pageKey(last.starts_at, last.id) : null,
        };
      },
    }),
    route({
      method: 'post',
      path: '/clients/:client/bookings/:bookingId/cancel',
      may: 'change bookings',
      async handle({ db, client, params, account, afterwards }): Promise<{ cancelled: true }> {
        const now = clock.now();
        const { rows } = await db.query<{
          person_id: string;
          calendar: string;
          starts_at: Date;
          day_field: string;
          time_field: string;
        }>(
          `
           update booking b set state = 'cancelled' from calendar c
           where b.client_id = $1 and b.id = $2 and b.state = 'booked' and b.starts_at > $3
             and c.client_id = b.client_id and c.id = b.calendar_id
           returning b.person_id, c.name as calendar, b.starts_at, b.day_field, b.time_field`,
          [client.id, params.bookingId!, new Date(now)],
        );
        const booking = rows[0];
        if (!booking) throw new Problem(409, 'Not to come', 'This booking is cancelled or over already.');
        const by = byTeam(account);
        await db.query(
          `
            insert into booking_change (client_id, booking_id, person_id, calendar, what, starts_at, at, by)
            values ($1, $2, $3, $4, 'cancelled', $5, $6, $7)`,
          [
            client.id,
            params.bookingId!,
            booking.person_id,
            booking.calendar,
            booking.starts_at,
            new Date(now),
            toJson(by),
          ],
        );
        // The day and time that stand with the person go, where they are this booking's still.
        const local = localTime(booking.starts_at.getTime(), (await clientFacts(db, client.id)).timeZone);
        const [person] = await readPeople(db, client.id, [booking.person_id]);
        const ours: [string, Value][] = [
          [booking.day_field, { type: 'date', value: local.date }],
          [booking.time_field, { type: 'time', value: local.time }],
        ];
        const stands = ours.every(([field, { value }]) => person?.fields[field]?.value === value);
        if (stands) {
          const fields = { [booking.day_field]: null, [booking.time_field]: null };
          const changed = await changePeople(db, { clientId: client.id, now, by, stated: null }, [
            { id: booking.person_id, fields },
          ]);
          await raiseCues(db, client.id, changed, now);
        }
        await audit(db, client.id, account.id, now, 'cancelled a booking', {
          bookingId: params.bookingId,
          calendar: booking.calendar,
        });
        afterwards(woken);
        return { cancelled: true };
      },
    }),
  ];
}
