import {
  accept,
  findingKey,
  findingsOf,
  openWarnings,
  type Finding,
  type Loop,
  type Surroundings,
} from '../src';
import { makeEdits } from '../src/loops/edit/loopEdit';
import { writeLoopFile, readLoopFile } from '../src/loops/file/loopFile';
import { loopOf, trialSession } from './support';

const CUES = '[{ id: k, kind: keyword, words: [go], match: exactly }]';
const loop = (steps: string, { cues = CUES, scenes = '', name = 'L', lines = '[]' } = {}): Loop =>
  loopOf(
    `{ format: dart-loop/1, name: ${name}, lines: ${lines}, cues: ${cues}, scenes: [{ id: one, name: One, steps: ${steps} }${scenes}] }`,
  );
const SAY = '[{ id: s, kind: say, text: Hello }]';
const line = (channel: 'sms' | 'whatsapp' | 'messenger' | 'instagram' | 'telegram') => ({
  key: channel,
  channel,
  name: channel,
});
const lines = (...channels: Parameters<typeof line>[0][]): Surroundings => ({ lines: channels.map(line) });
const NO_REPLY = 'noReply: { after: 2h, to: end }';
const two = ', { id: two, name: Two, steps: [{ id: t, kind: say, text: There }] }';

interface Case {
  code: Finding['code'];
  has: Loop;
  hasNot: Loop;
  known?: Surroundings;
  /** Whether it can be taken away in one tap. */
  fixed: boolean;
}

