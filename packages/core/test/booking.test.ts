import fc from 'fast-check';
import { freeTimes, keptFor, momentWords, type Calendar, type Taken } from '../src';
import { timesToOffer } from '../src/booking/freeTimes';
import { wishedTimes } from '../src/booking/wishedTimes';
import { pathsOf } from '../src/loops/check/paths';
import { CheckWorld } from '../src/loops/check/check';
import { pathLines } from '../src/engine/rehearsal/pathLines';
import { performScript } from './performScript';
import { playTake } from '../src/loops/takes/takes';
import { Conversation, NINE, loopOf, trialSession } from './support';

const ZONE = 'Europe/London';
const HOUR = 3_600_000;
const at = (day: number, hour: number, minute = 0) => Date.UTC(2026, 10, day, hour, minute);
const free = (more: Partial<Calendar> = {}, taken: Taken[] = [], now = NINE, zone = ZONE) =>
  freeTimes(trialSession(more, taken), { now, zone }).map(({ from }) => from);
const taken = (from: number, count = 1): Taken => ({
  from,
  until: keptFor(trialSession().calendar, from).until,
  count,
});

describe('which times are free', () => {
  test('every hour of the opening, from the notice on, as far ahead as the calendar goes', () => {
    const times = free();
    // Tuesday, nine in the morning, and a day's notice: from Wednesday nine o'clock on.
    expect(times.slice(0, 9)).toEqual([...Array.from({ length: 8 }, (_, n) => at(25, 9 + n)), at(26, 9)]);
    expect(times.at(-1)).toBe(Date.UTC(2026, 11, 8, 9));
    expect(times.map((time) => new Date(time).getUTCDay()).every((day) => day >= 1 && day <= 5)).toBe(true);
  });
  test('what would end after closing is not offered, and the gap is kept free', () => {
    const times = free({
      hours: { wednesday: [{ from: '09:00', to: '11:30' }] },
      length: '45m',
      gap: '15m',
      ahead: '3d',
    });
    expect(times).toEqual([at(25, 9), at(25, 10)]);
  });
  test('days off of the calendar and of the client are left out', () => {
    expect(free({ hours: { ...trialSession().calendar.hours, daysOff: ['2026-11-25'] } })[0]).toBe(at(26, 9));
    expect(
      freeTimes(trialSession(), { now: NINE, zone: ZONE, daysOff: ['2026-11-25', '2026-11-26'] })[0]?.from,
    ).toBe(at(27, 9));
  });
  test('a time is free as long as a place is, whatever else overlaps it', () => {
    const day = { ahead: '32h' };
    expect(free(day, [taken(at(25, 10))])).not.toContain(at(25, 10));
    expect(free({ ...day, places: 2 }, [taken(at(25, 10))])).toContain(at(25, 10));
    expect(free({ ...day, places: 2 }, [taken(at(25, 10), 2)])).not.toContain(at(25, 10));
    // Two that lie beside each other within the hour need one place only.
    const halves = [
      { from: at(25, 10), until: at(25, 10, 30), count: 1 },
      { from: at(25, 10, 30), until: at(25, 11), count: 1 },
    ];
    expect(free({ ...day, places: 2 }, halves)).toContain(at(25, 10));
    expect(free({ ...day, places: 1 }, halves)).not.toContain(at(25, 10));
  });
  test('what somebody has booked themselves does not stand in the way of their moving', () => {
    const calendar = trialSession({}, [taken(at(25, 10))]);
    expect(freeTimes(calendar, { now: NINE, zone: ZONE }, at(25, 10))).toContainEqual({
      from: at(25, 10),
      date: '2026-11-25',
      time: '10:00',
    });
  });
  test('by the clock of the client, over the change to summer time too', () => {
    const march = Date.UTC(2027, 2, 26, 9);
    const times = free(
      {
        hours: { sunday: [{ from: '00:00', to: '04:00' }], monday: [{ from: '09:00', to: '10:00' }] },
        ahead: '6d',
      },
      [],
      march,
    );
    expect(times.map((time) => momentWords(time, ZONE))).toEqual([
      'Sun 28 Mar, 00:00',
      'Sun 28 Mar, 02:00',
      'Sun 28 Mar, 03:00',
      'Mon 29 Mar, 09:00',
    ]);
    expect(free({ ahead: '3d', notice: undefined }, [], NINE, 'Pacific/Auckland')[0]).toBe(at(24, 20));
  });
  test('however times are taken, no moment ever has more bookings than places', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 3 }),
        fc.constantFrom('30m', '45m', '1h'),
        fc.constantFrom(undefined, '10m', '30m'),
        fc.array(
          fc.record({
            pick: fc.nat(),
            more: fc.constantFrom<Partial<Calendar>>({}, { length: '2h' }, { length: '20m' }),
          }),
          {
            maxLength: 40,
          },
        ),
        (places, length, gap, picks) => {
          const made: Taken[] = [];
          for (const { pick, more } of picks) {
            const calendar = trialSession({ places, length, gap, ahead: '2d', ...more }, made);
            const times = freeTimes(calendar, { now: NINE, zone: ZONE });
            if (times.length > 0)
              made.push({ ...keptFor(calendar.calendar, times[pick % times.length]!.from), count: 1 });
          }
          for (const { from } of made)
            expect(made.filter((each) => each.from <= from && each.until > from).length).toBeLessThanOrEqual(
              places,
            );
        },
      ),
      { numRuns: 60 },
    );
  });
  test('those offered first are the soonest, and not all of one day', () => {
    const all = freeTimes(trialSession(), { now: NINE, zone: ZONE });
    expect(timesToOffer(all, 4)).toEqual([at(25, 9), at(25, 10), at(26, 9), at(26, 10)]);
    expect(timesToOffer(all, 1)).toEqual([at(25, 9)]);
    expect(timesToOffer([], 4)).toEqual([]);
  });
});

