import fc from 'fast-check';
import {
  CHANNELS,
  CHANNEL_KINDS,
  INSTAGRAM,
  MESSENGER,
  SMS,
  TELEGRAM,
  WHATSAPP,
  choiceLetter,
  moreRef,
  readChoice,
  readChoiceRef,
  readMore,
  smsParts,
  utf8Bytes,
  type ChannelKind,
  type Outgoing,
  type Said,
} from '../src';
import { refOf, saids, withChoices } from './saids';
import { times } from './thorough';

const days = (count: number) => Array.from({ length: count }, (_, index) => `Day ${index + 1}`);

/** What each channel refuses, as its public interface states it: written here a second time, on purpose. */
function expectWithinLimits(message: Outgoing): void {
  const titles = message.taps.map((tap) => tap.label);
  const links = message.taps.filter((tap) => 'url' in tap);
  const refs = message.taps.flatMap((tap) => ('ref' in tap ? [tap.ref] : []));
  for (const title of titles) expect(title.trim()).not.toBe('');
  expect(message.text !== '' || message.media !== undefined).toBe(true);
  switch (message.channel) {
    case 'messenger':
      expect(message.text.length).toBeLessThanOrEqual(
        message.as === 'link button' ? 640 : message.as === 'card' ? 80 : 2_000,
      );
      expect(refs.length).toBeLessThanOrEqual(13);
      expect(links.length).toBeLessThanOrEqual(3);
      for (const title of titles) expect(title.length).toBeLessThanOrEqual(20);
      for (const ref of refs) expect(ref.length).toBeLessThanOrEqual(1_000);
      break;
    case 'instagram':
      expect(Buffer.byteLength(message.text)).toBeLessThanOrEqual(1_000);
      expect(refs.length).toBeLessThanOrEqual(13);
      expect(links).toEqual([]);
      for (const title of titles) expect(title.length).toBeLessThanOrEqual(20);
      expect(message.media?.what).not.toBe('file');
      break;
    case 'whatsapp':
      expect(message.text.length).toBeLessThanOrEqual(
        message.taps.length > 0 || message.media ? 1_024 : 4_096,
      );
      expect(refs.length).toBeLessThanOrEqual(message.as === 'buttons' ? 3 : 10);
      expect(links.length).toBeLessThanOrEqual(1);
      expect(links.length > 0 && refs.length > 0).toBe(false);
      expect(new Set(titles).size).toBe(titles.length);
      for (const tap of message.taps) {
        expect(tap.label.length).toBeLessThanOrEqual(message.as === 'list' ? 24 : 20);
        if ('ref' in tap) expect((tap.description ?? '').length).toBeLessThanOrEqual(72);
      }
      if (message.as === 'list') expect(message.opens!.length).toBeLessThanOrEqual(20);
      break;
    case 'telegram':
      expect(message.text.length).toBeLessThanOrEqual(message.media ? 1_024 : 4_096);
      for (const ref of refs) expect(Buffer.byteLength(ref)).toBeLessThanOrEqual(64);
      break;
    case 'sms':
      expect(smsParts(message.text).parts).toBeLessThanOrEqual(10);
      expect(message.parts).toBe(smsParts(message.text).parts);
      expect(message.taps).toEqual([]);
  }
}

/** Follows "More" until it leads back to where it began; gives every choice that was shown on the way. */
function reachable(channel: ChannelKind, said: Said): Set<string> {
  const found = new Set<string>();
  const seen = new Set<number>();
  for (let from = 0; !seen.has(from);) {
    seen.add(from);
    const messages = CHANNELS[channel].render({ ...said, from });
    for (const message of messages) expectWithinLimits(message);
    let next = from;
    for (const tap of messages.flatMap((message) => message.taps)) {
      if (!('ref' in tap)) continue;
      const read = readChoiceRef(tap.ref)!;
      const more = readMore(read.choiceId);
      if (more === null) found.add(read.choiceId);
      else next = more;
    }
    from = next;
  }
  return found;
}

