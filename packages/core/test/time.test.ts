import { dateDue, isOpen, zoneOf } from '../src';
import { zoneOfNumber } from '../src/time/zoneOfNumber';
import { quietUntil } from '../src/consent/quiet';
import { nextOpening, specialDates } from '../src/time/openings';
import { isDayOff } from '../src/time/openingHours';
import { isBetween } from '../src/time/clockTime';
import { instantOf, localTime, nextAnniversary, nextTime } from '../src/time/zones';
import { Conversation, FERRIES, loopOf, nobodyYet } from './support';

const LONDON = 'Europe/London';
const at = (iso: string) => Date.parse(iso);
const iso = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString());

describe('the wall clock', () => {
  test('a time that the clocks skip comes as much later as they go on; one that comes twice is its first', () => {
    expect(iso(instantOf('2026-03-29', '01:30', LONDON))).toBe('2026-03-29T01:30:00.000Z');
    expect(localTime(instantOf('2026-03-29', '01:30', LONDON), LONDON).time).toBe('02:30');
    expect(iso(instantOf('2026-10-25', '01:30', LONDON))).toBe('2026-10-25T00:30:00.000Z');
  });
  test('the next time of day keeps to the wall clock over a change', () => {
    expect(iso(nextTime(at('2026-03-28T10:00:00Z'), LONDON, '09:00'))).toBe('2026-03-29T08:00:00.000Z');
    expect(iso(nextTime(at('2026-10-24T10:00:00Z'), LONDON, '09:00'))).toBe('2026-10-25T09:00:00.000Z');
    expect(iso(nextTime(at('2026-11-25T09:00:00Z'), LONDON, '09:00'))).toBe('2026-11-26T09:00:00.000Z');
    expect(iso(nextTime(at('2026-11-25T08:00:00Z'), LONDON, '09:00', ['monday']))).toBe(
      '2026-11-30T09:00:00.000Z',
    );
  });
  test('spans may go over midnight', () => {
    expect(isBetween('23:00', '21:00', '08:00')).toBe(true);
    expect(isBetween('08:00', '21:00', '08:00')).toBe(false);
    expect(isBetween('12:00', '09:00', '17:00')).toBe(true);
  });
});

describe('opening hours', () => {
  const hours = {
    monday: [
      { from: '09:00', to: '12:00' },
      { from: '13:00', to: '17:00' },
    ],
    friday: [{ from: '09:00', to: '17:00' }],
    daysOff: ['2026-11-30'],
  };
  test.each([
    ['2026-11-23T11:59:00Z', true],
    ['2026-11-23T12:00:00Z', false],
    ['2026-11-23T13:00:00Z', true],
    ['2026-11-24T10:00:00Z', false],
    ['2026-11-30T10:00:00Z', false],
  ])('%s: %s', (moment, open) => expect(isOpen(hours, at(moment), LONDON)).toBe(open));
  test('the next opening is found over closed days and days off; with no hours it is always open', () => {
    expect(iso(nextOpening(hours, at('2026-11-27T18:00:00Z'), LONDON))).toBe('2026-12-04T09:00:00.000Z');
    expect(iso(nextOpening(hours, at('2026-11-23T12:10:00Z'), LONDON))).toBe('2026-11-23T13:00:00.000Z');
    expect(nextOpening({}, 5, LONDON)).toBe(5);
  });
  test('a day off of every year, and other hours on single dates, which count over all else', () => {
    const more = {
      ...hours,
      daysOff: ['12-25'],
      otherHours: { '2026-12-24': [{ from: '10:00', to: '12:00' }], '2027-01-04': [] },
    };
    const open = (moment: string) => isOpen(more, at(moment), LONDON);
    expect([open('2026-12-25T10:00:00Z'), open('2027-12-24T10:00:00Z')]).toEqual([false, true]);
    expect([open('2026-12-24T11:00:00Z'), open('2026-12-24T13:00:00Z')]).toEqual([true, false]);
    expect(open('2027-01-04T10:00:00Z')).toBe(false);
    expect(specialDates(more, '2026-12-01', 3)).toEqual([
      { date: '2026-12-24', spans: [{ from: '10:00', to: '12:00' }] },
      { date: '2026-12-25', spans: [] },
      { date: '2027-01-04', spans: [] },
    ]);
    expect(isDayOff('02-29') && isDayOff('2026-12-25')).toBe(true);
    expect(isDayOff('02-30') || isDayOff('2026-02-29') || isDayOff('Xmas')).toBe(false);
  });
});