const CASES: Case[] = [
  { code: 'no cue', has: loop(SAY, { cues: '[]' }), hasNot: loop(SAY), fixed: false },
  { code: 'no scene', has: { ...loop(SAY), scenes: [] }, hasNot: loop(SAY), fixed: false },
  {
    code: 'empty scene',
    has: { ...loop(SAY), scenes: [...loop(SAY).scenes, { id: 'z', name: 'Z', steps: [] }] },
    hasNot: loop(SAY),
    fixed: true,
  },
  {
    code: 'unknown line',
    has: loop(SAY, { lines: '[fax, sms]' }),
    hasNot: loop(SAY, { lines: '[sms]' }),
    known: lines('sms'),
    fixed: true,
  },
  {
    code: 'unknown line',
    has: loop(SAY, { cues: '[{ id: k, kind: keyword, words: [go], match: exactly, lines: [fax] }]' }),
    hasNot: loop(SAY),
    known: lines('sms'),
    fixed: true,
  },
  {
    code: 'too many patterns',
    has: loop(SAY, {
      cues: '[{ id: k, kind: keyword, match: pattern, words: ["[a-z]{1,60}x", "[a-z]{1,60}y", "[a-z]{1,60}z"] }]',
    }),
    hasNot: loop(SAY, {
      cues: '[{ id: k, kind: keyword, match: pattern, words: ["[a-z]{1,60}x", "[a-z]{1,60}y"] }]',
    }),
    fixed: false,
  },
  {
    code: 'too many patterns',
    has: loop(SAY, { cues: '[{ id: k, kind: keyword, match: pattern, words: ["go+"] }]' }),
    hasNot: loop(SAY),
    known: {
      others: [
        loop(SAY, {
          name: 'Other',
          cues: `[{ id: k, kind: keyword, match: pattern, words: [${Array.from({ length: 50 }, (_, at) => `"p${at}"`)}] }]`,
        }),
      ],
    } as Surroundings,
    fixed: false,
  },
  {
    code: 'double id',
    has: {
      ...loop(SAY),
      scenes: [...loop(SAY).scenes, { id: 'one', name: 'Again', steps: [{ id: 'x', kind: 'end' }] }],
    },
    hasNot: loop(SAY),
    fixed: false,
  },
  {
    code: 'missing target',
    has: {
      ...loop(SAY),
      scenes: [
        {
          id: 'one',
          name: 'One',
          steps: [
            { id: 's', kind: 'say', text: 'x' },
            { id: 'g', kind: 'go', to: 'nowhere' },
          ],
        },
      ],
    },
    hasNot: loop('[{ id: s, kind: say, text: x }, { kind: go, to: two }]', { scenes: two }),
    fixed: true,
  },
  {
    code: 'missing loop',
    has: loop('[{ kind: go, loop: Other }]'),
    hasNot: loop(SAY),
    known: { others: [] },
    fixed: false,
  },
  {
    code: 'missing calendar',
    has: loop('[{ kind: book, calendar: Gone, text: When?, day: d, time: t }]'),
    hasNot: loop('[{ kind: book, calendar: trial SESSION, text: When?, day: d, time: t }]'),
    known: { calendars: [trialSession()] },
    fixed: false,
  },
  {
    code: 'no sources',
    has: loop('[{ kind: answer, person: end }]'),
    hasNot: loop(SAY),
    known: { hasSources: false },
    fixed: false,
  },
  {
    code: 'sheet not as expected',
    has: loop('[{ kind: answer, person: end }]'),
    hasNot: loop(SAY),
    known: { hasSources: true, sheet: { unexpected: 2, isStale: false } },
    fixed: false,
  },
  {
    code: 'nobody behind the answers',
    has: loop('[{ kind: answer }]'),
    hasNot: loop('[{ kind: answer, notKnown: { to: end } }]'),
    known: { hasSources: true },
    fixed: false,
  },
  {
    code: 'missing segment',
    has: loop('[{ kind: split, arms: [{ when: { all: [{ open: true }, { segment: Gone }] }, to: end }] }]'),
    hasNot: loop('[{ kind: split, arms: [{ when: { segment: regulars }, to: end }] }]'),
    known: { segments: { regulars: { tag: 'regular' } } },
    fixed: false,
  },
  {
    code: 'loop at rest',
    has: loop('[{ kind: go, loop: Other }]'),
    hasNot: loop(SAY),
    known: {
      others: [loop(SAY, { name: 'Other', cues: '[{ kind: keyword, words: [x1], match: exactly }]' })],
      resting: ['Other'],
    },
    fixed: false,
  },
  {
    code: 'scene never reached',
    has: loop(SAY, { scenes: two }),
    hasNot: loop('[{ kind: go, to: two }]', { scenes: two }),
    fixed: true,
  },
  {
    code: 'step never reached',
    has: loop('[{ kind: end }, { kind: say, text: x }]'),
    hasNot: loop(SAY),
    fixed: true,
  },
  {
    code: 'circle',
    has: loop('[{ kind: say, text: x }, { kind: go, to: one }]'),
    hasNot: loop(SAY),
    fixed: false,
  },
  {
    code: 'loops in a circle',
    has: loop('[{ kind: set, changes: [{ do: add tag, tag: b }] }, { kind: say, text: x }]', {
      name: 'A',
      cues: '[{ kind: tag, tag: a, when: added }]',
    }),
    hasNot: loop('[{ kind: say, text: x }]', { name: 'A', cues: '[{ kind: tag, tag: a, when: added }]' }),
    known: {
      others: [
        loop('[{ kind: set, changes: [{ do: add tag, tag: a }] }]', {
          name: 'B',
          cues: '[{ kind: tag, tag: b, when: added }]',
        }),
      ],
    },
    fixed: false,
  },
  {
    code: 'falls silent',
    has: loop(`[{ kind: ask, text: Email?, reply: email, field: email, ${NO_REPLY} }]`),
    hasNot: loop(
      `[{ kind: ask, text: Email?, reply: email, field: email, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
    ),
    fixed: false,
  },
  {
    code: 'no way out',
    has: loop('[{ kind: ask, text: N?, reply: number, field: n }, { kind: say, text: Thanks }]'),
    hasNot: loop(
      `[{ kind: ask, text: N?, reply: number, field: n, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
    ),
    fixed: true,
  },
  {
    code: 'hand-over to nobody',
    has: loop('[{ kind: hand over, text: Wait }]'),
    hasNot: loop('[{ kind: hand over, text: Wait, giveUp: { after: 1d, to: end } }]'),
    fixed: true,
  },
  {
    code: 'keyword never heard',
    has: loop(SAY, { cues: '[{ id: k, kind: keyword, words: [STOP, go], match: exactly }]' }),
    hasNot: loop(SAY),
    fixed: true,
  },
  {
    code: 'lettered keyword',
    has: loop(SAY, { cues: '[{ id: k, kind: keyword, words: ["b", go], match: exactly }]' }),
    hasNot: loop(SAY),
    fixed: true,
  },
  {
    code: 'keyword taken',
    has: loop(SAY, { cues: '[{ id: k, kind: keyword, words: [open, go], match: exactly }]' }),
    hasNot: loop(SAY),
    known: {
      others: [loop(SAY, { name: 'Hours', cues: '[{ kind: keyword, words: [OPEN], match: exactly }]' })],
    },
    fixed: true,
  },
  {
    code: 'keyword shadowed',
    has: loop(SAY, { cues: '[{ id: k, kind: keyword, words: [open now, go], match: whole word }]' }),
    hasNot: loop(SAY, { cues: '[{ id: k, kind: keyword, words: [opener], match: whole word }]' }),
    known: {
      others: [loop(SAY, { name: 'Hours', cues: '[{ kind: keyword, words: [OPEN], match: first word }]' })],
    },
    fixed: true,
  },
  {
    code: 'merge field',
    has: loop('[{ kind: say, text: "{{ person.x | shout }}" }]'),
    hasNot: loop(SAY),
    fixed: false,
  },
  {
    code: 'unknown answer',
    has: loop('[{ kind: say, text: "{{ answers.size }}" }]'),
    hasNot: loop(SAY),
    fixed: false,
  },
  {
    code: 'brief entry missing',
    has: loop('[{ kind: say, text: "Call {{ brief.phone }}" }]'),
    hasNot: loop('[{ kind: say, text: "Call {{ brief.phone | default: \'us\' }}" }]'),
    known: { brief: {} },
    fixed: false,
  },
  {
    code: 'may be empty',
    has: loop(
      '[{ id: s, kind: say, text: "Hello {{ person.first_name }}, {{ person.first_name | upcase }}" }]',
    ),
    hasNot: loop('[{ kind: say, text: "Hello {{ person.first_name | default: \\"there\\" }}" }]'),
    fixed: true,
  },
  {
    code: 'may be empty',
    has: loop('[{ id: s, kind: say, text: "Hello {{ person.first_name }}" }]'),
    hasNot: loop(
      `[{ kind: ask, text: Size?, reply: text, field: size, ${NO_REPLY} }, { kind: say, text: "{{ person.size }}, {{ answers.size }}" }]`,
    ),
    fixed: true,
  },
  {
    code: 'field type',
    has: loop(
      `[{ id: a, kind: ask, text: N?, reply: number, field: n, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
    ),
    hasNot: loop(
      `[{ id: a, kind: ask, text: N?, reply: number, field: m, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
    ),
    known: { types: { n: 'date' } },
    fixed: true,
  },
  {
    code: 'value',
    has: loop('[{ kind: set, changes: [{ do: field, field: n, value: many }] }]'),
    hasNot: loop('[{ kind: set, changes: [{ do: field, field: n, value: "3" }] }]'),
    known: { types: { n: 'number' } },
    fixed: false,
  },
  {
    code: 'skip word taken',
    has: loop(
      `[{ kind: ask, text: Which?, reply: one of, field: f, options: [{ label: Boat }, { label: None }], skip: {}, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
    ),
    hasNot: loop(
      `[{ kind: ask, text: Which?, reply: one of, field: f, options: [{ label: Boat }, { label: Bus }], skip: {}, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
    ),
    fixed: true,
  },
  {
    code: 'alert to nobody',
    has: loop('[{ id: s, kind: say, text: Hello }, { kind: alert, by: email, to: [], text: x }]'),
    hasNot: loop(SAY),
    fixed: true,
  },
  {
    code: 'destination failing',
    has: loop('[{ kind: send out, address: "https://crm.example.org/x" }, { kind: say, text: Done }]'),
    hasNot: loop('[{ kind: send out, address: "https://crm.example.org/y" }, { kind: say, text: Done }]'),
    known: { failing: { 'https://crm.example.org/x': 'it was answered 503' } },
    fixed: false,
  },
  {
    code: 'missing destination',
    has: loop('[{ kind: send out, destination: Gone }, { kind: say, text: Done }]'),
    hasNot: loop(
      '[{ kind: send out, destination: register }, { kind: send out, destination: Old name }, { kind: say, text: Done }]',
    ),
    known: { destinations: [{ name: 'Register', before: ['Old name'], state: 'on', failure: null }] },
    fixed: false,
  },
  {
    code: 'destination at rest',
    has: loop('[{ kind: send out, destination: Register }, { kind: say, text: Done }]'),
    hasNot: loop('[{ kind: send out, destination: Sheet }, { kind: say, text: Done }]'),
    known: {
      destinations: [
        { name: 'Register', before: [], state: 'paused', failure: null },
        { name: 'Sheet', before: [], state: 'on', failure: null },
      ],
    },
    fixed: false,
  },
  {
    code: 'label cut',
    has: loop(
      `[{ kind: say, text: Which?, choices: [{ label: The long way round the island by boat, to: two }, { label: Bus, to: two }], ${NO_REPLY} }]`,
      { scenes: two },
    ),
    hasNot: loop(
      `[{ kind: say, text: Which?, choices: [{ label: Boat, to: two }, { label: Bus, to: two }], ${NO_REPLY} }]`,
      {
        scenes: two,
      },
    ),
    known: lines('messenger', 'instagram'),
    fixed: false,
  },
  {
    code: 'text in pieces',
    has: loop(`[{ kind: say, text: "${'word '.repeat(300)}" }]`),
    hasNot: loop(SAY),
    known: lines('instagram'),
    fixed: false,
  },
  {
    code: 'choices in pages',
    has: loop(
      `[{ kind: say, text: Which?, choices: [${Array.from({ length: 14 }, (_, at) => `{ label: No ${at}, to: two }`).join()}], ${NO_REPLY} }]`,
      { scenes: two },
    ),
    hasNot: loop(`[{ kind: say, text: Which?, choices: [{ label: Boat, to: two }], ${NO_REPLY} }]`, {
      scenes: two,
    }),
    known: lines('messenger'),
    fixed: false,
  },
  {
    code: 'dear character',
    has: loop('[{ id: s, kind: say, text: "It’s here – now" }]'),
    hasNot: loop(SAY),
    known: lines('sms'),
    fixed: true,
  },
  {
    code: 'dear character',
    has: loop('[{ id: s, kind: say, text: "Here 🎉" }]'),
    hasNot: loop(SAY),
    known: lines('sms'),
    fixed: false,
  },
  {
    code: 'sms parts',
    has: loop(`[{ kind: say, text: "${'word '.repeat(60)}" }]`),
    hasNot: loop(SAY),
    known: lines('sms'),
    fixed: false,
  },
  {
    code: 'window shut',
    has: loop('[{ kind: say, text: Soon }, { id: w, kind: wait, for: 2d }, { kind: say, text: Now }]'),
    hasNot: loop('[{ kind: say, text: Soon }, { kind: wait, for: 2h }, { kind: say, text: Now }]'),
    known: lines('messenger', 'sms'),
    fixed: true,
  },
  {
    code: 'window shut',
    has: loop(
      '[{ id: a, kind: ask, text: N?, reply: text, field: n, noReply: { after: 1d, to: two } }, { kind: say, text: Thanks }]',
      {
        scenes: two,
      },
    ),
    hasNot: loop('[{ kind: say, text: Soon }, { kind: wait, for: 20h }, { kind: say, text: Now }]'),
    known: lines('whatsapp'),
    fixed: true,
  },
  {
    code: 'late reminder',
    has: loop(
      '[{ kind: ask, text: N?, reply: text, field: n, reminders: [{ after: 3h, text: Still there? }, { after: 2d, text: Last call }], noReply: { after: 3d, to: end } }, { kind: say, text: Thanks }]',
    ),
    hasNot: loop(
      '[{ kind: ask, text: N?, reply: text, field: n, reminders: [{ after: 3h, text: Still there? }], noReply: { after: 20h, to: end } }, { kind: say, text: Thanks }]',
    ),
    known: lines('messenger', 'sms'),
    fixed: false,
  },
  {
    code: 'held after a comment',
    has: loop('[{ kind: say, text: One }, { kind: say, text: Two }]', { cues: '[{ kind: comment }]' }),
    hasNot: loop(SAY, { cues: '[{ kind: comment }]' }),
    known: lines('instagram'),
    fixed: false,
  },
  {
    code: 'template',
    has: loop('[{ kind: say, text: Still there?, whenShut: { do: template, name: still_there } }]'),
    hasNot: loop(SAY),
    known: lines('whatsapp'),
    fixed: false,
  },
  {
    code: 'no opt-in',
    has: loop(SAY, { cues: '[{ id: k, kind: silence, after: 5d }]' }),
    hasNot: loop(SAY),
    known: lines('sms'),
    fixed: false,
  },
  {
    code: 'no opt-in',
    has: loop('[{ kind: set, changes: [{ do: join list, list: News }] }, { kind: say, text: Welcome }]'),
    hasNot: loop(
      `[{ kind: say, text: News?, choices: [{ label: Yes, to: two }, { label: No, to: end }], ${NO_REPLY} }]`,
      {
        scenes:
          ', { id: two, name: Two, steps: [{ kind: set, changes: [{ do: join list, list: News }] }, { kind: say, text: Done }] }',
      },
    ),
    fixed: false,
  },
  {
    code: 'no privacy link',
    has: loop(SAY, { cues: '[{ kind: lead form, forms: ["1"] }]' }),
    hasNot: loop(SAY),
    known: { brief: {} },
    fixed: false,
  },
  {
    code: 'required and skippable',
    has: loop(
      `[{ id: q, kind: ask, text: Email?, reply: email, field: email, skip: {}, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
      {
        cues: '[{ kind: ad click, ads: ["1"], required: [q] }]',
      },
    ),
    hasNot: loop(
      `[{ id: q, kind: ask, text: Email?, reply: email, field: email, ${NO_REPLY} }, { kind: say, text: Thanks }]`,
      {
        cues: '[{ kind: ad click, ads: ["1"], required: [q] }]',
      },
    ),
    fixed: true,
  },
  {
    code: 'answer leads nowhere',
    has: loop(
      `[{ kind: say, text: Go?, choices: [{ label: Yes, to: two }, { label: No, to: end }], ${NO_REPLY} }]`,
      {
        scenes: two,
        cues: '[{ kind: ad click, ads: ["1"] }]',
      },
    ),
    hasNot: loop(
      `[{ kind: say, text: Go?, choices: [{ label: Yes, to: two }, { label: No, to: two }], ${NO_REPLY} }]`,
      {
        scenes: two,
        cues: '[{ kind: ad click, ads: ["1"] }]',
      },
    ),
    fixed: false,
  },
  {
    code: 'answers alike',
    has: loop(
      `[{ kind: say, text: Go?, choices: [{ id: a, label: Yes, to: two }, { id: b, label: "yes!", to: two }], ${NO_REPLY} }]`,
      {
        scenes: two,
        cues: '[{ kind: ad click, ads: ["1"] }]',
      },
    ),
    hasNot: loop(SAY, { cues: '[{ kind: ad click, ads: ["1"] }]' }),
    fixed: false,
  },
  {
    code: 'language missing',
    has: loop('[{ kind: say, text: Hello, variants: { es: { text: Hola } } }, { kind: say, text: Bye }]'),
    hasNot: loop(
      '[{ kind: say, text: Hello, variants: { es: { text: Hola } } }, { kind: say, text: Bye, variants: { es: { text: Chau } } }]',
    ),
    known: {
      client: { name: 'K', country: 'GB', timeZone: 'UTC', languages: ['en', 'es'], openingHours: {} },
    },
    fixed: false,
  },
  {
    code: 'long path',
    has: loop(`[${Array.from({ length: 6 }, (_, at) => `{ kind: say, text: No ${at} }`).join()}]`),
    hasNot: loop(SAY),
    known: { ...lines('telegram'), limits: { messages: 5, price: 1_000 } },
    fixed: false,
  },
  {
    code: 'file missing',
    has: loop('[{ kind: say, text: Look, media: { what: image, address: "{{ file.plan }}" } }]'),
    hasNot: loop('[{ kind: say, text: Look, media: { what: image, address: "{{ file.map }}" } }]'),
    known: { files: { map: '/files/x/1-map.png' } },
    fixed: false,
  },
  {
    code: 'dear path',
    has: loop(`[${Array.from({ length: 6 }, (_, at) => `{ kind: say, text: No ${at} }`).join()}]`),
    hasNot: loop(SAY),
    known: { ...lines('sms'), limits: { messages: 50, price: 200 } },
    fixed: false,
  },
];

/** Every code, so that a new one without a case does not compile. */
const ALL: Record<Finding['code'], true> = {
  'alert to nobody': true,
  'answer leads nowhere': true,
  'answers alike': true,
  'brief entry missing': true,
  'choices in pages': true,
  circle: true,
  'dear character': true,
  'destination failing': true,
  'missing destination': true,
  'destination at rest': true,
  'dear path': true,
  'double id': true,
  'empty scene': true,
  'falls silent': true,
  'field type': true,
  'file missing': true,
  'hand-over to nobody': true,
  'held after a comment': true,
  'keyword never heard': true,
  'keyword shadowed': true,
  'keyword taken': true,
  'label cut': true,
  'language missing': true,
  'late reminder': true,
  'lettered keyword': true,
  'long path': true,
  'loop at rest': true,
  'loops in a circle': true,
  'may be empty': true,
  'merge field': true,
  'missing loop': true,
  'missing calendar': true,
  'no sources': true,
  'nobody behind the answers': true,
  'sheet not as expected': true,
  'missing segment': true,
  'missing target': true,
  'no cue': true,
  'no opt-in': true,
  'no privacy link': true,
  'no scene': true,
  'no way out': true,
  'required and skippable': true,
  'scene never reached': true,
  'skip word taken': true,
  'sms parts': true,
  'step never reached': true,
  template: true,
  'text in pieces': true,
  'too many patterns': true,
  'unknown answer': true,
  'unknown line': true,
  value: true,
  'window shut': true,
};

const withCode = (of: Loop, code: string, known?: Surroundings) =>
  findingsOf(of, known).filter((finding) => finding.code === code);

describe('every finding', () => {
  test.each(CASES.map((each, at) => [`${at + 1} ${each.code}`, each] as const))(
    '%s: a loop that has it, one that does not, and its fix',
    (_name, each) => {
      const found = withCode(each.has, each.code, each.known);
      expect(found.length).toBeGreaterThan(0);
      expect(withCode(each.hasNot, each.code, each.known)).toEqual([]);
      for (const { reason, severity } of found) {
        expect(reason).toMatch(/^[A-Z“{].*\.$/s);
        expect(['stops', 'warns', 'notes']).toContain(severity);
      }
      const [first] = found;
      expect(first!.fix !== null).toBe(each.fixed);
      if (!first!.fix) return;
      const mended = makeEdits(each.has, first!.fix.edits);
      // What is left is fewer, and the loop can still be written and read.
      expect(withCode(mended, each.code, each.known).map(findingKey)).not.toContain(findingKey(first!));
      expect(readLoopFile(writeLoopFile(mended, 'yaml'))).toMatchObject({ ok: true });
      for (const { code, reason } of findingsOf(mended, each.known).filter(
        ({ severity }) => severity === 'stops',
      ))
        expect([
          code,
          reason,
          findingsOf(each.has, each.known).some((before) => before.code === code),
        ]).toEqual([code, reason, true]);
    },
  );
  test('there is a case for each', () => {
    const asked = new Set<string>(CASES.map(({ code }) => code));
    expect(Object.keys(ALL).filter((code) => !asked.has(code))).toEqual([]);
  });
});

test('a warning is accepted with a reason, over edits elsewhere, and taken back; a changed one is open again', () => {
  const risky = loop('[{ id: s, kind: say, text: "Hello {{ person.nickname }}" }]');
  const [warning] = openWarnings(findingsOf(risky));
  const accepted = accept(risky, warning!, 'We know them all');
  expect(openWarnings(findingsOf(accepted))).toEqual([]);
  expect(findingsOf(accepted)[0]).toMatchObject({ accepted: 'We know them all' });
  const moved = {
    ...accepted,
    scenes: [
      { id: 'zero', name: 'Zero', steps: [{ id: 'z', kind: 'go' as const, to: 'one' }] },
      ...accepted.scenes,
    ],
  };
  expect(openWarnings(findingsOf(moved))).toEqual([]);
  const other = makeEdits(accepted, [
    { edit: 'step', stepId: 's', path: ['text'], value: 'Hello {{ person.surname }}' },
  ]);
  expect(openWarnings(findingsOf(other))).toHaveLength(1);
  expect(accept(accepted, warning!, null)).toEqual(risky);
});
