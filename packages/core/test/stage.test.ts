import { PLACES, stageWords, type Note } from '../src';

/** Every note there is, and the sentence it becomes. */
const SENTENCES: [Note, string][] = [
  [
    { code: 'cue heard', loop: 'Hours', how: 'by the link or QR code “hours”' },
    'By the link or QR code “hours”. Hours begins.',
  ],
  [
    { code: 'waits', until: Date.UTC(2026, 10, 25, 9, 0), zone: 'Europe/Madrid' },
    'Waits until Wed 25 Nov, 10:00.',
  ],
  [{ code: 'resumed', loop: 'Trial' }, 'Trial goes on where it was.'],
  [{ code: 'gathering', seconds: 20 }, 'Waits 20 s for more before reading it.'],
  [{ code: 'asked back', what: 'did you mean' }, 'Likely a slip of typing: asks whether another was meant.'],
  [{ code: 'reminded', after: '3h', nth: 1, of: 2 }, 'No reply in 3 h: reminder 1 of 2.'],
  [
    { code: 'text cut', kept: 4_096, of: 5_000 },
    'Only its first 4,096 of 5,000 characters are kept; the conversation has all of it.',
  ],
  [{ code: 'stop asked' }, 'May want no more messages: asks.'],
  [{ code: 'stop denied' }, 'Goes on being written to.'],
  [
    { code: 'language told', language: 'es' },
    'Writes in Spanish, and is answered in it from here on where the loop has words for it.',
  ],
  [{ code: 'asked back', what: 'still right' }, 'Known already: asks whether it is still right.'],
  [{ code: 'asked back', what: 'is that right' }, 'Not said outright: asks whether it was read right.'],
  [{ code: 'asked back', what: 'which of' }, 'It could be either of two: asks which.'],
  [{ code: 'asked back', what: 'which in' }, 'It names no single one: asks which in there.'],
  [
    { code: 'known already', field: 'email', value: { type: 'email', value: 'mira@example.org' } },
    'email is known: mira@example.org.',
  ],
  [{ code: 'skipped' }, 'The question was passed over.'],
  [{ code: 'called off', to: 'the end' }, 'Called off. To the end.'],
  [{ code: 'something else', to: '2 By hand' }, 'Something else than the answers. To 2 By hand.'],
  [{ code: 'waited' }, 'The wait is over.'],
  [
    { code: 'quiet hours', until: Date.UTC(2026, 10, 26, 8, 0), zone: 'Europe/London' },
    'Quiet hours: goes on at Thu 26 Nov, 08:00.',
  ],
  [
    { code: 'its turn later', what: 'the person is being asked something', loop: 'Drip' },
    'Drip waits for its turn: the person is being asked something.',
  ],
  [{ code: 'field set', field: 'note', value: null }, 'note cleared.'],
  [{ code: 'list', list: 'News', on: true }, 'List News joined.'],
  [{ code: 'list', list: 'News', on: false }, 'List News left.'],
  [
    { code: 'split', to: '3 Large', because: 'party size is at least 8' },
    'Party size is at least 8. To 3 Large.',
  ],
  [{ code: 'arm', arm: 'warm', to: '2 Warm' }, 'Arm warm. To 2 Warm.'],
  [{ code: 'loop called', loop: 'Rules', back: true }, 'Goes to the loop Rules, to come back.'],
  [{ code: 'loop called', loop: 'Rules', back: false }, 'Goes to the loop Rules.'],
  [{ code: 'came back', loop: 'Booking' }, 'Back in Booking.'],
  [
    { code: 'handed over', to: 'ticket office', note: 'a wheelchair' },
    'Handed over to ticket office: a wheelchair.',
  ],
  [{ code: 'nobody on duty' }, 'Nobody is on duty.'],
  [{ code: 'hand-over given up', after: '30m', to: '2 Sorry' }, 'Nobody stepped in for 30 min. To 2 Sorry.'],
  [{ code: 'recorded', who: 'Ines' }, 'Recorded for Ines. No loop answers.'],
  [{ code: 'handed back', by: 'Ines', how: 'the loop goes on' }, 'Ines handed back: the loop goes on.'],
  [{ code: 'alert', by: 'sms', to: 2 }, 'Alert to 2 people by SMS.'],
  [{ code: 'alert', by: 'email', to: 0 }, 'Alert to nobody by email.'],
  [
    { code: 'times offered', calendar: 'Trial session', count: 1, to: '' },
    'Offers 1 free time of Trial session.',
  ],
  [
    { code: 'times offered', calendar: 'Trial session', count: 0, to: '2 Full' },
    'Nothing is free in Trial session. To 2 Full.',
  ],
  [
    {
      code: 'booked',
      calendar: 'Trial session',
      from: Date.UTC(2026, 11, 3, 17),
      zone: 'Europe/London',
      moved: false,
    },
    'Booked: Trial session, Thu 3 Dec, 17:00.',
  ],
  [
    {
      code: 'booked',
      calendar: 'Trial session',
      from: Date.UTC(2026, 6, 2, 8),
      zone: 'Europe/London',
      moved: true,
    },
    'Moved: Trial session, Thu 2 Jul, 09:00.',
  ],
  [
    { code: 'booked already', calendar: 'Trial session' },
    'Trial session is booked for that very time already.',
  ],
  [
    { code: 'time gone', from: Date.UTC(2026, 11, 3, 17), zone: 'UTC' },
    'Thu 3 Dec, 17:00 is not free any more.',
  ],
  [{ code: 'sent out', host: 'crm.example.org' }, 'Sent out to crm.example.org; waits for its answer.'],
  [{ code: 'delivered', ok: true, reason: '', to: 'the next step' }, 'Delivered.'],
  [{ code: 'consent', what: 'opt-out' }, 'Opted out. Nothing more is sent on this line.'],
  [{ code: 'consent', what: 'help' }, 'Asked for help.'],
  [{ code: 'opted out', what: 'a message' }, 'The person has opted out: a message stays unanswered.'],
  [{ code: 'moved', loop: 'Course', version: 3 }, 'Moved to version 3 of Course.'],
  [
    {
      code: 'reply read',
      type: 'several of',
      field: 'days',
      value: { type: 'several of', value: ['Monday', 'Friday'] },
    },
    'Read as several of the options. days = Monday, Friday.',
  ],
  [
    {
      code: 'reply read',
      type: 'file',
      field: 'cv',
      value: { type: 'file', value: { address: 'x', name: 'cv.pdf', what: 'file' } },
    },
    'Read as a file. cv = cv.pdf.',
  ],
  [{ code: 'left the team', by: 'Ines' }, 'Ines has left the team. It waits for whoever is there.'],
  [{ code: 'stepped in', by: 'Ines' }, 'Ines stepped in. The loop holds still.'],
  [
    { code: 'delivered', ok: false, reason: 'it was answered 500', to: '4 By hand' },
    'Not delivered: it was answered 500. To 4 By hand.',
  ],
  [
    { code: 'chain cut', loop: 'B', reason: 'loops have started each other 5 times without the person' },
    'B was not started: loops have started each other 5 times without the person.',
  ],
  [
    { code: 'late tap', loop: 'Sailing alerts', label: 'Not today' },
    '“Not today” was tapped late. Sailing alerts starts again from that choice.',
  ],
  [{ code: 'run replaced', loop: 'Newsletter' }, 'The run of Newsletter that was under way gives way.'],
  [
    { code: 'choice read', label: 'Yes', how: 'tap', to: '2 Which island' },
    'Tapped “Yes”. To 2 Which island.',
  ],
  [
    { code: 'choice read', label: 'Yes', how: 'letter', to: '2 Which island' },
    'Read as “Yes”, by its letter. To 2 Which island.',
  ],
  [
    { code: 'choice read', label: 'Little Skerry', how: 'close to its label', to: 'the end' },
    'Read as “Little Skerry”, close to its label. To the end.',
  ],
  [
    {
      code: 'reply read',
      type: 'email',
      field: 'email',
      value: { type: 'email', value: 'mira@example.org' },
    },
    'Read as an email address. email = mira@example.org.',
  ],
  [
    { code: 'reply read', type: 'number', field: 'seats', value: { type: 'number', value: 2 } },
    'Read as a number. seats = 2.',
  ],
  [
    { code: 'reply read', type: 'phone', field: 'phone', value: { type: 'phone', value: '+447700900123' } },
    'Read as a phone number. phone = +447700900123.',
  ],
  [
    { code: 'reply read', type: 'yes/no', field: 'bicycle', value: { type: 'yes/no', value: false } },
    'Read as yes or no. bicycle = no.',
  ],
  [
    { code: 'reply read', type: 'text', field: 'note', value: { type: 'text', value: 'hi' } },
    'Read as text. note = hi.',
  ],
  [
    { code: 'could not read', reason: 'there is no number in it', tries: 1, of: 2 },
    'Could not be read: there is no number in it (retry 1 of 2).',
  ],
  [
    { code: 'could not read', reason: 'there is no number in it', tries: 3, of: 2 },
    'Could not be read: there is no number in it.',
  ],
  [{ code: 'gave up', to: '7 Without email' }, 'No retries left. To 7 Without email.'],
  [{ code: 'no reply', after: '3h', to: '9 Nudge' }, 'No reply in 3 h. To 9 Nudge.'],
  [{ code: 'no reply', after: '30m', to: 'the end' }, 'No reply in 30 min. To the end.'],
  [{ code: 'field set', field: 'crossing', value: { type: 'text', value: 'Orrin' } }, 'crossing = Orrin.'],
  [
    { code: 'field not set', field: 'seats', reason: 'there is no number in it' },
    'seats was not set: there is no number in it.',
  ],
  [{ code: 'tag', tag: 'alerts', on: true }, 'Tag alerts on.'],
  [{ code: 'tag', tag: 'alerts', on: false }, 'Tag alerts off.'],
  [{ code: 'went', to: '3 Email' }, 'To 3 Email.'],
  [{ code: 'finished', loop: 'Sailing alerts' }, 'Sailing alerts is finished.'],
  [
    { code: 'circle', scene: 'Welcome' },
    'Stopped in Welcome: it goes round in a circle without waiting for the person.',
  ],
  [{ code: 'unusable', reason: 'scene “x” is missing' }, 'Cannot be done: scene “x” is missing.'],
  [
    { code: 'nobody', reason: 'no cue hears this' },
    'Nobody answers: no cue hears this. The conversation waits for a person.',
  ],
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
