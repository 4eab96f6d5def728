import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'yaml';
import { readChoice, readChoices, readReply, valueWords, type FieldType } from '../src';
import { readSeveral } from '../src/engine/steps/readSeveral';
import type { Question } from '../src/engine/steps/askReading';
import type { StepWorld } from '../src/engine/steps';
import type { Language } from '../src/people/client';
import { FERRIES, nobodyYet } from './support';
import { mayBeOptOut, readConsentWord } from '../src/consent/words';

/** A Wednesday, ten in the morning in London. */
const WORLD = { country: 'GB', language: 'en', now: Date.UTC(2026, 10, 25, 10, 0), zone: 'Europe/London' };
const heard = <T>(file: string) => parse(readFileSync(join(__dirname, 'heard', `${file}.yaml`), 'utf8')) as T;

interface Case {
  said: string;
  wanted: string;
  got: string;
}
type Answers = Record<string, Record<string, string[]>>;
interface Chosen {
  choices: (string | number)[];
  one?: Record<string, string>;
  several?: Record<string, string | string[]>;
}
type Plain = Record<string, string | number>;

type PerLanguage = Record<string, Plain>;
const moments = heard<{ days: PerLanguage; past: PerLanguage; times: PerLanguage }>('moments');
const later = heard<{
  'yes or no': Answers;
  choices: Chosen[];
  dates: Plain;
  numbers: Plain;
  moments: { days: PerLanguage; past: PerLanguage; times: PerLanguage };
}>('later');
const short = heard<{ days: PerLanguage; times: PerLanguage }>('short');
type SeveralAsked = { asks: Record<string, FieldType | string[]> } & Record<
  Language,
  Record<string, Record<string, string | number>>
>;
/** Everything that was written, with what was meant and what was read; "ask" is asking again. */
const CASES: Record<string, Case[]> = {
  'yes or no': answered(heard<Answers>('yesNo')),
  choices: chosen(heard<Chosen[]>('choices')),
  dates: plain('date', heard<Plain>('dates')),
  numbers: plain('number', heard<Plain>('numbers')),
  days: perLanguage('date', moments.days),
  'days gone by': perLanguage('date', moments.past, { days: 'past' }),
  times: perLanguage('time', moments.times),
  'yes or no, later': answered(later['yes or no']),
  'choices, later': chosen(later.choices),
  'dates, later': plain('date', later.dates),
  'numbers, later': plain('number', later.numbers),
  'days, later': perLanguage('date', later.moments.days),
  'days gone by, later': perLanguage('date', later.moments.past, { days: 'past' }),
  'times, later': perLanguage('time', later.moments.times),
  'several at once': several(heard<SeveralAsked[]>('several')),
  'days, cut short': perLanguage('date', short.days),
  'times, cut short': perLanguage('time', short.times),
};

function answered(all: Answers): Case[] {
  return Object.entries(all).flatMap(([language, answers]) =>
    Object.entries(answers).flatMap(([wanted, said]) =>
      said.map((each) => ({ said: each, wanted, got: readAs('yes/no', each, language) })),
    ),
  );
}
function chosen(all: Chosen[]): Case[] {
  return all.flatMap(({ choices, one = {}, several = {} }) => {
    const labelled = choices.map((label) => ({ id: String(label), label: String(label) }));
    return [
      ...Object.entries(one).map(([said, wanted]) => {
        const read = readChoice(said, labelled);
        return { said, wanted, got: read.ok ? read.id : 'ask' };
      }),
      ...Object.entries(several).map(([said, wanted]) => {
        const read = readChoices(said, labelled);
        return { said, wanted: String(wanted), got: read.ok ? read.ids.join(',') : 'ask' };
      }),
    ];
  });
}
function plain(type: FieldType, all: Plain): Case[] {
  return Object.entries(all).map(([said, wanted]) => ({
    said,
    wanted: String(wanted),
    got: readAs(type, said, 'en'),
  }));
}
function perLanguage(type: FieldType, all: PerLanguage, more: { days?: 'past' } = {}): Case[] {
  return Object.entries(all).flatMap(([language, each]) =>
    Object.entries(each).map(([said, wanted]) => ({
      said: `${language}: ${said}`,
      wanted: String(wanted),
      got: readAs(type, said, language, more),
    })),
  );
}
function several(all: SeveralAsked[]): Case[] {
  return all.flatMap(({ asks, ...spoken }) => {
    const questions = Object.entries(asks).map(([field, reply]): Question => ({
      text: field,
      field,
      reply: typeof reply === 'string' ? reply : 'one of',
      ...(typeof reply !== 'string' && { options: reply.map((label) => ({ id: label, label })) }),
    }));
    return Object.entries(spoken).flatMap(([language, replies]) =>
      Object.entries(replies).map(([said, wanted]) => {
        const read = readSeveral(questions, { kind: 'text', text: said }, stepWorld(language));
        const got = [...read].map(([{ field }, reading]) => [
          field,
          reading.ok && !reading.suggestion ? valueWords(reading.value) : '?',
        ]);
        const inOrder = (pairs: (readonly [string, string])[]) =>
          [...pairs]
            .sort()
            .map(([field, value]) => `${field} ${value}`)
            .join(', ') || 'ask';
        return {
          said: `${language}: ${said}`,
          wanted: inOrder(Object.entries(wanted).map(([field, value]) => [field, String(value)])),
          got: inOrder(got as [string, string][]),
        };
      }),
    );
  });
}
/** What a step may look at where somebody of a language writes. */
function stepWorld(language: string): StepWorld {
  return {
    client: { ...FERRIES, languages: [language] },
    line: { key: 'sms', name: 'SMS', channel: 'sms' },
    fields: {},
    person: nobodyYet,
    cueId: '',
    answers: {},
    language,
    now: WORLD.now,
    zone: WORLD.zone,
  };
}
function readAs(type: FieldType, said: string, language: string, more: { days?: 'past' } = {}): string {
  const read = readReply(type, said, { ...WORLD, language, ...more });
  if (read.ok) return read.normal;
  if (read.either) return read.either.map(valueWords).join(' or ');
  return read.span ? `${read.span.from} to ${read.span.to}` : 'ask';
}

