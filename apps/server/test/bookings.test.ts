import { WEEKDAYS, momentWords } from '@dart-loop/core';
import type {
  BookingsPage,
  CalendarRow,
  ConversationPage,
  DeliveryRow,
  DestinationPage,
  MadeKey,
  PersonPage,
} from '@dart-loop/contract';
import { startServer } from '../src/server';
import { Stage, until } from './support/stage';
import { remains } from './support/remains';

const CLIENT = '/clients/saltmarsh-ferries';
const hours = Object.fromEntries(WEEKDAYS.map((day) => [day, [{ from: '06:00', to: '22:00' }]]));
const calendar = (name: string, places: number) => ({
  name,
  hours,
  length: '1h',
  gap: '30m',
  notice: '1d',
  ahead: '21d',
  places,
});
const loopIn = (
  name: string,
  word: string,
) => `{ format: dart-loop/1, name: ${name}, cues: [{ kind: keyword, words: [${word}], match: exactly }], scenes: [
  { id: when, name: When, steps: [{ id: when, kind: book, calendar: ${name}, text: When?, day: ${word}_day, time: ${word}_time, offer: 4, full: full, noReply: { after: 1d, to: end } },
    { kind: say, text: 'Booked for {{ person.${word}_day }} {{ person.${word}_time }}.' }, { kind: end }] },
  { id: full, name: Full, steps: [{ kind: say, text: Nothing is free. }] }] }`;

let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
  await stage.api.post(`${CLIENT}/calendars`, calendar('Harbour tour', 2));
  await stage.api.post(`${CLIENT}/calendars`, calendar('Engine room', 1));
  await stage.fields(CLIENT, {
    tour_day: 'date',
    tour_time: 'time',
    engine_day: 'date',
    engine_time: 'time',
  });
  await stage.publish(loopIn('Harbour tour', 'tour'));
  await stage.publish(loopIn('Engine room', 'engine'));
});
afterAll(() => stage.close());

const toCome = async () => (await stage.api.get<BookingsPage>(`${CLIENT}/bookings`)).rows;
const calendarNamed = async (name: string) =>
  (await stage.api.get<CalendarRow[]>(`${CLIENT}/calendars`)).find((each) => each.calendar.name === name)!;
const labelOf = (iso: string) => momentWords(Date.parse(iso), 'Europe/London');

test('whoever taps a free time has it: it stands in the bookings, with the person, and on their timeline', async () => {
  const { free } = await calendarNamed('Harbour tour');
  await stage.write('81001', 'tour', 'Noor');
  await stage.hears('81001', 1);
  await stage.tap('81001', labelOf(free[0]!));
  const [, said] = await stage.hears('81001', 2);
  const [booking] = await toCome();
  expect(booking).toMatchObject({
    calendar: 'Harbour tour',
    name: 'Noor',
    startsAt: free[0],
    state: 'booked',
  });
  expect(Date.parse(booking!.endsAt) - Date.parse(booking!.startsAt)).toBe(3_600_000);
  const page = await stage.api.get<PersonPage>(`${CLIENT}/people/${booking!.personId}`);
  const fact = (key: string) => page.facts.find((each) => each.key === key)?.words;
  expect(said).toBe(`Booked for ${booking!.startsAt.slice(0, 10)} ${fact('tour_time')}.`);
  expect(page.timeline.find(({ kind }) => kind === 'booking')).toMatchObject({
    words: `Harbour tour booked: ${labelOf(booking!.startsAt)}`,
    by: { words: 'Harbour tour, version 1' },
  });
  // Two places: the time is free for one more, and then for nobody.
  expect((await calendarNamed('Harbour tour')).free[0]).toBe(free[0]);
});

test('thirty people want the same hour at once, over two servers: it is given as often as it has places, and all others are offered others', async () => {
  const second = await startServer({ ...stage.config, port: 0, address: null }, stage.clock);
  try {
    const who = Array.from({ length: 30 }, (_, n) => String(82_000 + n));
    await Promise.all(who.map((each) => stage.write(each, 'tour', `Guest ${each}`)));
    await Promise.all(who.map((each) => stage.hears(each, 1)));
    // The last that is offered, so that the booking of above is no matter.
    const offered = stage.standins.telegram.look('7001200301', who[0]!).at(-1)!.keyboard.flat().at(-1)!.text;
    await Promise.all(who.map((each) => stage.tap(each, offered)));
    const heard = await Promise.all(who.map((each) => stage.hears(each, 2)));
    const second_ = heard.map((all) => all[1]!);
    expect(second_.filter((text) => text.startsWith('Booked for'))).toHaveLength(2);
    expect(second_.filter((text) => text === 'That time is not free any more. These are.')).toHaveLength(28);
    expect(
      (await toCome())
        .filter(({ startsAt }) => labelOf(startsAt) === offered)
        .map(({ name }) => name.slice(0, 5)),
    ).toEqual(['Guest', 'Guest']);
    const { rows } = await stage.db.query<{ n: number }>(
      `
         select count(*)::int as n from booking one join booking other on one.calendar_id = other.calendar_id
           and one.place = other.place and one.id < other.id
         and tstzrange(one.starts_at, one.kept_until) && tstzrange(other.starts_at, other.kept_until)
         where one.state = 'booked' and other.state = 'booked'`,
    );
    expect(rows[0]!.n).toBe(0);
    // Whoever was not quick enough can still have another, by words.
    const left = who[second_.findIndex((text) => text.startsWith('That time'))]!;
    await stage.write(left, 'in two weeks at 4pm');
    expect((await stage.hears(left, 3))[2]).toMatch(
      /^(These times are free|Nothing is free then|Booked for)/,
    );
  } finally {
    await second.stop();
  }
});

