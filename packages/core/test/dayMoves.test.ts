import { changeWords } from '../src';
import { readChange } from '../src/loops/edit/typedChange';
import { DayMove, moveDay } from '../src/time/dayMoves';
import { Conversation, loopOf } from './support';

describe('days are moved', () => {
  const weekdays = { monday: [{ from: '09:00', to: '17:00' }], thursday: [{ from: '09:00', to: '12:00' }] };
  test.each([
    ['2026-11-24', '+6 weeks', '2027-01-05'],
    ['2026-11-24', '-1 day', '2026-11-23'],
    ['2027-01-31', '+1 month', '2027-02-28'],
    ['2028-02-29', '+1 year', '2029-02-28'],
    ['2026-12-31', '-10 months', '2026-02-28'],
    ['2026-11-24', 'end of month', '2026-11-30'],
    ['2026-12-05', 'end of month', '2026-12-31'],
    ['2026-11-24', 'start of month', '2026-11-01'],
    ['2026-11-24', 'start of week', '2026-11-23'],
    ['2026-11-29', 'end of week', '2026-11-29'],
    ['2026-11-24', 'end of year', '2026-12-31'],
    ['2026-11-27', '+1 working day', '2026-11-30'],
    ['2026-11-27', '-5 working days', '2026-11-20'],
    ['2026-11-28', 'on a working day', '2026-11-30'],
    ['2026-11-27', 'on a working day', '2026-11-27'],
    ['9999-12-31', '+1 day', null],
    ['2026-11-24', 'soon', null],
  ])('%s %s is %s', (from, move, to) => expect(moveDay(from, move, {})).toBe(to));

  test('working days are those on which the client is open', () => {
    expect(moveDay('2026-11-24', '+1 working day', weekdays)).toBe('2026-11-26');
    expect(moveDay('2026-11-24', '+2 working days', { ...weekdays, daysOff: ['2026-11-26'] })).toBe(
      '2026-12-03',
    );
    expect(moveDay('2026-12-24', '+1 working day', { daysOff: ['12-25', '12-28'] })).toBe('2026-12-29');
    // A client whose only opening is on a day that is off every year.
    const never = { monday: weekdays.monday, daysOff: [], otherHours: {} };
    expect(moveDay('2026-11-24', '+999 working days', never)).toBe('2046-01-15');
    expect(moveDay('2026-11-24', '+9999 working days', never)).toBeNull();
  });
  test('what moves nothing is refused, with what is expected', () => {
    expect(DayMove.safeParse('+ six weeks').error?.issues[0]?.message).toContain('"+6 weeks"');
    expect(DayMove.safeParse('+{{ person.weeks }} weeks').success).toBe(true);
  });
});

describe('a set reckons days', () => {
  const loop = (changes: string) =>
    loopOf(
      `{ format: dart-loop/1, name: Recall, cues: [{ kind: keyword, words: [go], match: exactly }], scenes: [{ id: one, name: One, steps: [{ kind: ask, text: When were you here?, reply: date, days: any, field: visit }, { kind: set, changes: [${changes}] }, { kind: say, text: "Next {{ person.recall }}" }] }] }`,
    );
  test('from an answer, from today, with merge fields', () => {
    const conversation = new Conversation(
      [loop('{ do: date, field: recall, from: visit, moves: [+6 weeks, on a working day] }')],
      'telegram',
      { visit: 'date', recall: 'date' },
    );
    conversation.says('go');
    expect(conversation.says('21 november 2026')).toEqual(['Next 2027-01-04']);
    expect(conversation.person.fields.recall).toEqual({ type: 'date', value: '2027-01-04' });
    const today = new Conversation(
      [loop('{ do: date, field: recall, moves: ["+{{ person.weeks }} weeks"] }')],
      'telegram',
      { visit: 'date', recall: 'date', weeks: 'number' },
      { person: { fields: { weeks: { type: 'number', value: 2 } } } },
    );
    today.says('go');
    expect(today.says('yesterday')).toEqual(['Next 2026-12-08']);
  });
  test('what leads to no day is not set, and says why', () => {
    const conversation = new Conversation(
      [loop('{ do: date, field: recall, from: arrival, moves: [+1 day] }')],
      'telegram',
      { visit: 'date', recall: 'date' },
    );
    conversation.says('go');
    conversation.says('yesterday');
    expect(conversation.responses.at(-1)!.notes).toContainEqual({
      code: 'field not set',
      field: 'recall',
      reason: 'arrival holds no day',
    });
  });
});

test('what is set is read back as it is worded', () => {
  for (const words of [
    'town = Harwick',
    'visits plus 1',
    'price divided by {{ person.party_size }}',
    'seen = now',
    'recall = today +6 weeks',
    'recall = last visit +6 weeks, end of month',
    'recall = visit, on a working day',
    'recall = visit +1 year -2 weeks',
    'nickname = copy of first name',
    'note cleared',
    'tag vip on',
    'tag vip off',
    'list Workshop news joined',
    'list Workshop news left',
    'opted in on this line',
    'opted out of this line',
  ]) {
    const change = readChange(words);
    expect(change && changeWords(change)).toBe(words);
  }
  expect(readChange('note = back in 3, maybe 4 days')).toMatchObject({ do: 'field' });
  expect(readChange('wonders')).toBeNull();
  // Half a move is no text.
  expect(readChange('recall = visit +6 weeks, on a working')).toBeNull();
});
