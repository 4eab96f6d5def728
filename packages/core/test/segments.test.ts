import fc from 'fast-check';
import {
  conditionWords,
  isInSegment,
  ofConversation,
  stranger,
  type Condition,
  type PersonFacts,
  type SegmentWorld,
} from '../src';
import { readCondition, readSentence } from '../src/loops/edit/typedCondition';
import { ABOUT_NOW, LOOPS, SEGMENTS, TIES, rule } from './peopleArbitraries';
import { Conversation, FERRIES, loopOf } from './support';

const DAY = 86_400_000;
const about = (person: Partial<PersonFacts>): SegmentWorld => ({
  now: ABOUT_NOW,
  client: FERRIES,
  person: { ...stranger('p', ABOUT_NOW - 40 * DAY), ...person },
  segments: SEGMENTS,
  loopIds: LOOPS,
});
const ID = LOOPS['sailing alerts'];
const began = (age: number, more: object = {}) => ({
  [ID]: { started: ABOUT_NOW - age * DAY, finished: null, cues: { poster: 1 }, ...more },
});

describe('a sentence about people is read, and holds of them', () => {
  test.each<[string, Partial<PersonFacts>, boolean]>([
    ['opted in on SMS', { ties: [{ ...TIES[0]!, optedIn: true }] }, true],
    ['opted in on SMS', { ties: [{ ...TIES[1]!, optedIn: true }] }, false],
    ['opted in', { ties: [{ ...TIES[1]!, optedIn: true }] }, true],
    ['opted out of telegram', { ties: [{ ...TIES[1]!, optedOut: true }] }, true],
    ['not opted out', { ties: TIES }, true],
    ['reachable on Tg', { ties: TIES }, true],
    ['reachable on the line sms-2', { ties: TIES }, false],
    ['entered Sailing alerts', { history: began(3) }, true],
    ['entered Sailing alerts in the last 2 days', { history: began(3) }, false],
    ['has entered sailing alerts in the last 1 week', { history: began(3) }, true],
    ['finished Sailing alerts', { history: began(3) }, false],
    ['finished Sailing alerts', { history: began(3, { finished: ABOUT_NOW }) }, true],
    [
      'under way in Sailing alerts at scene email',
      { history: began(1, { stands: { scene: 'email', underWay: true } }) },
      true,
    ],
    ['left Sailing alerts', { history: began(1, { stands: { scene: 'email', underWay: true } }) }, false],
    [
      'left Sailing alerts at scene email',
      { history: began(1, { stands: { scene: 'email', underWay: false } }) },
      true,
    ],
    [
      'left Sailing alerts at scene welcome',
      { history: began(1, { stands: { scene: 'email', underWay: false } }) },
      false,
    ],
    [
      'left Sailing alerts',
      { history: began(1, { finished: ABOUT_NOW, stands: { scene: 'email', underWay: false } }) },
      false,
    ],
    ['came into Sailing alerts by poster', { history: began(1) }, true],
    ['came into Sailing alerts by ad', { history: began(1) }, false],
    ['entered Nowhere', { history: began(1) }, false],
    ['came from till form', { source: 'Till form' }, true],
    ['not came from till form', {}, true],
    ['seen in the last 30 d', {}, false],
    ['first met in the last 8 weeks', {}, true],
    [
      'in the segment Regulars',
      { tags: ['vip'], fields: { town: { type: 'text', value: 'Harwick' } } },
      true,
    ],
    ['not in the segment regulars', { tags: ['vip'] }, true],
    ['in the segment Circle', {}, false],
    ['not in the segment Gone', {}, false],
    ['mobile is +44 7700 900144', { fields: { mobile: { type: 'phone', value: '+447700900144' } } }, true],
    [
      'town is Harwick and (tagged vip or size > 3) and not on the list News',
      { tags: ['vip'], fields: { town: { type: 'text', value: 'HARWICK' } } },
      true,
    ],
    ['tagged a or tagged b and tagged c', { tags: ['a'] }, true],
    [
      'size is between 3 and 5 and tagged vip',
      { tags: ['vip'], fields: { size: { type: 'number', value: 5 } } },
      true,
    ],
    ['firm is "Marks and Spindle"', { fields: { firm: { type: 'text', value: 'Marks and Spindle' } } }, true],
  ])('%s', (written, person, expected) => {
    const read = readSentence(written);
    expect(read).toMatchObject({ ok: true });
    expect(isInSegment((read as { condition: Condition }).condition, about(person))).toBe(expected);
  });

  test.each([
    ['', ''],
    ['opted in on SMS and', 'opted in on SMS and'],
    ['tagged vip and wibble', 'wibble'],
    ['town is Harwick or (size above)', 'size above'],
    ['entered X in the last fortnight', 'entered X in the last fortnight'],
  ])('of “%s” it is said that “%s” cannot be read', (written, words) =>
    expect(readSentence(written)).toEqual({ ok: false, words }),
  );

  test('every rule reads back from its own words', () => {
    fc.assert(
      fc.property(rule, (condition) => {
        const words = conditionWords(condition);
        const read = readCondition(words);
        expect(read === null ? `not read: ${words}` : conditionWords(read)).toBe(words);
      }),
      { numRuns: 2_000 },
    );
  });

  test('what is about a conversation is told from what is about a person', () => {
    expect(ofConversation({ all: [{ tag: 'a' }, { not: { open: true } }] })).toBe('open');
    expect(ofConversation({ any: [{ tag: 'a' }, { segment: 'b' }] })).toBeNull();
  });
});

describe('whom a cue hears', () => {
  const only = (who: string) =>
    loopOf(`
format: dart-loop/1
name: Only
cues: [{ kind: keyword, words: [go], match: exactly, who: ${who} }, { kind: fallback }]
scenes: [{ name: One, steps: [{ kind: say, text: Heard. }] }]
`);
  test('is asked before it starts its loop, and said where it does not', () => {
    const regular = new Conversation([only('{ tag: vip }')], 'telegram', {}, { person: { tags: ['vip'] } });
    expect(regular.hears({ kind: 'text', text: 'go' }).decision?.candidates[0]).toMatchObject({
      place: 'other cue',
      outcome: 'won',
    });
    const other = new Conversation([only('{ tag: vip }')]);
    const { decision } = other.hears({ kind: 'text', text: 'go' });
    expect(decision?.candidates).toContainEqual(
      expect.objectContaining({
        place: 'other cue',
        outcome: 'lost',
        reason: 'it hears only those of whom this holds: tagged vip',
      }),
    );
    expect(decision?.candidates[0]).toMatchObject({ place: 'fallback', outcome: 'won' });
  });
  test('cannot be about the answers of the loop, which there are none of yet', () => {
    expect(() => only('{ answer: size, is: known }')).toThrow(/before its loop begins/);
  });
});
