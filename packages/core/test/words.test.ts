import fc from 'fast-check';
import { fold, merge, mergeWords, parseMerge, readChoice, readChoices, slips } from '../src';
import { FERRIES, NINE, nobodyYet } from './support';

describe('folding', () => {
  test.each([
    ['  SAILINGS!! ', 'sailings'],
    ['Café', 'cafe'],
    ['Ｏｐｅｎ', 'open'],
    ["don't", 'dont'],
    ['open 🎉 now', 'open now'],
    ['Ünïcode—dash', 'unicode dash'],
    ['🎉', ''],
    ['Привет, МИР', 'привет мир'],
  ])('%s becomes “%s”', (text, folded) => expect(fold(text)).toBe(folded));
  test('folding twice changes nothing', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => expect(fold(fold(text))).toBe(fold(text))),
    ));
});

test('slips count letters added, left out, changed and swapped', () => {
  expect(slips('skerry', 'skerry', 2)).toBe(0);
  expect(slips('skery', 'skerry', 2)).toBe(1);
  expect(slips('sekrry', 'skerry', 2)).toBe(1);
  expect(slips('orrin', 'skerry', 2)).toBe(3);
});

describe('reading a choice in words', () => {
  const choices = [
    { id: 'orrin', label: 'Harwick to Saint Orrin' },
    { id: 'skerry', label: 'Harwick to Little Skerry' },
    { id: 'none', label: 'Neither' },
  ];
  test.each([
    ['a', 'orrin', 'letter'],
    ['B.', 'skerry', 'letter'],
    ['b Harwick to Little Skerry', 'skerry', 'letter'],
    ['2', 'skerry', 'number'],
    ['neither', 'none', 'label'],
    ['skerry', 'skerry', 'close to its label'],
    ['niether', 'none', 'close to its label'],
    ['little skery', 'skerry', 'close to its label'],
  ])('%s is %s, by %s', (text, id, how) =>
    expect(readChoice(text, choices)).toMatchObject({ ok: true, id, how }),
  );
  test.each(['harwick', 'd', '4', 'both', '', '🎉'])('“%s” is not guessed', (text) =>
    expect(readChoice(text, choices).ok).toBe(false),
  );
});

describe('merge fields', () => {
  const world = {
    client: FERRIES,
    now: NINE,
    zone: 'Europe/London',
    language: 'en',
    answers: {},
    line: { key: 'sms', name: 'the pier', channel: 'sms' as const },
    person: {
      ...nobodyYet,
      fields: {
        party_size: { type: 'number' as const, value: 3 },
        bicycle: { type: 'yes/no' as const, value: false },
      },
    },
  };
  test.each([
    ['Hello {{ person.first_name | default: "there" }}.', 'Hello Mira.'],
    ["{{person.email|default:'nobody yet'}}", 'nobody yet'],
    ['{{ person.party_size }} of you, bicycle {{ person.bicycle }}', '3 of you, bicycle no'],
    [
      '{{ brief.phone }} on {{ line.name }} of {{ client.name }}',
      '+44 1632 960144 on the pier of Saltmarsh Ferries',
    ],
    ['Hello {{ person.last_name }}, welcome', 'Hello, welcome'],
    ['{{ person.constructor }}{{ brief.toString }}x', 'x'],
    ['{{ 12.5 | money }}', '£12.50'],
    ['{{ person.party_size | times: 14 | money }} or {{ person.party_size | money: "EUR" }}', '£42 or €3'],
    ['{{ client.currency }}', 'GBP'],
    ['broken {{ person.email', 'broken person.email'],
    ['{{ delete everything }}left', 'left'],
  ])('%s', (text, merged) => expect(merge(text, world)).toBe(merged));
  test('braces never reach a person', () => {
    fc.assert(
      fc.property(
        fc
          .array(fc.constantFrom('{{', '}}', '{', '}', ' person.x ', 'a', '|'))
          .map((parts) => parts.join('')),
        (text) => expect(merge(text, world)).not.toMatch(/\{\{|\}\}/),
      ),
    );
  });
  test('what is wrong is named with its place', () => {
    const { problems } = parseMerge('Hi {{ first name }}');
    expect(problems).toHaveLength(1);
    expect(problems[0]!.at).toBe(3);
    expect(problems[0]!.reason).toContain('{{ first name }}');
    expect(parseMerge('Hi {{ person.email').problems).toHaveLength(1);
  });
  test('they read as words in the script', () => {
    expect(mergeWords('person.first_name', 'there')).toBe('first name, or “there”');
    expect(mergeWords('client.name', null)).toBe('client name');
  });
});

