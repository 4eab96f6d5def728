import type { FieldType } from '../../people/person';
import type { NewStep } from './edits';

type NewAsk = Extract<NewStep, { kind: 'ask' }>;
type NewBook = Extract<NewStep, { kind: 'book' }>;
type NewAnswer = Extract<NewStep, { kind: 'answer' }>;

/** How each type of answer is asked for, until somebody words it otherwise. */
const QUESTIONS: Record<FieldType, { text: string; field: string; retry: string | null }> = {
  text: { text: 'What would you like to tell us?', field: 'message', retry: null },
  email: {
    text: 'What is your email address?',
    field: 'email',
    retry: 'That does not look like a whole email address.',
  },
  phone: { text: 'What is your phone number?', field: 'phone', retry: 'That is not a whole phone number.' },
  number: { text: 'How many?', field: 'count', retry: 'A number is enough, such as 2.' },
  date: {
    text: 'Which day suits you?',
    field: 'day',
    retry: 'A day is enough, such as “Saturday” or “12 June”.',
  },
  time: { text: 'At what time?', field: 'time', retry: 'A time is enough, such as “half past six”.' },
  'yes/no': { text: 'Yes or no?', field: 'answer', retry: 'Just yes or no, please.' },
  'one of': { text: 'Which one?', field: 'choice', retry: 'One of these, please.' },
  'several of': {
    text: 'Which of these?',
    field: 'choices',
    retry: 'Name those you mean, or their letters.',
  },
  'page address': {
    text: 'What is the address of your page?',
    field: 'page',
    retry: 'That is no address of a page, such as https://example.org.',
  },
  file: { text: 'Please send us a photo or file.', field: 'file', retry: 'We need a photo or file here.' },
  place: { text: 'Please share where you are.', field: 'place', retry: 'Share a place, please.' },
};

/**
 * A question as it is before anybody has changed it: asked again twice, and with a way out when nobody
 * replies.
 */
export function newAsk(
  reply: FieldType,
  own: { text?: string; field?: string; options?: string[] } = {},
): NewAsk {
  const { text, field, retry } = QUESTIONS[reply];
  const listed = reply === 'one of' || reply === 'several of';
  const labels = own.options && own.options.length >= 2 ? own.options : ['This', 'That'];
  return {
    kind: 'ask',
    text: own.text ?? text,
    reply,
    field: own.field ?? field,
    ...(listed && {
      options: labels.slice(0, 26).map((label, index) => ({ id: String.fromCharCode(97 + index), label })),
    }),
    ...(retry && { retry: { times: 2, text: retry }, otherwise: 'next' }),
    noReply: { after: '1d', to: 'end' },
  };
}

/**
 * A booking as it is before anybody has changed it: the day and the time stored, and a way out when nobody
 * replies.
 */
export function newBook(own: { calendar?: string; text?: string } = {}): NewBook {
  return {
    kind: 'book',
    calendar: own.calendar ?? 'Visits',
    text: own.text ?? 'When would you like to come? You can also write a day.',
    day: 'booked_day',
    time: 'booked_time',
    retry: { times: 2, text: 'A day and a time are enough, such as Thursday afternoon.' },
    otherwise: 'next',
    noReply: { after: '1d', to: 'end' },
  };
}

/** Answering from the sources as it is before anybody has changed it. */
export const newAnswer = (text = 'What would you like to know?'): NewAnswer => ({
  kind: 'answer',
  text,
  noReply: { after: '1d', to: 'end' },
});

export const WRITE_HERE = 'Write the text here';
export const newSay = (text = WRITE_HERE): NewStep => ({ kind: 'say', text });

/** What can be added, as it is typed and in words. The typed form is what `typeInto` reads. */
export const STEP_LIST: { typed: string; words: string; more: string }[] = [
  { typed: WRITE_HERE, words: 'Say', more: 'a text' },
  {
    typed: `${WRITE_HERE}\n- Yes\n- No -> end\nno reply 3h -> end`,
    words: 'Say with choices',
    more: 'a text, and what the person can tap',
  },
  { typed: 'ask email', words: 'Ask for an email address', more: 'read and stored as one' },
  { typed: 'ask phone', words: 'Ask for a phone number', more: 'stored with its country code' },
  { typed: 'ask number', words: 'Ask for a number', more: '“two”, “2”, “1,250.50”' },
  { typed: 'ask date', words: 'Ask for a date', more: '“Saturday”, “the 12th”, “in a fortnight”' },
  { typed: 'ask time', words: 'Ask for a time of day', more: '“half past six”' },
  { typed: 'ask yes/no', words: 'Ask yes or no', more: 'with an exit for each' },
  { typed: 'ask Which one? This / That', words: 'Ask for one of several', more: 'with an exit for each' },
  { typed: 'ask several This / That', words: 'Ask for several of several', more: 'stored as a list' },
  { typed: 'ask file', words: 'Ask for a photo or file', more: 'kept with the person' },
  { typed: 'ask place', words: 'Ask for a place', more: 'shared from the phone' },
  { typed: 'ask anything', words: 'Ask anything', more: 'stored as it is written' },
  { typed: 'wait 2h', words: 'Wait', more: 'for a time, a day, or until it is open' },
  { typed: 'tag new tag', words: 'Set', more: 'a field, a tag, a list, silently' },
  { typed: 'if open -> next', words: 'Split', more: 'by what is known, the channel or the time' },
  { typed: 'vary next / end', words: 'Vary', more: 'by chance, to compare' },
  { typed: 'go end', words: 'Go', more: 'to a scene or another loop' },
  { typed: 'hand over', words: 'Hand over', more: 'to a person of the team' },
  {
    typed: 'alert email: Somebody wants to be called',
    words: 'Alert',
    more: 'tell staff by email, SMS or Telegram',
  },
  {
    typed: 'send out https://example.org/hook',
    words: 'Send out',
    more: 'to a destination, or a webhook of its own',
  },
  { typed: 'book', words: 'Book', more: 'a free time of a calendar' },
  { typed: 'answer', words: 'Answer', more: 'questions, from the client’s own sources' },
  { typed: 'end', words: 'End', more: 'the run ends here' },
];