test.each(CHANNEL_KINDS)(
  'on %s nothing ever exceeds a limit, nothing is lost, and every choice can be reached',
  (channel) => {
    fc.assert(
      fc.property(saids, (said) => {
        const messages = CHANNELS[channel].render(said);
        expect(messages.length).toBeGreaterThan(0);
        for (const message of messages) expectWithinLimits(message);
        const bare = (text: string) => text.replace(/\s/g, '');
        expect(bare(messages.map((message) => message.text).join(''))).toContain(bare(said.text));
        if (said.media) expect(JSON.stringify(messages)).toContain(said.media.address);
        if (said.link) expect(bare(JSON.stringify(messages))).toContain(said.link.address);
        if (channel !== 'sms')
          expect(reachable(channel, said)).toEqual(new Set(said.choices.map((_, index) => `c${index}`)));
      }),
      { numRuns: times(150, 1_000) },
    );
  },
);

test('on SMS the pages show every choice once, each with the letter that is read back to it', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.nat(500), { minLength: 2, maxLength: 60 }), (numbers) => {
      const said = withChoices(numbers.map((number) => `Boat at ${number}`));
      const { most, page } = CHANNELS.sms.choices;
      const shown: string[] = [];
      for (
        let from = 0;
        from < said.choices.length;
        from += said.choices.length <= most ? said.choices.length : page
      )
        for (const message of CHANNELS.sms.render({ ...said, from }))
          shown.push(...message.text.split('\n').filter((line) => /^[A-Z]{1,2} Boat/.test(line)));
      expect(shown).toEqual(said.choices.map((choice, index) => `${choiceLetter(index)} ${choice.label}`));
      const choices = said.choices.map(({ label }, index) => ({ id: `c${index}`, label }));
      choices.forEach((choice, index) => {
        for (const written of [
          choiceLetter(index),
          choiceLetter(index).toLowerCase(),
          choice.label,
          `${choiceLetter(index)} ${choice.label}`,
        ])
          expect(readChoice(written, choices)).toMatchObject({ ok: true, id: choice.id });
      });
    }),
    { numRuns: 60 },
  );
});

test.each([
  [2, { messenger: 'quick replies', instagram: 'quick replies', whatsapp: 'buttons', telegram: 'keyboard' }],
  [3, { messenger: 'quick replies', instagram: 'quick replies', whatsapp: 'buttons', telegram: 'keyboard' }],
  [5, { messenger: 'quick replies', instagram: 'quick replies', whatsapp: 'list', telegram: 'keyboard' }],
  [10, { messenger: 'quick replies', instagram: 'quick replies', whatsapp: 'list', telegram: 'keyboard' }],
] as const)('%i choices stand on one page, each as its channel can', (count, as) => {
  for (const [channel, how] of Object.entries(as)) {
    const [message] = CHANNELS[channel as ChannelKind].render(withChoices(days(count)));
    expect(message).toMatchObject({ as: how, text: 'Which one?' });
    expect(message!.taps.map((tap) => tap.label)).toEqual(days(count));
  }
  expect(CHANNELS.sms.render(withChoices(days(count)))[0]!.text.split('\n')).toHaveLength(count + 1);
});

test('twelve and thirty choices come in pages where they must', () => {
  const shown = (channel: ChannelKind, count: number, from = 0) =>
    CHANNELS[channel].render({ ...withChoices(days(count)), from })[0]!.taps.map((tap) => tap.label);
  expect(shown('messenger', 12)).toEqual(days(12));
  expect(shown('messenger', 30)).toEqual([...days(12), 'More']);
  expect(shown('messenger', 30, 24)).toEqual([...days(30).slice(24), 'Back to the first']);
  expect(shown('whatsapp', 12)).toEqual([...days(9), 'More']);
  expect(shown('whatsapp', 12, 9)).toEqual(['Day 10', 'Day 11', 'Day 12', 'Back to the first']);
  expect(CHANNELS.sms.render(withChoices(days(12)))[0]!.text).toBe(
    `Which one?\n${days(8)
      .map((day, index) => `${choiceLetter(index)} ${day}`)
      .join('\n')}\nWrite MORE for 4 more.`,
  );
  expect(readChoiceRef(moreRef(refOf(0), 12))).toEqual({
    runId: '01a20b8f-667f-7000-a147-df421ca054e2',
    stepId: 'step',
    choiceId: '+12',
  });
});

