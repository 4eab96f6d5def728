import { readReply, READERS } from '@dart-loop/core/language/replies/index';
import { readChoice, readChoices } from '@dart-loop/core/language/choice';
import { mayBeOptOut } from '@dart-loop/core/consent/words';
import { median, print } from './figures';

const WORLD = { country: 'GB', language: 'en', now: Date.UTC(2026, 10, 24, 9), zone: 'Europe/London' };
const CHARACTERS = 20_000;
const LABELS = ['Large boat', 'Small boat', 'Saturday 5 December', 'Two dogs'];
const OPTIONS = Array.from({ length: 26 }, (_, at) => ({ id: `o${at}`, label: `${LABELS[at % 4]} ${at}` }));

/** What costs a reader most: its own words again and again, or words that nearly are. */
const HOSTILE = [
  'a',
  'the quick brown fox ',
  'not ',
  'yes ',
  'no, ',
  '7',
  '7,',
  '12 ',
  'friday at 3, ',
  'of the ',
  'thirty ',
  'may 1 ',
  'a@b.c ',
  'a.b.',
  '+44 1632 960144 ',
  'é',
  '👍🏽 ',
  'definitley ',
  'http://a.b/ ',
  'ａ１',
  '½ ',
];
const TIDY = ['yes please', 'friday at 3', 'two of us', 'mira@example.org', 'the large boat', 'no idea'];

/** Processor time of a call in ms, the least of some: other work beside it is not counted. */
function cost(work: () => unknown): number {
  work();
  return Math.min(
    ...Array.from({ length: 5 }, () => {
      const before = process.cpuUsage();
      work();
      const { user, system } = process.cpuUsage(before);
      return (user + system) / 1_000;
    }),
  );
}

/** Reading what people type: replies as they come, and 20,000 characters that are made to take long. */
export function reading(): void {
  const readers: Record<string, (text: string) => unknown> = {
    ...Object.fromEntries(
      Object.keys(READERS).map((type) => [
        type,
        (text: string) => readReply(type as keyof typeof READERS, text, WORLD),
      ]),
    ),
    choice: (text) => readChoice(text, OPTIONS),
    choices: (text) => readChoices(text, OPTIONS),
    'opt-out': mayBeOptOut,
  };
  const all = Object.entries(readers);
  const usual = all.flatMap(([, read]) => TIDY.map((text) => cost(() => read(text))));
  const worst = all
    .flatMap(([name, read]) =>
      HOSTILE.map((piece) => {
        const text = piece.repeat(Math.ceil(CHARACTERS / piece.length)).slice(0, CHARACTERS);
        return { name, piece, ms: cost(() => read(text)) };
      }),
    )
    .reduce((a, b) => (b.ms > a.ms ? b : a));
  print('a reply read, median ms', median(usual), 'to be under 1');
  print(
    `${CHARACTERS.toLocaleString('en-GB')} hostile characters read, most ms`,
    worst.ms,
    `to be under 5 (${worst.name}, “${worst.piece.trim()}”)`,
  );
}
