import { Step, differences, exitsOf, kindOf, type Loop } from '../src';
import { loopOf } from './support';

const step = (value: object): Step => Step.parse({ id: 's', ...value });

describe('how the script words a step that has no text of its own', () => {
  test.each([
    [{ kind: 'wait', for: '2h' }, '2 h'],
    [{ kind: 'wait', until: { time: '09:00' } }, 'until 09:00'],
    [
      { kind: 'wait', until: { weekdays: ['monday', 'friday'], time: '09:00' } },
      'until Monday or Friday, 09:00',
    ],
    [
      { kind: 'wait', until: { field: 'trial_day', days: -2, time: '17:00' } },
      'until 2 days before the day in trial day, 17:00',
    ],
    [{ kind: 'wait', until: { field: 'trial_day', time: '17:00' } }, 'until the day in trial day, 17:00'],
    [{ kind: 'wait', until: { open: true } }, 'until it is open'],
    [
      {
        kind: 'set',
        changes: [
          { do: 'calculate', field: 'party_size', by: 'plus', amount: '1' },
          { do: 'add tag', tag: 'vip' },
          { do: 'clear', field: 'note' },
        ],
      },
      'party size plus 1; tag vip on; note cleared',
    ],
    [
      {
        kind: 'set',
        changes: [
          { do: 'join list', list: 'News' },
          { do: 'opt in' },
          { do: 'now', field: 'seen' },
          { do: 'copy', field: 'a', from: 'b' },
        ],
      },
      'list News joined; opted in on this line; seen = now; a = copy of b',
    ],
    [{ kind: 'go', loop: 'Hours', back: true }, 'to the loop “Hours”, and back'],
    [{ kind: 'go', loop: 'Hours', scene: 'two' }, 'to the loop “Hours”, scene two'],
    [{ kind: 'go', to: 'end' }, ''],
    [{ kind: 'hand over' }, 'to whoever is there.'],
    [
      { kind: 'hand over', to: 'desk', note: 'x', text: 'One moment.', offDuty: { text: 'Closed.' } },
      'to desk, with the note “x”. Says “One moment.” When nobody is on duty: “Closed.”',
    ],
    [{ kind: 'alert', by: 'sms', to: ['+447700900111'], text: 'Come.' }, '+447700900111 by SMS: “Come.”'],
    [
      { kind: 'alert', by: 'email', to: [], subject: 'Help', text: 'Come.' },
      'nobody yet by email: “Help. Come.”',
    ],
    [{ kind: 'send out', address: 'https://crm.example.org/x' }, 'to https://crm.example.org/x'],
    [{ kind: 'send out', destination: 'Customer register' }, 'to Customer register'],
    [{ kind: 'book', calendar: 'Trial session', text: 'When?', day: 'd', time: 't' }, 'in Trial session'],
    [{ kind: 'end' }, 'the run ends here'],
  ])('%j', (value, words) => expect(kindOf(step(value)).words(step(value))).toBe(words));
});

