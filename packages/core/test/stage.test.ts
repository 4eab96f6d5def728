import { PLACES, stageWords, type Note } from '../src';

/** Every note there is, and the sentence it becomes. */
const SENTENCES: [Note, string][] = [
  [{ code: 'cue heard', loop: 'Hours', how: 'by the link or QR code “hours”' }, 'By the link or QR code “hours”. Hours begins.'],
  [{ code: 'waits', until: Date.UTC(2026, 10, 25, 9, 0), zone: 'Europe/Madrid' }, 'Waits until Wed 25 Nov, 10:00.'],
  [{ code: 'stepped in', by: 'Ines' }, 'Ines stepped in. The loop holds still.'],
  [{ code: 'delivered', ok: false, reason: 'it was answered 500', to: '4 By hand' }, 'Not delivered: it was answered 500. To 4 By hand.'],
  [
    { code: 'chain cut', loop: 'B', reason: 'loops have started each other 5 times without the person' },
    'B was not started: loops have started each other 5 times without the person.',
  ],
  [
    { code: 'late tap', loop: 'Sailing alerts', label: 'Not today' },
    '“Not today” was tapped late. Sailing alerts starts again from that choice.',
  ],
  [{ code: 'run replaced', loop: 'Newsletter' }, 'The run of Newsletter that was under way gives way.'],
  [{ code: 'choice read', label: 'Yes', how: 'tap', to: '2 Which island' }, 'Tapped “Yes”. To 2 Which island.'],
  [{ code: 'choice read', label: 'Yes', how: 'letter', to: '2 Which island' }, 'Read as “Yes”, by its letter. To 2 Which island.'],
  [
    { code: 'choice read', label: 'Little Skerry', how: 'close to its label', to: 'the end' },
    'Read as “Little Skerry”, close to its label. To the end.',
  ],
  [
    { code: 'reply read', type: 'email', field: 'email', value: { type: 'email', value: 'mira@example.org' } },
    'Read as an email address. email = mira@example.org.',
  ],
  [{ code: 'reply read', type: 'number', field: 'seats', value: { type: 'number', value: 2 } }, 'Read as a number. seats = 2.'],
  [
    { code: 'reply read', type: 'phone', field: 'phone', value: { type: 'phone', value: '+447700900123' } },
    'Read as a phone number. phone = +447700900123.',
  ],
  [{ code: 'reply read', type: 'yes/no', field: 'bicycle', value: { type: 'yes/no', value: false } }, 'Read as yes or no. bicycle = no.'],
  [{ code: 'reply read', type: 'text', field: 'note', value: { type: 'text', value: 'hi' } }, 'Read as text. note = hi.'],
  [
    { code: 'could not read', reason: 'there is no number in it', tries: 1, of: 2 },
    'Could not be read: there is no number in it (retry 1 of 2).',
  ],
  [{ code: 'could not read', reason: 'there is no number in it', tries: 3, of: 2 }, 'Could not be read: there is no number in it.'],
  [{ code: 'gave up', to: '7 Without email' }, 'No retries left. To 7 Without email.'],
  [{ code: 'no reply', after: '3h', to: '9 Nudge' }, 'No reply in 3 h. To 9 Nudge.'],
  [{ code: 'no reply', after: '30m', to: 'the end' }, 'No reply in 30 min. To the end.'],
  [{ code: 'field set', field: 'crossing', value: { type: 'text', value: 'Orrin' } }, 'crossing = Orrin.'],
  [{ code: 'field not set', field: 'seats', reason: 'there is no number in it' }, 'seats was not set: there is no number in it.'],
  [{ code: 'tag', tag: 'alerts', on: true }, 'Tag alerts on.'],
  [{ code: 'tag', tag: 'alerts', on: false }, 'Tag alerts off.'],
  [{ code: 'went', to: '3 Email' }, 'To 3 Email.'],
  [{ code: 'finished', loop: 'Sailing alerts' }, 'Sailing alerts is finished.'],
  [{ code: 'circle', scene: 'Welcome' }, 'Stopped in Welcome: it goes round in a circle without waiting for the person.'],
  [{ code: 'unusable', reason: 'scene “x” is missing' }, 'Cannot be done: scene “x” is missing.'],
  [{ code: 'nobody', reason: 'no cue hears this' }, 'Nobody answers: no cue hears this. The conversation waits for a person.'],
];

test.each(SENTENCES)('%#: %j', (note, sentence) => expect(stageWords(note)).toBe(sentence));

test('places of the order rise as they are written, and keep their numbers', () => {
  expect(Object.values(PLACES)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
  expect(PLACES).toMatchObject({
    'tapped choice': 4,
    'waiting run can read it': 6,
    'other cue': 7,
    'waiting run cannot read it': 8,
    nobody: 12,
  });
});