test('labels that are cut are cut at a word, kept apart, and stand whole in the text or below the row', () => {
  const long = ['Saturday morning in the big hall', 'Saturday morning in the small hall'];
  const [onMessenger] = CHANNELS.messenger.render(withChoices(long));
  expect(onMessenger!.taps.map((tap) => tap.label)).toEqual(['A Saturday morning…', 'B Saturday morning…']);
  expect(onMessenger!.text).toBe(`Which one?\n\nA ${long[0]}\nB ${long[1]}`);
  const [onWhatsApp] = CHANNELS.whatsapp.render(withChoices([...long, 'Sunday', 'Never']));
  expect(onWhatsApp).toMatchObject({ as: 'list', opens: 'Choose', text: 'Which one?' });
  expect(onWhatsApp!.taps.map((tap) => 'ref' in tap && [tap.label, tap.description])).toEqual([
    ['A Saturday morning in…', long[0]],
    ['B Saturday morning in…', long[1]],
    ['Sunday', undefined],
    ['Never', undefined],
  ]);
});

test('media and links: as each channel has them', () => {
  const link = { label: 'Book', address: 'https://ferries.example/book' };
  const render = (channel: ChannelKind, said: Partial<Said>) =>
    CHANNELS[channel].render({ text: 'See here.', choices: [], ...said });
  expect(render('messenger', { link })).toEqual([
    {
      channel: 'messenger',
      text: 'See here.',
      taps: [{ label: 'Book', url: link.address }],
      as: 'link button',
    },
  ]);
  expect(
    render('messenger', { link: { ...link, title: 'The evening boat', image: 'https://p.example/b.png' } }),
  ).toEqual([
    { channel: 'messenger', text: 'See here.', taps: [] },
    {
      channel: 'messenger',
      text: 'The evening boat',
      taps: [{ label: 'Book', url: link.address }],
      as: 'card',
      media: { what: 'image', address: 'https://p.example/b.png' },
    },
  ]);
  expect(render('instagram', { link }).map((each) => each.text)).toEqual([
    `See here.\nBook: ${link.address}`,
  ]);
  expect(
    render('instagram', { media: { what: 'file', address: 'https://p.example/a.pdf' } }).map(
      (each) => each.text,
    ),
  ).toEqual(['See here.\nhttps://p.example/a.pdf']);
  expect(render('whatsapp', { link })).toEqual([
    {
      channel: 'whatsapp',
      text: 'See here.',
      taps: [{ label: 'Book', url: link.address }],
      as: 'link button',
    },
  ]);
  // Beside choices there is no room for a link button.
  expect(render('whatsapp', { link, ...withChoices(['Yes', 'No'], 'See here.') })[0]).toMatchObject({
    as: 'buttons',
    text: `See here.\n\nBook: ${link.address}`,
  });
  expect(render('whatsapp', { media: { what: 'image', address: 'https://p.example/b.png' } })).toEqual([
    {
      channel: 'whatsapp',
      text: 'See here.',
      taps: [],
      media: { what: 'image', address: 'https://p.example/b.png' },
    },
  ]);
});

test('an address of a page is never torn where it fits into a message of its own', () => {
  const address = `https://pages.example/${'x'.repeat(700)}`;
  const messages = CHANNELS.instagram.render({ text: `${'word '.repeat(120)}${address}`, choices: [] });
  expect(messages.some((message) => message.text === address)).toBe(true);
});

test('bytes are counted as UTF-8 has them', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme' }), (text) =>
      expect(utf8Bytes(text)).toBe(Buffer.byteLength(text)),
    ),
  );
});

test('the tables say what the tests say', () => {
  expect([MESSENGER.text, MESSENGER.template, MESSENGER.most, MESSENGER.quickReply]).toEqual([
    2_000, 640, 13, 20,
  ]);
  expect([
    INSTAGRAM.textBytes,
    WHATSAPP.text,
    WHATSAPP.body,
    WHATSAPP.rows,
    TELEGRAM.text,
    SMS.parts,
  ]).toEqual([1_000, 4_096, 1_024, 10, 4_096, 10]);
});