describe('every way out is told, and where it stands in the step', () => {
  test.each<[object, [string, string, (string | number)[]][]]>([
    [
      {
        kind: 'ask',
        text: 'x',
        reply: 'one of',
        field: 'f',
        options: [
          { id: 'a', label: 'A', to: 'end' },
          { id: 'b', label: 'B' },
        ],
        skip: { to: 'end', label: 'Rather not' },
        somethingElse: 'next',
        dontKnow: 'next',
        cancel: 'end',
        noReply: { after: '2h', to: 'end' },
      },
      [
        ['A', 'end', ['options', 0, 'to']],
        ['Rather not', 'end', ['skip', 'to']],
        ['something else', 'next', ['somethingElse']],
        ['does not know', 'next', ['dontKnow']],
        ['never mind', 'end', ['cancel']],
        ['no reply in 2 h', 'end', ['noReply', 'to']],
      ],
    ],
    [
      { kind: 'split', arms: [{ when: { tag: 'vip' }, to: 'end' }], unknown: 'next', otherwise: 'end' },
      [
        ['tagged vip', 'end', ['arms', 0, 'to']],
        ['not known', 'next', ['unknown']],
        ['otherwise', 'end', ['otherwise']],
      ],
    ],
    [
      {
        kind: 'vary',
        arms: [
          { id: 'a', weight: 1, to: 'end' },
          { id: 'b', weight: 3, to: 'next' },
        ],
      },
      [
        ['arm a, weight 1', 'end', ['arms', 0, 'to']],
        ['arm b, weight 3', 'next', ['arms', 1, 'to']],
      ],
    ],
    [
      { kind: 'hand over', offDuty: { text: 'x', to: 'end' }, giveUp: { after: '30m', to: 'end' } },
      [
        ['nobody on duty', 'end', ['offDuty', 'to']],
        ['nobody stepped in for 30 min', 'end', ['giveUp', 'to']],
      ],
    ],
    [
      { kind: 'send out', address: 'https://crm.example.org', failed: 'end' },
      [['not delivered', 'end', ['failed']]],
    ],
    [
      { kind: 'book', calendar: 'Visits', text: 'When?', day: 'd', time: 't', full: 'end' },
      [['nothing free', 'end', ['full']]],
    ],
    [{ kind: 'wait', for: '1h' }, []],
    [{ kind: 'alert', by: 'email', to: [], text: 'x' }, []],
  ])('%j', (value, exits) =>
    expect(exitsOf(step(value)).map((exit) => [exit.words, exit.to, exit.path])).toEqual(exits),
  );
});

describe('what differs, in words', () => {
  const loop = (steps: string, cues = '[{ id: k, kind: keyword, words: [go], match: exactly }]'): Loop =>
    loopOf(
      `{ format: dart-loop/1, name: L, cues: ${cues}, scenes: [{ id: one, name: One, steps: ${steps} }] }`,
    );
  const SAY = '{ id: a, kind: say, text: x }';
  test.each([
    [
      'a step of each kind added',
      `[${SAY}]`,
      `[${SAY}, { id: w, kind: wait, for: 1h }, { id: h, kind: hand over }, { id: o, kind: send out, address: "https://crm.example.org" }]`,
      ['scene 1: wait added, hand-over added, sending out added'],
    ],
    [
      'a wait changed',
      '[{ id: w, kind: wait, for: 1h }]',
      '[{ id: w, kind: wait, for: 2h }]',
      ['scene 1: wait changed'],
    ],
    [
      'an exit added to a hand-over',
      '[{ id: h, kind: hand over }]',
      '[{ id: h, kind: hand over, giveUp: { after: 1h, to: end } }]',
      ['scene 1: exit added'],
    ],
    [
      'an alert reworded',
      '[{ id: t, kind: alert, by: email, to: [], text: x }]',
      '[{ id: t, kind: alert, by: email, to: [], text: y }]',
      ['scene 1: alert reworded'],
    ],
    [
      'an arm pointed elsewhere',
      '[{ id: s, kind: split, arms: [{ when: { tag: a }, to: end }] }]',
      '[{ id: s, kind: split, arms: [{ when: { tag: a }, to: next }] }]',
      ['scene 1: target changed'],
    ],
    [
      'an option added',
      '[{ id: q, kind: ask, text: x, reply: one of, field: f, options: [{ id: a, label: A }, { id: b, label: B }] }]',
      '[{ id: q, kind: ask, text: x, reply: one of, field: f, options: [{ id: a, label: A }, { id: b, label: B }, { id: c, label: C }] }]',
      ['scene 1: choice added'],
    ],
    ['a kind changed', `[${SAY}]`, '[{ id: a, kind: end }]', ['scene 1: text became end']],
    ['nothing', `[${SAY}]`, `[${SAY}]`, []],
  ])('%s', (_what, before, after, words) => expect(differences(loop(before), loop(after))).toEqual(words));
  test('cues of every kind', () => {
    const before = loop(`[${SAY}]`);
    expect(
      differences(
        before,
        loop(
          `[${SAY}]`,
          '[{ id: k, kind: keyword, words: [go], match: exactly, again: once }, { id: s, kind: silence, after: 5d }]',
        ),
      ),
    ).toEqual(['cue changed: “go” exactly', 'cue added: nothing heard for 5 d']);
  });
});