describe('what somebody wishes for', () => {
  const wish = (words: string, times = freeTimes(trialSession(), { now: NINE, zone: ZONE })) =>
    wishedTimes(words, times, 3, { now: NINE, zone: ZONE, language: 'en', country: 'GB' });
  test.each<[string, ReturnType<typeof wish>]>([
    ['Thursday at 10', { kind: 'one', from: at(26, 10) }],
    ['tomorrow 3pm', { kind: 'one', from: at(25, 15) }],
    ['Friday at 4', { kind: 'one', from: at(27, 16) }],
    [
      'the 30th at half past nine',
      { kind: 'several', times: [at(30, 9), at(30, 10), at(30, 11)], near: true },
    ],
    ['Thursday afternoon', { kind: 'several', times: [at(26, 14), at(26, 15), at(26, 16)], near: false }],
    ['Thursday morning', { kind: 'several', times: [at(26, 9), at(26, 10), at(26, 11)], near: false }],
    ['in the evening', { kind: 'several', times: [at(25, 16), at(26, 16), at(27, 16)], near: true }],
    ['Thursday', { kind: 'several', times: [at(26, 9), at(26, 10), at(26, 11)], near: false }],
    ['at 11am', { kind: 'several', times: [at(25, 11), at(26, 11), at(27, 11)], near: false }],
    ['on Saturday', { kind: 'several', times: [at(27, 9), at(27, 10), at(27, 11)], near: true }],
    ['hello there', { kind: 'unreadable', reason: 'no day and no time of day is named in it' }],
    ['Thursday or Friday', { kind: 'several', times: [at(26, 9), at(26, 10), at(27, 9)], near: false }],
    ['not Wednesday', { kind: 'several', times: [at(26, 9), at(26, 10), at(27, 9)], near: false }],
    [
      'next week, but not Monday',
      { kind: 'several', times: [at(31, 9), at(31, 10), at(32, 9)], near: false },
    ],
    ['anything after Thursday', { kind: 'several', times: [at(27, 9), at(27, 10), at(30, 9)], near: false }],
    ['between 2 and 4 on Friday', { kind: 'several', times: [at(27, 14), at(27, 15)], near: false }],
  ])('“%s”', (words, found) => expect(wish(words)).toEqual(found));
});

const LOOP =
  loopOf(`{ format: dart-loop/1, name: Trial, cues: [{ kind: keyword, words: [trial], match: exactly }], scenes: [
  { id: when, name: When, steps: [
    { id: when, kind: book, calendar: trial session, text: When?, day: trial_day, time: trial_time, offer: 3, full: full, retry: { times: 1, text: A day and a time. }, otherwise: bye, noReply: { after: 1d, to: bye } },
    { kind: say, text: 'See you {{ person.trial_day | date: "day" }}, {{ answers.trial_time }}.' }, { kind: end }] },
  { id: full, name: Full, steps: [{ kind: say, text: Nothing is free. }, { kind: end }] },
  { id: bye, name: Bye, steps: [{ kind: say, text: Another time. }] }] }`);
