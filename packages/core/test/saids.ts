import fc from 'fast-check';
import { choiceRef, type Said } from '../src';

const runId = '01a20b8f-667f-7000-a147-df421ca054e2';
/** The reference of the choice at a place of the step. */
export const refOf = (index: number) => choiceRef({ runId, stepId: 'step', choiceId: `c${index}` });
export const withChoices = (labels: string[], text = 'Which one?'): Said => ({
  text,
  choices: labels.map((label, index) => ({ label, ref: refOf(index) })),
});

const SCRIPTS = [
  ...'abcdefghij KLMNO',
  ...'日本語中文字한국어ไทย',
  ...'עבריתعربيةفارسی',
  ...'äöéñçßøя',
  '🎉',
  '👩‍👩‍👧‍👦',
  '🇬🇧',
  '👍🏽',
  '’',
  '€',
  '\n',
  ' ',
];
const letters = (maxLength: number, minLength = 0) =>
  fc.string({ minLength, maxLength, unit: fc.constantFrom(...SCRIPTS) });
const labels = fc.oneof(
  fc.array(letters(90), { maxLength: 40 }),
  // Labels that start alike, and such as are the same.
  fc.array(
    fc.nat(50).map((n) => `A very long beginning that all of these have in common, number ${n}`),
    { maxLength: 30 },
  ),
  fc.array(fc.constantFrom('Yes', 'yes', 'No', '🎉', '', ' '), { maxLength: 14 }),
);
/** Anything that a `say` could be: all scripts, any length, any number of choices, media and links. */
export const saids = fc
  .record({
    text: fc.oneof(letters(300), letters(6_000)),
    labels,
    language: fc.constantFrom('en', 'de', 'fr', 'xx'),
    media: fc.option(
      fc.record({
        what: fc.constantFrom('image', 'file', 'video', 'audio'),
        address: fc.constant('https://pictures.example/p.png'),
      }),
    ),
    link: fc.option(
      fc.record(
        {
          label: letters(60, 1).filter((label) => label.trim() !== ''),
          address: fc.constant(`https://pages.example/${'x'.repeat(300)}`),
          title: letters(80),
          image: fc.constant('https://pictures.example/l.png'),
        },
        { requiredKeys: ['label', 'address'] },
      ),
    ),
  })
  .filter(({ text, labels: some, media }) => text.trim() !== '' || some.length > 0 || media !== null)
  .map(({ text, labels: some, language, media, link }): Said => ({
    ...withChoices(some, text),
    language,
    ...(media && { media }),
    ...(link && { link }),
  }));