test('a booking, its move and its end go to the destinations and the events; cancelling frees the time and takes it from the person', async () => {
  const { api } = stage;
  const { token } = await api.post<MadeKey>(`${CLIENT}/keys`, { name: 'Reader', scopes: ['read events'] });
  const { id } = await api.post<DestinationPage>(`${CLIENT}/destinations`, {
    kind: 'webhook',
    name: 'Booking desk',
    settings: { address: 'https://hooks.example/in' },
    mapping: [
      { to: 'day', as: 'date', origin: { from: 'field', field: 'engine_day' }, otherwise: '' },
      { to: 'time', as: 'time', origin: { from: 'field', field: 'engine_time' } },
    ],
    triggers: { bookings: ['Engine room'] },
  });
  await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
  const deliveries = (count: number) =>
    until(
      () => api.get<DeliveryRow[]>(`${CLIENT}/destinations/${id}/deliveries`),
      (rows) => rows.filter(({ status }) => status === 'done').length >= count,
    );
  const { free } = await calendarNamed('Engine room');
  await stage.write('83001', 'engine', 'Ulla Nord');
  await stage.hears('83001', 1);
  await stage.tap('83001', labelOf(free[0]!));
  await stage.hears('83001', 2);
  expect(await deliveries(1)).toMatchObject([
    { name: 'Ulla Nord', status: 'done', causes: ['booking:Engine room'] },
  ]);
  // Somebody else cannot have it; and whoever comes again moves, which frees it.
  expect((await calendarNamed('Engine room')).free).not.toContain(free[0]);
  await stage.write('83001', 'engine');
  await stage.hears('83001', 3);
  await stage.tap('83001', labelOf(free[1]!));
  await stage.hears('83001', 4);
  expect((await calendarNamed('Engine room')).free[0]).toBe(free[0]);
  await deliveries(2);
  const [booking, ...others] = (await toCome()).filter((each) => each.calendar === 'Engine room');
  expect(others).toEqual([]);
  expect(booking).toMatchObject({ startsAt: free[1], state: 'booked' });
  const conversation = await api.get<ConversationPage>(`${CLIENT}/conversations/${booking!.conversationId}`);
  expect(JSON.stringify(conversation)).toContain('Moved: Engine room');

  await api.post(`${CLIENT}/bookings/${booking!.id}/cancel`, {});
  expect(await api.raw('post', `${CLIENT}/bookings/${booking!.id}/cancel`, {})).toMatchObject({
    status: 409,
  });
  expect((await toCome()).find((each) => each.id === booking!.id)).toMatchObject({ state: 'cancelled' });
  expect((await calendarNamed('Engine room')).free.slice(0, 2)).toEqual(free.slice(0, 2));
  await deliveries(3);
  const page = await api.get<PersonPage>(`${CLIENT}/people/${booking!.personId}`);
  expect(page.facts.filter(({ key, words }) => key.startsWith('engine_') && words)).toEqual([]);
  const events = await until(
    async () =>
      (
        (await (
          await fetch(`${stage.server.address}/v1/events`, { headers: { authorization: `Bearer ${token}` } })
        ).json()) as {
          events: { type: string; data: { what: string; calendar: string; starts: string } }[];
        }
      ).events.filter(({ type }) => type === 'person.booking.changed'),
    (found) => found.length >= 3,
  );
  expect(events.map(({ data }) => [data.what, data.calendar, Date.parse(data.starts)])).toEqual([
    ['booked', 'Engine room', Date.parse(free[0]!)],
    ['moved', 'Engine room', Date.parse(free[1]!)],
    ['cancelled', 'Engine room', Date.parse(free[1]!)],
  ]);

  // Two who become one, and are parted again: the booking goes with them.
  await stage.write('83001', 'engine');
  await stage.hears('83001', 5);
  await stage.tap('83001', labelOf(free[0]!));
  await stage.hears('83001', 6);
  await stage.write('83002', 'hello', 'Second Ulla');
  const second = await until(
    () => stage.one<{ id: string } | undefined>("select id from person where first_name like 'Second%'"),
    (found) => found !== undefined,
  );
  const ofUlla = async () =>
    (await toCome()).find((each) => each.calendar === 'Engine room' && each.state === 'booked')!.name;
  await api.post(`${CLIENT}/people/${second!.id}/merge`, { other: booking!.personId, take: [] });
  expect(await ofUlla()).toBe('Second Ulla');
  const merges = await api.get<PersonPage>(`${CLIENT}/people/${second!.id}`);
  await api.post(`${CLIENT}/merges/${merges.merged[0]!.id}/part`, {});
  expect(await ofUlla()).toBe('Ulla Nord');
  // And whoever is erased leaves nothing of it, and a free time.
  await api.post(`${CLIENT}/people/actions`, {
    people: { ids: [booking!.personId] },
    action: { do: 'erase', reason: 'asked for it' },
  });
  await until(
    () => remains(stage.db, booking!.personId),
    (found) => found.every((table) => table === 'audit' || table === 'task'),
  );
  expect((await calendarNamed('Engine room')).free[0]).toBe(free[0]);
});