describe('several choices at once', () => {
  const options = ['Monday', 'Wednesday', 'Saturday morning'].map((label, at) => ({ id: `o${at}`, label }));
  test.each([
    ['A and C', ['o0', 'o2']],
    ['1, 3', ['o0', 'o2']],
    ['monday + saturday', ['o0', 'o2']],
    ['wedensday', ['o1']],
    ['all of them', ['o0', 'o1', 'o2']],
    ['b', ['o1']],
    ['ac', ['o0', 'o2']],
    ['saturday morning and a', ['o0', 'o2']],
  ])('%s', (text, ids) => expect(readChoices(text, options)).toMatchObject({ ok: true, ids }));
  test.each(['A and Z', 'none of these', '', 'maybe friday'])('“%s” is not guessed', (text) =>
    expect(readChoices(text, options).ok).toBe(false),
  );
});

describe('merge fields beyond a name', () => {
  const world = {
    client: FERRIES,
    line: { key: 'sms', name: 'the pier', channel: 'sms' as const },
    now: NINE,
    zone: 'Europe/London',
    language: 'en',
    answers: { crossing: { type: 'one of' as const, value: 'Orrin' } },
    person: {
      ...nobodyYet,
      tags: ['vip'],
      fields: {
        arrival: { type: 'date' as const, value: '2026-12-25' },
        total: { type: 'number' as const, value: 1250.5 },
        name: { type: 'text' as const, value: 'mira von tal' },
        days: { type: 'several of' as const, value: ['Monday', 'Friday'] },
      },
    },
  };
  test.each([
    ['{{ person.arrival | date: "long" }}', 'Friday 25 December 2026'],
    ['{{ person.arrival | date: "d MMM" }}', '25 Dec'],
    ['{{ person.total | number: 2 }}', '1,250.50'],
    ['{{ person.name | title }}, {{ person.name | first_name | upcase }}', 'Mira Von Tal, MIRA'],
    ['{{ answers.crossing }} from {{ today | date: "day" }}', 'Orrin from 24 November'],
    ['{% if person.tags contains "vip" %}Dear guest{% else %}Hello{% endif %}', 'Dear guest'],
    ['{{ person.total | times: 2 | round }}', '2501'],
    [
      "{{ person.days | default: 'none' }}, {{ person.days | size }} of them; {{ person.tags }} {{ today | date: 'd' }}",
      'Monday, Friday, 2 of them; vip 24',
    ],
    ['{{ person.days }}', 'Monday, Friday'],
    ['{{ person.missing | date: "long" }}|{{ person.missing | number }}|{{ person.missing | title }}', '||'],
  ])('%s', (text, merged) => expect(merge(text, world)).toBe(merged));
  test('in the person’s language', () =>
    expect(merge('{{ person.arrival | date: "day" }}', { ...world, language: 'es' })).toBe('25 diciembre'));
  test.each([
    ['Hi {{ person.name | shout }}', 4, 'there is no filter “shout”'],
    ['{% for a in person.tags %}x{% endfor %}', 1, '“for” is not allowed in a text'],
    ['{% layout "secret" %}', 1, '“layout” is not allowed'],
    ['Hi {{ secrets.key }}', 4, 'is not a merge field'],
    ['Hi {{ person }}', 4, 'needs a dot and a name'],
    ['Hi }} there', 4, 'one of the two is missing'],
  ])('%s is refused at character %d', (text, at, reason) => {
    const [problem] = parseMerge(text).problems;
    expect(problem!.at + 1).toBe(at);
    expect(problem!.reason).toContain(reason);
  });
});