const talk = (calendars = [trialSession()], channel: 'telegram' | 'sms' = 'telegram', more = {}) =>
  new Conversation([LOOP], channel, {}, { calendars, ...more });

describe('a book', () => {
  const heard = (conversation: Conversation, written: string) => {
    const performed = performScript(conversation.rehearsal, written);
    conversation.rehearsal = performed.rehearsal;
    expect(performed.failures).toEqual([]);
    return performed.entries;
  };
  test('offers times, takes the one that is tapped, and stores its day and time', () => {
    const conversation = talk();
    const entries = heard(conversation, 'trial\n> When?\n[Wed 25 Nov, 10:00]\n> See you 25 November, 10:00.');
    expect(entries.find((each) => each.from === 'us')).toMatchObject({
      choices: ['Wed 25 Nov, 09:00', 'Wed 25 Nov, 10:00', 'Thu 26 Nov, 09:00'],
    });
    expect(entries.filter((each) => each.from === 'outside').map((each) => each.text)).toEqual([
      'Would book Trial session, Wed 25 Nov, 10:00',
    ]);
    expect(conversation.rehearsal.person.fields).toMatchObject({
      trial_day: { type: 'date', value: '2026-11-25' },
      trial_time: { type: 'time', value: '10:00' },
    });
    expect(conversation.rehearsal.booked).toEqual([
      { id: expect.any(String) as string, calendarId: trialSession().id, from: at(25, 10) },
    ]);
  });
  test('a letter means the time that stood beside it, though others have come free or gone since', () => {
    const conversation = talk([trialSession()], 'sms');
    heard(conversation, 'trial\n> B Wed 25 Nov, 10:00');
    const { calendars } = conversation.rehearsal;
    const [[name, calendar] = []] = Object.entries(calendars);
    conversation.rehearsal = {
      ...conversation.rehearsal,
      calendars: { [name!]: { ...calendar!, taken: [taken(at(25, 9))] } },
    };
    heard(conversation, 'b\n> See you 25 November, 10:00.');
  });
  test('a time that somebody else has taken meanwhile is not given twice, and others are offered', () => {
    const conversation = talk();
    heard(conversation, 'trial');
    const { calendars } = conversation.rehearsal;
    const [[name, calendar] = []] = Object.entries(calendars);
    conversation.rehearsal = {
      ...conversation.rehearsal,
      calendars: { [name!]: { ...calendar!, taken: [taken(at(25, 10))] } },
    };
    const entries = heard(conversation, '[Wed 25 Nov, 10:00]\n> That time is not free any more. These are.');
    expect(entries.at(-1)).toMatchObject({
      choices: ['Wed 25 Nov, 09:00', 'Wed 25 Nov, 11:00', 'Thu 26 Nov, 09:00'],
    });
    expect(conversation.rehearsal.booked).toEqual([]);
    heard(conversation, '[Wed 25 Nov, 11:00]\n> See you 25 November, 11:00.');
  });
  test('whoever comes again moves: one booking to come in a calendar', () => {
    const conversation = talk();
    heard(conversation, 'trial\n[Wed 25 Nov, 10:00]');
    const entries = heard(conversation, 'trial\nThursday at 11am\n> See you 26 November, 11:00.');
    expect(entries.filter((each) => each.from === 'outside').map((each) => each.text)).toEqual([
      'Would move the booking to Trial session, Thu 26 Nov, 11:00',
    ]);
    expect(conversation.rehearsal.booked).toHaveLength(1);
    expect(Object.values(conversation.rehearsal.calendars)[0]!.taken).toEqual([taken(at(26, 11))]);
    expect(
      heard(conversation, 'trial\nThursday at 11am\n> See you')
        .map((each) => each.text)
        .join(),
    ).toContain('booked for that very time already');
  });
  test('whoever cannot come is asked: cancel, or another time', () => {
    const conversation = talk();
    heard(conversation, 'trial\n[Wed 25 Nov, 10:00]');
    const entries = heard(
      conversation,
      "trial\nsorry I can't make it\n> Would you like to cancel, or come at another time?\ncancel it please\n> It is cancelled.",
    );
    expect(entries.filter((each) => each.from === 'outside').map((each) => each.text)).toEqual([
      'Would cancel Trial session, Wed 25 Nov, 10:00',
    ]);
    expect(conversation.rehearsal.booked).toEqual([]);
    expect(conversation.rehearsal.person.fields).toEqual({});
    expect(Object.values(conversation.rehearsal.calendars)[0]!.taken).toEqual([]);
    expect(conversation.run).toBeNull();
    // Another time; and who names one has said which.
    heard(
      conversation,
      "trial\nwon't be able to make it\n> Would you\n[Another time]\n> These times are free.",
    );
    heard(
      conversation,
      "trial\nI can't make it\n> Would you\nthursday at 11am\n> See you 26 November, 11:00.",
    );
    heard(conversation, "trial\ncan't make it on friday, monday at 9am?\n> See you 30 November, 09:00.");
  });
  test.each([
    ['es', 'lo siento, no puedo ir', '¿Prefiere cancelar'],
    ['fr', 'je ne peux pas venir', 'Voulez-vous annuler'],
    ['de', 'ich kann leider nicht kommen', 'Möchten Sie absagen'],
    ['pt', 'não vou poder ir', 'Quer cancelar'],
    ['it', 'purtroppo non posso venire', 'Vuole annullare'],
  ])('in %s: “%s”', (language, said, asked) => {
    const conversation = talk([trialSession()], 'telegram', {
      client: { languages: ['en', language] },
      person: { language },
    });
    heard(conversation, `trial\n${said}\n> ${asked}`);
  });
  test('nothing free leads out, and so does a calendar that is not there', () => {
    heard(
      talk([
        trialSession(
          {},
          free().map((from) => taken(from)),
        ),
      ]),
      'trial\n> Nothing is free.',
    );
    heard(talk([]), 'trial\n> Nothing is free.');
  });
  test('what is no time is asked for once more, with the same times, then leads out', () => {
    const conversation = talk();
    const entries = heard(conversation, 'trial\nwhat ever\n> A day and a time.\nreally\n> Another time.');
    expect(
      entries
        .filter((each) => each.from === 'us')
        .slice(0, 2)
        .map((each) => each.choices),
    ).toEqual([
      ['Wed 25 Nov, 09:00', 'Wed 25 Nov, 10:00', 'Thu 26 Nov, 09:00'],
      ['Wed 25 Nov, 09:00', 'Wed 25 Nov, 10:00', 'Thu 26 Nov, 09:00'],
    ]);
  });
  test('a wish for a day is answered with the times of that day', () => {
    heard(
      talk(),
      'trial\non Monday\n> These times are free.\n[Mon 30 Nov, 11:00]\n> See you 30 November, 11:00.',
    );
  });
  test('in the person’s language, by the client’s clock', () => {
    const person = { language: 'de' };
    const entries = heard(
      talk([trialSession()], 'telegram', { person, client: { languages: ['en', 'de'] } }),
      'trial\nam Freitag\n> Diese Zeiten sind frei.',
    );
    expect(entries.filter((each) => each.from === 'us').at(-1)).toMatchObject({
      choices: ['Fr 27 Nov, 09:00', 'Fr 27 Nov, 10:00', 'Fr 27 Nov, 11:00'],
    });
  });
  test('every path of it can be gone, and takes do not hang on what others have booked', () => {
    const known = { calendars: [trialSession()] };
    const world = new CheckWorld(LOOP, known);
    const { paths } = pathsOf(world);
    expect(paths.map((path) => path.steps[0]!.words)).toEqual([
      'nothing free',
      'could not read it, after 1 retry',
      'no reply in 1 d',
      'booked',
    ]);
    const booked = paths.find((path) => path.steps[0]!.by === 'booked')!;
    expect(pathLines(LOOP, booked, {}).lines).toEqual(['trial', 'a']);
    const take = {
      id: 't',
      name: 'Books',
      channel: 'telegram' as const,
      begins: new Date(NINE).toISOString(),
      person: { id: 'p' },
      turns: ['trial', 'a'].map((does) => ({ does, ours: [] })),
    };
    const all = { calendars: [trialSession({}, [{ from: NINE, until: NINE + 300 * HOUR, count: 1 }])] };
    expect(playTake(LOOP, take, all).turns[1]!.now.join()).toContain('See you 25 November, 09:00.');
    expect(playTake(LOOP, take, all).steps[0]).toMatchObject({ by: 'booked' });
  });
});
