import fc from 'fast-check';
import {
  CHANNELS,
  SMS,
  TELEGRAM,
  choiceRef,
  readChoice,
  readChoiceRef,
  smsParts,
  splitText,
  type Said,
} from '../src';

describe('SMS parts (3GPP TS 23.038)', () => {
  test.each([
    ['a'.repeat(160), 1, 'GSM-7'],
    ['a'.repeat(161), 2, 'GSM-7'],
    ['a'.repeat(306), 2, 'GSM-7'],
    ['a'.repeat(307), 3, 'GSM-7'],
    ['€'.repeat(80), 1, 'GSM-7'],
    ['€'.repeat(81), 2, 'GSM-7'],
    // An extension character is not torn: 152 and one that needs two places.
    [`${'a'.repeat(152)}€${'a'.repeat(152)}`, 3, 'GSM-7'],
    ['я'.repeat(70), 1, 'UCS-2'],
    ['я'.repeat(71), 2, 'UCS-2'],
    ['🎉'.repeat(35), 1, 'UCS-2'],
    ['🎉'.repeat(36), 2, 'UCS-2'],
    // 33 whole emoji in 67 units, not 33 and a half.
    ['🎉'.repeat(67), 3, 'UCS-2'],
    ['', 1, 'GSM-7'],
    ['@£$¥èéùìòÇ\n¡ÄÖÑÜ§¿äöñüà', 1, 'GSM-7'],
  ])('%#: %s', (text, parts, encoding) => expect(smsParts(text)).toMatchObject({ parts, encoding }));
  test('it names what makes a message dear', () =>
    expect(smsParts('It’s on – now').dear).toEqual(['’', '–']));
});

const ids = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h', 'i', 'j'];
const runId = '01a20b8f-667f-7000-a147-df421ca054e2';
const said = fc
  .record({
    text: fc.string({
      maxLength: 9_000,
      unit: fc.constantFrom('a', ' ', '\n', '. ', 'é', 'я', '🎉', '€', '’'),
    }),
    labels: fc.uniqueArray(
      fc.string({ minLength: 1, maxLength: 80, unit: 'grapheme' }).filter((label) => label.trim() !== ''),
      { maxLength: 10 },
    ),
  })
  .filter(({ text, labels }) => text.trim() !== '' || labels.length > 0)
  .map(({ text, labels }): Said => ({
    text,
    choices: labels.map((label, index) => ({
      label,
      ref: choiceRef({ runId, stepId: 'step', choiceId: ids[index]! }),
    })),
  }));

test('a rendered message never exceeds its channel’s limits, and nothing of the text is lost', () => {
  fc.assert(
    fc.property(said, (each) => {
      const letters = (text: string) => text.replace(/\s/g, '');
      const telegram = CHANNELS.telegram.render(each);
      for (const message of telegram) {
        expect(message.text.length).toBeLessThanOrEqual(TELEGRAM.text);
        for (const tap of message.taps)
          expect(Buffer.byteLength('ref' in tap ? tap.ref : '')).toBeLessThanOrEqual(TELEGRAM.callbackData);
      }
      for (const channel of Object.values(CHANNELS))
        for (const message of channel.render(each)) {
          const { used, most } = channel.room(message);
          expect(used).toBeLessThanOrEqual(most);
        }
      if (each.text.trim())
        expect(letters(telegram.map((message) => message.text).join(''))).toContain(letters(each.text));
      const sms = CHANNELS.sms.render(each);
      for (const message of sms) expect(smsParts(message.text).parts).toBeLessThanOrEqual(SMS.parts);
      expect(letters(sms.map((message) => message.text).join('')).startsWith(letters(each.text))).toBe(true);
    }),
    { numRuns: 60 },
  );
});

test('every lettered choice is read back to itself by its letter', () => {
  fc.assert(
    fc.property(said, (each) => {
      const choices = each.choices.map((choice, index) => ({
        id: ids[index]!,
        label: `Choice ${choice.label}`,
      }));
      choices.forEach((choice, index) =>
        expect(readChoice(String.fromCharCode(65 + index), choices)).toMatchObject({
          ok: true,
          id: choice.id,
        }),
      );
    }),
  );
});

test('choices are buttons on Telegram and lettered lines on SMS', () => {
  const yesNo: Said = {
    text: 'Alerts?',
    choices: [
      { label: 'Yes', ref: 'r1' },
      { label: 'No', ref: 'r2' },
    ],
  };
  expect(CHANNELS.telegram.render(yesNo)).toEqual([
    {
      channel: 'telegram',
      text: 'Alerts?',
      as: 'keyboard',
      taps: [
        { label: 'Yes', ref: 'r1' },
        { label: 'No', ref: 'r2' },
      ],
    },
  ]);
  expect(CHANNELS.sms.render(yesNo)).toEqual([
    { channel: 'sms', text: 'Alerts?\nA Yes\nB No', taps: [], parts: 1 },
  ]);
});

test('a choice’s reference is read back, and fits the narrowest button', () => {
  fc.assert(
    fc.property(fc.uuid(), (uuid) => {
      const ref = { runId: uuid, stepId: 'abcdefghijklmnop', choiceId: 'ponmlkjihgfedcba' };
      expect(choiceRef(ref).length).toBeLessThanOrEqual(TELEGRAM.callbackData);
      expect(readChoiceRef(choiceRef(ref))).toEqual(ref);
    }),
  );
  expect(readChoiceRef('something else')).toBeNull();
});

test('a long text is parted at a paragraph or a word', () => {
  const pieces = splitText(
    `${'one two '.repeat(30)}\n\n${'three four '.repeat(20)}`,
    (piece) => piece.length <= 300,
  );
  expect(pieces[0]).toBe('one two '.repeat(30).trim());
  expect(pieces.every((piece) => !/^\S*(ree|our)$/.test(piece))).toBe(true);
});

test('media and links: buttons and captions on Telegram, addresses in the text on SMS', () => {
  const media = { what: 'image' as const, address: 'https://example.org/p.png' };
  const link = { label: 'Book', address: 'https://example.org/b', title: 'The evening boat' };
  expect(
    CHANNELS.sms.render({ text: 'See here.', choices: [], media, link }).map((message) => message.text),
  ).toEqual(['See here.\nThe evening boat: https://example.org/b\nhttps://example.org/p.png']);
  expect(CHANNELS.telegram.render({ text: 'See here.', choices: [], media, link })).toEqual([
    {
      channel: 'telegram',
      text: 'See here.\n\nThe evening boat',
      as: 'keyboard',
      taps: [{ label: 'Book', url: 'https://example.org/b' }],
      media,
    },
  ]);
  // A text that is too long for a caption follows the picture.
  const long = CHANNELS.telegram.render({ text: 'x'.repeat(TELEGRAM.caption + 1), choices: [], media });
  expect(long.map((message) => [message.text.length, message.media !== undefined])).toEqual([
    [0, true],
    [TELEGRAM.caption + 1, false],
  ]);
});
