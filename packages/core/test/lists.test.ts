import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { respond, type World } from '../src';
import { confirms, readLeaving } from '../src/consent/listWords';
import { readSentence } from '../src/loops/edit/typedCondition';
import { Conversation, loopOf, texts } from './support';

const JOIN = loopOf(`
format: dart-loop/1
name: Join
cues: [{ kind: keyword, words: [join], match: exactly }]
scenes:
  - { id: one, name: One, steps: [{ kind: set, changes: [{ do: join list, list: Wall news }] }, { kind: ask, text: Shall we call you?, reply: yes/no, field: call, noReply: { after: 1h, to: end } }] }
`);
const lists = (double: boolean): World['lists'] => ({
  'wall news': { name: 'Wall news', double, wording: 'New routes, once a week.', version: 3 },
});
const entries = (talk: Conversation) =>
  talk.responses.flatMap((response) =>
    response.effects.flatMap((effect) => (effect.kind === 'consent' ? [effect] : [])),
  );

describe('a list', () => {
  test('without confirming is joined at once, by its wording', () => {
    const talk = new Conversation([JOIN], 'telegram', {}, { lists: lists(false) });
    talk.says('join');
    expect(talk.person.lists).toEqual(['Wall news']);
    expect(entries(talk)).toMatchObject([
      {
        what: 'opt-in',
        scope: 'list',
        list: 'Wall news',
        words: 'New routes, once a week.',
        wording: 3,
        language: 'en',
        at: { stepId: expect.any(String) },
      },
    ]);
  });

  test('that is confirmed asks; a yes to what the loop asks since is the loop’s, the next one confirms', () => {
    const talk = new Conversation([JOIN], 'telegram', {}, { lists: lists(true) });
    expect(talk.says('join')).toEqual(['New routes, once a week. Write YES to agree.', 'Shall we call you?']);
    expect(talk.person.lists).toEqual([]);
    talk.says('yes');
    expect(talk.person.fields.call).toEqual({ type: 'yes/no', value: true });
    expect(talk.person.lists).toEqual([]);
    expect(talk.says('yes')).toEqual(['You are on the list “Wall news”. Write STOP Wall news to leave it.']);
    expect(talk.person.lists).toEqual(['Wall news']);
    expect(entries(talk)).toHaveLength(1);
    expect(talk.says('yes')).toEqual([]);
  });

  test('is not joined by a yes that comes after a week, nor by one after an opt-out', () => {
    const late = new Conversation([JOIN], 'telegram', {}, { lists: lists(true) });
    late.says('join');
    late.later('8d');
    late.says('yes');
    expect(late.person.lists).toEqual([]);
    const out = new Conversation([JOIN], 'telegram', {}, { lists: lists(true) });
    out.says('join');
    out.says('stop');
    out.says('start');
    out.says('yes');
    expect(out.person.lists).toEqual([]);
  });

  test.each([
    ['STOP wall news', ['en']],
    ['unsubscribe from Wall News!', ['en']],
    ['leave wall news', ['en']],
    ['Baja de wall news', ['en', 'es']],
    ['abmelden von der Wall news', ['en', 'de']],
  ])('“%s” leaves it', (text, languages) =>
    expect(readLeaving(text, ['Other', 'Wall news'], languages)).toBe('Wall news'),
  );
  test.each([
    ['stop', ['en']],
    ['wall news', ['en']],
    ['baja de wall news', ['en']],
    ['please do not stop wall news tomorrow', ['en']],
  ])('“%s” does not', (text, languages) => expect(readLeaving(text, ['Wall news'], languages)).toBeNull());
  test.each([
    ['yes please', 'en', true],
    ['sí', 'es', true],
    ['maybe', 'en', false],
    ['no', 'en', false],
    ['yes and no', 'en', false],
  ])('“%s” confirms: %s %s', (text, language, expected) => expect(confirms(text, language)).toBe(expected));

  test('left by words takes the person off that list alone, and the loop goes on', () => {
    const talk = new Conversation(
      [JOIN],
      'telegram',
      {},
      { lists: lists(false), person: { lists: ['Other', 'Wall news'] } },
    );
    talk.says('join');
    expect(talk.says('stop wall news')).toEqual(['You are off the list “Wall news”.']);
    expect(talk.person.lists).toEqual(['Other']);
    expect(talk.run).not.toBeNull();
    expect(talk.rehearsal.standing.optedOut).toBe(false);
  });
});

describe('opting out of everything', () => {
  const beside: World['beside'] = [
    {
      conversationId: 'c2',
      line: { key: 'sms', name: 'SMS', channel: 'sms' },
      standing: { ...new Conversation([JOIN]).rehearsal.standing },
    },
  ];
  test('is said in so many words, and told to the person’s other conversations', () => {
    const talk = new Conversation([JOIN]);
    const response = respond(
      { ...talk.world({ kind: 'text', text: 'stop all' }), beside },
      { kind: 'text', text: 'stop all' },
    );
    expect(response.effects).toContainEqual(
      expect.objectContaining({ kind: 'consent', what: 'opt-out', scope: 'everything' }),
    );
    expect(response.effects).toContainEqual({
      kind: 'tell elsewhere',
      conversationId: 'c2',
      incoming: { kind: 'opted out elsewhere', words: 'stop all' },
    });
    expect(texts(response)).toHaveLength(1);
    // A plain stop is about this line.
    const plain = respond(
      { ...talk.world({ kind: 'text', text: 'stop' }), beside },
      { kind: 'text', text: 'stop' },
    );
    expect(plain.effects.some((effect) => effect.kind === 'tell elsewhere')).toBe(false);
  });
  test('holds there: what is under way ends, silently', () => {
    const talk = new Conversation([JOIN]);
    talk.says('join');
    expect(talk.on({ kind: 'opted out elsewhere', words: 'stop all' })).toEqual([]);
    expect(talk.run).toBeNull();
    expect(talk.person.ties).toMatchObject([{ optedOut: true, optedIn: false }]);
    expect(talk.on({ kind: 'start', loop: 'Join', by: 'Bram' })).toEqual([]);
  });
});

describe('the team starts a loop', () => {
  test('for whoever it chooses; while the person is being asked something it waits', () => {
    const talk = new Conversation([
      JOIN,
      loopOf(
        'format: dart-loop/1\nname: Other\ncues: [{ kind: keyword, words: [other], match: exactly }]\nscenes: [{ name: A, steps: [{ kind: say, text: Hello. }] }]',
      ),
    ]);
    expect(talk.on({ kind: 'start', loop: 'other', by: 'Bram' })).toEqual(['Hello.']);
    talk.says('join');
    expect(talk.on({ kind: 'start', loop: 'Other', by: 'Bram' })).toEqual([]);
    expect(talk.says('no')).toEqual(['Hello.']);
    expect(talk.on({ kind: 'start', loop: 'Gone', by: 'Bram' })).toEqual([]);
  });
});

test('every sentence of docs/people.md reads', () => {
  const written = readFileSync(join(__dirname, '../../../docs/people.md'), 'utf8');
  const sentences = [...written.matchAll(/^\| `([^`]+)` \|/gm)].map((found) => found[1]!);
  expect(sentences.length).toBeGreaterThan(20);
  for (const sentence of sentences)
    expect({ sentence, ok: readSentence(sentence).ok }).toEqual({ sentence, ok: true });
});
