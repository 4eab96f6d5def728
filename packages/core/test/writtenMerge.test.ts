import fc from 'fast-check';
import { mergeName, storedText, writtenText, type MergeName } from '../src/language/writtenMerge';
import { shownParts } from '../src/language/mergeParts';
import { mergeNamesOf } from '../src/loops/edit/mergeNames';
import { readLoopFile } from '../src/loops/file/loopFile';

const NAMES: MergeName[] = [
  'person.first_name',
  'person.visit_day',
  'person.hours',
  'client.name',
  'brief.hours',
  'brief.phone',
].map((path) => ({ path, words: mergeName(path) }));

describe('merge fields as they are written', () => {
  test.each([
    ['Hello {{ person.first_name | default: "there" }}.', 'Hello [first name, or "there"].'],
    ['{{person.visit_day}} at {{ client.name }}', '[visit day] at [the client’s name]'],
    ['We are open {{ brief.hours }}.', 'We are open [brief: hours].'],
    ['On {{ person.visit_day | date: "long" }}', 'On [visit day, date: "long"]'],
    ['{% if person.vip %}Dear{% endif %} friend', '[if vip]Dear[endif] friend'],
    ['[sic] {{ person.first_name }}', '[sic] [first name]'],
    // What stands there as words keeps them: the merge field stays as it is stored.
    ['[first name] {{ person.first_name }}', '[first name] {{ person.first_name }}'],
    ['{{ person.first_name | default: "[x]" }}', '{{ person.first_name | default: "[x]" }}'],
  ])('%s', (stored, written) => {
    expect(writtenText(stored, NAMES)).toBe(written);
    expect(storedText(written, NAMES, stored)).toBe(stored);
  });
  test.each([
    ['Hi [first name]', 'Hi {{ person.first_name }}'],
    ['Hi [First Name, or “you”]!', 'Hi {{ person.first_name | default: "you" }}!'],
    ['Hi [first name or "Captain "Blue""]', `Hi {{ person.first_name | default: 'Captain "Blue"' }}`],
    ['[hours] is a field, [brief: hours] is not', '{{ person.hours }} is a field, {{ brief.hours }} is not'],
    ['[phone]', '{{ brief.phone }}'],
    ["[the client’s name] [the client's name]", '{{ client.name }} {{ client.name }}'],
    ['[no such thing] []', '[no such thing] []'],
  ])('written anew: %s', (written, stored) => expect(storedText(written, NAMES)).toBe(stored));

  test('a text that is not changed is stored as it was, whatever it is', () => {
    const piece = fc.oneof(
      fc.constantFrom('{{', '}}', '{%', '%}', '[', ']', '{', '|', 'person.first_name', 'default: "x"', '"'),
      fc.constantFrom(
        '{{ person.first_name }}',
        '{{ brief.hours | default: "9" }}',
        '[first name]',
        '{% if x %}',
      ),
      fc.string({ maxLength: 4 }),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 12 }), (pieces) => {
        const text = pieces.join('');
        expect(storedText(writtenText(text, NAMES), NAMES, text)).toBe(text);
      }),
    );
  });
  test('what a loop can merge: fields, its own, the items of a repeated scene, the brief', () => {
    const file = readLoopFile(`
format: dart-loop/1
name: Dogs
cues: [{ kind: keyword, words: [dogs], match: exactly }]
scenes:
  - id: one
    name: One
    steps:
      - { id: q, kind: ask, text: How many?, reply: number, field: dogs }
      - { id: g, kind: go, to: two, back: true, each: { field: dogs, as: dog } }
  - { id: two, name: Two, steps: [{ id: s, kind: say, text: x }] }
`);
    expect(
      mergeNamesOf(
        file.ok ? file.loop : (null as never),
        [{ key: 'town' }],
        { tone: 'warm' },
        { winter_timetable: '/files/x/1-winter_timetable.jpg' },
      ).map(({ words }) => words),
    ).toEqual([
      'first name',
      'town',
      'dogs',
      'dog',
      'dog number',
      'the client’s name',
      'brief: hours',
      'brief: address',
      'brief: phone',
      'brief: booking link',
      'brief: privacy link',
      'brief: tone',
      'file: winter timetable',
    ]);
  });
});

describe('a text as the script shows it', () => {
  const shown = (text: string) =>
    shownParts(text)
      .map((part) => (part.isMerged ? `<${part.text}>` : part.text))
      .join('');
  test.each([
    ['Hello {{ person.first_name | default: "there" }}.', 'Hello <first name, or “there”>.'],
    [
      'Hello{% if person.first_name %} {{ person.first_name }}{% endif %}, and welcome.',
      'Hello<if first name is known:> <first name><end>, and welcome.',
    ],
    [
      '{% unless person.vip %}Queue{% else %}Come in{% endunless %}',
      '<if vip is not known:>Queue<otherwise:>Come in<end>',
    ],
    [
      '{% if person.guests > 4 %}Many{% elsif answers.day == "Sunday" %}Some{% endif %}',
      '<if guests > 4:>Many<or if day == "Sunday":>Some<end>',
    ],
    ['On {{ today | date: "long" }}', 'On <today, date: "long">'],
    ['nothing to merge', 'nothing to merge'],
  ])('%s', (stored, words) => expect(shown(stored)).toBe(words));
  test('no brace and no percent sign of a merge field is left, whatever is read', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('a ', '{{ person.x }}', '{% if brief.y %}', '{% endif %}', '{{ today }}')),
        (pieces) => {
          expect(shown(pieces.join(''))).not.toMatch(/[{}%]/);
        },
      ),
    );
  });
});