/** What must not fall: read as meant, and turned into something else than was meant, in parts of all. */
const RIGHT = 0.97;
const WRONG = 0.005;

test('what people write is read as a careful person would read it, or asked again', () => {
  const all = Object.values(CASES).flat();
  const bad = all.filter(({ wanted, got }) => wanted !== got);
  // Asked which of two, or where in a span, is asked as well.
  const wrong = bad.filter(({ got }) => !/^ask$| or | to /.test(got));
  for (const [kind, cases] of Object.entries(CASES)) {
    const right = cases.filter(({ wanted, got }) => wanted === got).length;
    const others = cases.filter(({ wanted, got }) => wanted !== got);
    console.info(
      [
        `${kind}: ${right} of ${cases.length} read as meant`,
        ...others.map(({ said, wanted, got }) => `  ${said}: ${got}, and not ${wanted}`),
      ].join('\n'),
    );
  }
  expect({ wrong }).toEqual({ wrong: wrong.slice(0, Math.floor(all.length * WRONG)) });
  expect({ bad, part: 1 - bad.length / all.length >= RIGHT }).toEqual({ bad, part: true });
});

test('a sentence that wants no more messages is an opt-out, whatever is spoken; one about something else is none', () => {
  const { stop, unsure, none } = heard<Record<'stop' | 'unsure' | 'none', string[]>>('stopping');
  const read = (said: string) => readConsentWord(said, 'whatsapp', ['en']);
  expect(stop.filter((said) => read(said) !== 'opt-out')).toEqual([]);
  expect(none.filter((said) => read(said) !== null)).toEqual([]);
  // Of some it is asked, and of what is something else it is not.
  expect(unsure.filter((said) => read(said) !== null || !mayBeOptOut(said))).toEqual([]);
  expect(none.filter(mayBeOptOut)).toEqual([]);
});

test('a number that is another word in English counts for whoever speaks its language', () => {
  const said = { um: 'pt', once: 'es', due: 'it', sept: 'fr' };
  expect(Object.entries(said).map(([word, language]) => readAs('number', word, language))).toEqual([
    '1',
    '11',
    '2',
    '7',
  ]);
});

test('adding a negation to a readable yes never leaves a yes', () => {
  const yes = heard<Record<string, Record<string, string[]>>>('yesNo');
  const negations = { en: ['not'], es: ['no'], fr: ['pas'], de: ['nicht'], pt: ['não'], it: ['non'] };
  for (const [language, words] of Object.entries(negations))
    for (const said of yes[language]!.yes!)
      for (const word of words)
        if (/\p{L}/u.test(said))
          expect({
            said: `${word} ${said}`,
            got: readAs('yes/no', `${word} ${said}`, language),
          }).not.toMatchObject({
            got: 'yes',
          });
});

test('case, punctuation, doubled letters and spaces do not turn an answer into another', () => {
  for (const { said, got } of CASES['yes or no']!)
    for (const other of [said.toUpperCase(), `  ${said}...`, said.replace(/ /g, '   ')]) {
      const read = readAs('yes/no', other, 'en');
      if (got !== 'ask') expect({ other, read }).not.toEqual({ other, read: got === 'yes' ? 'no' : 'yes' });
    }
});
