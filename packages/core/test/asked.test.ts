import { CHANNELS, isAsked, newStanding, permission, stranger, type Incoming } from '../src';
import { readSentence, whyUnread } from '../src/loops/edit/typedCondition';
import { Turn } from '../src/engine/run/turn';
import { NINE } from './support';

const HOUR = 3_600_000;
const asked = (incoming: object, lastHeardAt: number | null = null) =>
  isAsked(incoming as Incoming, { now: NINE, lastHeardAt });

describe('whether somebody has asked for what is sent', () => {
  test.each([
    'text',
    'tap',
    'reference',
    'menu',
    'file',
    'place',
    'comment',
    'blocked',
    'other',
    'lead',
    'step in',
    'write',
    'wrote elsewhere',
    'left the team',
    'hand back',
  ])('%s: asked', (kind) => expect(asked({ kind })).toBe(true));
  test.each([
    'said elsewhere',
    'opted out elsewhere',
    'turn comes',
    'tag',
    'list',
    'field',
    'date',
    'silence',
    'webhook',
    'start',
    'move',
    'stop',
  ])('%s: not asked', (kind) => expect(asked({ kind })).toBe(false));
  test('a kind that nobody has thought about counts as not asked', () =>
    expect(asked({ kind: 'something new' })).toBe(false));
  test('a timer is not asked for, but for the end of gathering what the person wrote', () => {
    expect(asked({ kind: 'timer', what: 'run' })).toBe(false);
    expect(asked({ kind: 'timer', what: 'gathered' })).toBe(true);
  });
  test('what another system answers belongs to what the person wrote shortly before, and to nothing else', () => {
    expect(asked({ kind: 'delivered' }, NINE - 60_000)).toBe(true);
    expect(asked({ kind: 'delivered' }, NINE - HOUR)).toBe(false);
    expect(asked({ kind: 'delivered' })).toBe(false);
  });
});

describe('the time is the sender’s', () => {
  const turn = (at: number | undefined, lastHeardAt: number | null = null) => {
    const line = { key: 'wa', name: 'WhatsApp', channel: 'whatsapp' as const };
    const world = {
      now: NINE,
      at,
      client: {
        name: 'C',
        brief: {},
        country: 'GB',
        timeZone: 'Europe/London',
        languages: ['en'],
        openingHours: {},
      },
      line,
      fields: {},
      person: stranger('p', NINE),
      standing: { ...newStanding(), lastHeardAt, holds: true, heardFrom: lastHeardAt !== null },
      runs: [],
      tappedRun: null,
      cues: {} as never,
      version: () => null,
      liveLoop: () => null,
      newRunId: '00000000-0000-7000-8000-000000000001',
    };
    const played = new Turn(world);
    played.voice.hearPerson(false);
    return played;
  };
  const may = (standing: Turn['standing'], byHand = false) =>
    permission(CHANNELS.whatsapp, standing, NINE, byHand);

  test('what was written an hour ago opens the window for the hours that are left of it', () => {
    const { standing } = turn(NINE - HOUR);
    expect(standing.lastHeardAt).toBe(NINE - HOUR);
    expect(may(standing)).toEqual({ may: 'go', until: NINE + 23 * HOUR, via: null });
  });
  test('what is delivered again after an outage of thirty hours is not answered as if it were fresh, and by hand only the human way', () => {
    const { standing, effects } = turn(NINE - 30 * HOUR);
    expect(may(standing).may).toBe('wait');
    // What was held back waits on.
    expect(effects.filter(({ kind }) => kind === 'release')).toEqual([]);
    const messenger = permission(CHANNELS.messenger, standing, NINE, true);
    expect(messenger).toMatchObject({ may: 'go', via: { kind: 'by hand, late' } });
  });
  test('a time that is later than now is now, and one that is older takes nothing back', () => {
    expect(turn(NINE + HOUR).standing.lastHeardAt).toBe(NINE);
    expect(turn(NINE - 5 * HOUR, NINE - HOUR).standing.lastHeardAt).toBe(NINE - HOUR);
    expect(turn(undefined).standing.lastHeardAt).toBe(NINE);
  });
});

describe('a sentence that is not closed', () => {
  test.each([
    ['(town is Harwick', 'the bracket “(” at character 1 is not closed'],
    ['tag vip and (town is Harwick or tag x', 'the bracket “(” at character 13 is not closed'],
    ['town is Harwick)', 'the bracket “)” at character 16 closes nothing'],
    ['town is "Harwick', 'the quotation mark “"” at character 9 is not closed'],
  ])('%s: %s', (sentence, reason) => {
    const read = readSentence(sentence);
    expect(read.ok).toBe(false);
    expect(!read.ok && whyUnread(read)).toBe(reason);
  });
  test('brackets within quotation marks are text', () =>
    expect(readSentence('town is "(Harwick"').ok).toBe(true));
});
