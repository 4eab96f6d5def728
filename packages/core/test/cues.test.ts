import { Cue, cueWords, indexCues, hearOther } from '../src';
import { whyNotComment } from '../src/engine/cues/comment';
import { loopOf } from './support';

const cue = (value: object): Cue => Cue.parse({ id: 'c', ...value });

describe('how the script words a cue', () => {
  test.each([
    [{ kind: 'keyword', words: ['OPEN', 'HOURS'], match: 'exactly' }, '“OPEN” or “HOURS” exactly'],
    [{ kind: 'keyword', words: ['boat'], match: 'part' }, '“boat” anywhere in the text'],
    [
      { kind: 'keyword', words: ['ferry'], match: 'whole word', slip: true },
      '“ferry” anywhere as a whole word, a slip forgiven',
    ],
    [
      { kind: 'keyword', words: ['AGENT'], match: 'exactly', alwaysWins: true },
      '“AGENT” exactly, always wins',
    ],
    [{ kind: 'link', ref: 'poster' }, 'the link or QR code “poster”'],
    [{ kind: 'menu tap', item: 'hours' }, 'a tap on “hours” in the menu'],
    [{ kind: 'first message' }, 'the first message ever'],
    [{ kind: 'fallback' }, 'whatever nothing else takes'],
    [{ kind: 'tag', tag: 'vip', when: 'removed' }, 'the tag vip removed'],
    [{ kind: 'list joined', list: 'News' }, 'the list News joined'],
    [{ kind: 'field changed', field: 'party_size' }, 'party size changed'],
    [{ kind: 'field changed', field: 'level', to: 'B2' }, 'level changed to “B2”'],
    [
      { kind: 'date', field: 'trial_day', days: -1, at: '17:00' },
      '1 day before the day in trial day, at 17:00',
    ],
    [
      { kind: 'date', field: 'birthday', at: '09:00', yearly: true },
      'on the day in birthday, every year, at 09:00',
    ],
    [{ kind: 'silence', after: '5d' }, 'nothing heard for 5 d'],
    [{ kind: 'incoming webhook', hook: 'shipped' }, 'the incoming webhook “shipped”'],
    [{ kind: 'comment', posts: ['1', '2'], with: ['presale'] }, 'comments on 2 posts with “presale”'],
    [{ kind: 'comment', without: ['sold out'] }, 'comments on any post without “sold out”'],
    [{ kind: 'ad click', ads: ['77'] }, 'a click on the ad 77'],
    [{ kind: 'ad click', ref: 'spring' }, 'a click on the ad with the reference “spring”'],
    [{ kind: 'lead form', forms: ['9'] }, 'the lead form 9'],
  ])('%j', (value, words) => expect(cueWords(cue(value))).toBe(words));
});

describe('what a cue may be', () => {
  test.each([
    [{ kind: 'keyword', words: ['a(b'], match: 'pattern' }, 'no pattern'],
    [{ kind: 'keyword', words: ['(?=x)'], match: 'pattern' }, 'no pattern'],
    [{ kind: 'keyword', words: ['…'], match: 'exactly' }, 'at least one letter, digit or emoji'],
    [{ kind: 'keyword', words: [], match: 'exactly' }, 'at least one keyword'],
    [{ kind: 'keyword', words: ['x1'], match: 'part', slip: true }, 'only where whole words match'],
    [{ kind: 'keyword', words: ['x1'], match: 'first word', alwaysWins: true }, 'exactly can always win'],
    [{ kind: 'link', ref: 'two words' }, '1 to 64 letters'],
    [{ kind: 'menu tap', item: 'Hours!' }, 'small letters'],
    [{ kind: 'ad click' }, 'ids of its ads or a reference'],
    [{ kind: 'date', field: 'x', at: '24:00' }, 'time of day'],
    [{ kind: 'date', field: 'x', at: '09:00', days: 1.5 }, 'whole'],
    [{ kind: 'fallback', again: 'sometimes' }, '"again" is always'],
  ])('%j is refused', (value, reason) => {
    const read = Cue.safeParse({ id: 'c', ...value });
    expect(read.success).toBe(false);
    expect(read.error!.issues.map((issue) => issue.message).join(' ')).toContain(reason);
  });
  test('a pattern cannot be made to run for ever', () => {
    const index = indexCues([
      {
        loopId: 'l',
        version: 1,
        loop: loopOf(
          '{ format: dart-loop/1, name: L, cues: [{ kind: keyword, words: ["(a+)+$"], match: pattern }], scenes: [{ name: One, steps: [{ kind: say, text: x }] }] }',
        ),
      },
    ]);
    expect(index.patterns[0]!.test(`${'a'.repeat(5_000)}!`)).toBe(false);
    expect(index.patterns[0]!.test('aaa')).toBe(true);
  });
});

describe('a comment', () => {
  const heard = (value: object, comment: object = {}) =>
    whyNotComment(
      cue({ kind: 'comment', ...value }) as never,
      { text: 'PRESALE please!', postId: '1', postedAt: 1_000, nested: false, ...comment },
      500,
    );
  test('is heard by its post, its words, and whether it answers another', () => {
    expect(heard({})).toBeNull();
    expect(heard({ posts: ['2'] })).toBe('it is under another post');
    expect(heard({ posts: 'from now on' })).toBeNull();
    expect(heard({ posts: 'from now on' }, { postedAt: 100 })).toBe('the post is older than the cue');
    expect(heard({ with: ['presale'] })).toBeNull();
    expect(heard({ with: ['tickets'] })).toBe('it has none of the words');
    expect(heard({ without: ['please'] })).toBe('it has a word that shuts the cue out');
    expect(heard({}, { nested: true })).toBe('it answers another comment');
    expect(heard({ nested: true }, { nested: true })).toBeNull();
  });
});

test('cues that are looked up are found by what they wait for, the narrower line first', () => {
  const loop = (name: string, cues: string) => ({
    loopId: name,
    version: 1,
    loop: loopOf(
      `{ format: dart-loop/1, name: ${name}, cues: [${cues}], scenes: [{ name: One, steps: [{ kind: say, text: x }] }] }`,
    ),
  });
  const index = indexCues([
    loop(
      'Everywhere',
      '{ kind: link, ref: poster }, { kind: ad click, ads: ["7", "8"] }, { kind: lead form, forms: ["9"] }',
    ),
    loop('Here', '{ kind: link, ref: poster, lines: [sms] }, { kind: tag, tag: vip, when: added }'),
  ]);
  const names = (key: string, line = 'sms') => hearOther(index, key, line).map((heard) => heard.loopName);
  expect(names('link:poster')).toEqual(['Here', 'Everywhere']);
  expect(names('link:poster', 'telegram')).toEqual(['Everywhere']);
  expect(names('ad:8')).toEqual(['Everywhere']);
  expect(names('form:9')).toEqual(['Everywhere']);
  expect(names('tag:added:vip')).toEqual(['Here']);
  expect(names('tag:removed:vip')).toEqual([]);
});