describe('a date cue', () => {
  const cue = { days: 0, at: '09:00', yearly: true };
  test.each([
    ['2004-02-29', '2026-01-01T00:00:00Z', '2026-02-28T09:00:00.000Z'],
    ['2004-02-29', '2027-03-01T00:00:00Z', '2028-02-29T09:00:00.000Z'],
    ['1990-11-25', '2026-11-25T08:59:00Z', '2026-11-25T09:00:00.000Z'],
    ['1990-11-25', '2026-11-25T09:00:00Z', '2027-11-25T09:00:00.000Z'],
  ])('yearly on %s, asked at %s, is due %s', (date, now, due) =>
    expect(iso(dateDue(cue, date, at(now), LONDON))).toBe(due),
  );
  test('moved days may fall into the year before; once gone by it is over', () => {
    expect(
      iso(
        dateDue({ days: -10, at: '09:00', yearly: true }, '1990-01-05', at('2026-12-01T00:00:00Z'), LONDON),
      ),
    ).toBe('2026-12-26T09:00:00.000Z');
    expect(dateDue({ days: 0, at: '09:00' }, '2026-11-24', at('2026-11-25T00:00:00Z'), LONDON)).toBeNull();
    expect(
      iso(dateDue({ days: 3, at: '18:00' }, '2026-11-24', at('2026-11-25T00:00:00Z'), 'America/New_York')),
    ).toBe('2026-11-27T23:00:00.000Z');
  });
  test('anniversaries include today', () =>
    expect(nextAnniversary('1990-11-25', '2026-11-25')).toBe('2026-11-25'));
});

describe('quiet hours', () => {
  test('SMS from nine in the evening to eight in the morning, by the person’s clock', () => {
    expect(iso(quietUntil('sms', at('2026-11-25T21:00:00Z'), LONDON))).toBe('2026-11-26T08:00:00.000Z');
    expect(iso(quietUntil('sms', at('2026-11-26T07:59:00Z'), LONDON))).toBe('2026-11-26T08:00:00.000Z');
    expect(quietUntil('sms', at('2026-11-26T08:00:00Z'), LONDON)).toBeNull();
    expect(iso(quietUntil('sms', at('2026-11-25T21:00:00Z'), 'America/New_York'))).toBe(null);
    expect(quietUntil('telegram', at('2026-11-25T23:00:00Z'), LONDON)).toBeNull();
  });
  const nudge = loopOf(`
format: dart-loop/1
name: Nudge
cues: [{ kind: keyword, words: [go], match: exactly }]
scenes:
  - name: One
    steps:
      - { kind: say, text: Well?, choices: [{ label: Yes, to: end }], noReply: { after: 3h, to: nudge } }
  - { id: nudge, name: Nudge, steps: [{ kind: say, text: Still there? }] }
`);
  test('a timer that falls into them goes on when they end, once; an answer is never held', () => {
    const talk = new Conversation([nudge], 'sms', {}, { now: at('2026-11-25T20:00:00Z') });
    expect(talk.says('go')).toEqual(['Saltmarsh Ferries: Well?']);
    expect(talk.later('3h')).toEqual([]);
    expect(talk.notes()).toContain('quiet hours');
    expect(talk.later('8h')).toEqual([]);
    expect(talk.later('2h')).toEqual(['Still there?']);
    expect(talk.later('2d')).toEqual([]);
    const night = new Conversation([nudge], 'sms', {}, { now: at('2026-11-25T23:00:00Z') });
    expect(night.says('go')).toEqual(['Saltmarsh Ferries: Well?']);
  });
  test('a reply that comes meanwhile makes the held timer stale', () => {
    const talk = new Conversation([nudge], 'sms', {}, { now: at('2026-11-25T20:00:00Z') });
    talk.says('go');
    talk.later('4h');
    talk.says('yes');
    expect(talk.later('2d')).toEqual([]);
  });
});

test.each([
  ['+33612345678', 'Europe/London', 'Europe/Paris'],
  ['+447700900100', 'Europe/London', 'Europe/London'],
  ['+12025550123', 'America/Los_Angeles', 'America/Los_Angeles'],
  ['+999', 'Europe/London', null],
])('the number %s, near %s, is at home in %s', (number, near, zone) =>
  expect(zoneOfNumber(number, near)).toBe(zone),
);

test('a person’s zone is their field, else that of their number, else the client’s', () => {
  const person = { ...nobodyYet };
  expect(zoneOf(person, FERRIES, '+33612345678')).toBe('Europe/Paris');
  expect(zoneOf(person, FERRIES, null)).toBe(FERRIES.timeZone);
  const told = { ...person, fields: { time_zone: { type: 'text' as const, value: 'Asia/Tokyo' } } };
  expect(zoneOf(told, FERRIES, '+33612345678')).toBe('Asia/Tokyo');
});