test('whoever cannot come cancels in words: the time is free again, and the person’s page says so', async () => {
  await stage.write('81007', 'engine', 'Ines');
  await stage.hears('81007', 1);
  const { free } = await calendarNamed('Engine room');
  await stage.tap('81007', labelOf(free[0]!));
  await stage.hears('81007', 2);
  const booking = (await toCome()).find(({ name }) => name === 'Ines')!;
  await stage.write('81007', 'engine');
  await stage.hears('81007', 3);
  await stage.write('81007', 'I cannot make it');
  expect((await stage.hears('81007', 4))[3]).toBe('Would you like to cancel, or come at another time?');
  await stage.tap('81007', 'Cancel');
  expect((await stage.hears('81007', 5))[4]).toBe('It is cancelled.');
  expect((await toCome()).find(({ id }) => id === booking.id)?.state).toBe('cancelled');
  expect((await calendarNamed('Engine room')).free[0]).toBe(free[0]);
  const page = await stage.api.get<PersonPage>(`${CLIENT}/people/${booking.personId}`);
  expect(page.facts.some(({ key }) => key === 'engine_day')).toBe(false);
  expect(page.timeline.filter(({ kind }) => kind === 'booking')).toContainEqual(
    expect.objectContaining({ words: `Engine room cancelled: ${labelOf(booking.startsAt)}` }),
  );
});

test('a calendar that is used keeps its name and stays; one that makes no sense is refused with its reason', async () => {
  const { api } = stage;
  const tour = await calendarNamed('Harbour tour');
  expect(tour.loops).toEqual(['Harbour tour']);
  const change = (more: object) =>
    api.raw('put', `${CLIENT}/calendars/${tour.id}`, { ...calendar('Harbour tour', 2), ...more });
  const said = async (answer: Promise<{ status: number; body: unknown }>) => {
    const { status, body } = await answer;
    return [status, (body as { detail: string }).detail];
  };
  expect(await said(change({ name: 'Round trip' }))).toEqual([
    409,
    'Harbour tour books in “Harbour tour”. Change it there first, or keep the name.',
  ]);
  expect(await said(api.raw('delete', `${CLIENT}/calendars/${tour.id}`))).toEqual([
    409,
    'Harbour tour books in “Harbour tour”. Remove it there first.',
  ]);
  expect(await said(api.raw('post', `${CLIENT}/calendars`, calendar('harbour TOUR', 1)))).toEqual([
    409,
    'name: the client has a calendar “harbour TOUR” already.',
  ]);
  expect(await said(change({ hours: {} }))).toEqual([
    400,
    'hours: a calendar needs the hours of at least one weekday.',
  ]);
  expect(await said(change({ places: 0 }))).toEqual([400, 'places: a calendar has at least one place.']);
  expect(await said(change({ hours: { monday: [{ from: '10:00', to: '09:00' }] } }))).toEqual([
    400,
    'hours.monday.0: a span of opening hours ends after it begins, on the same day.',
  ]);
  // Who filled it in from what stood there before is told who has changed it.
  const { revision } = tour;
  const bram = await stage.as('builder');
  const put = (who: typeof api, more: object) =>
    who.raw('put', `${CLIENT}/calendars/${tour.id}?seen=${revision}`, {
      ...calendar('Harbour tour', 2),
      ...more,
    });
  expect((await put(bram, { places: 4 })).status).toBe(200);
  expect(await said(put(api, { places: 3 }))).toEqual([
    409,
    'Bram Tansy has changed it since it was opened here. What is written here is not kept yet.',
  ]);
  // Fewer places than are taken leave what was booked as it is.
  expect(await said(change({ places: 1 }))).toEqual([200, undefined]);
});
