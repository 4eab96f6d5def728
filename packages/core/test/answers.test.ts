import { answersTo } from '../src/answers/answering';
import { briefPassages, hoursSaid, type BriefFacts } from '../src/answers/brief';
import { carriedOver, questionsIn } from '../src/answers/asking';
import { passagesOf, sentencesOf } from '../src/answers/cutting';
import { meaningsOf } from '../src/answers/encoder/meaning';
import { goingOn, SourceIndex } from '../src/answers/finding';
import { markdownBlocks } from '../src/answers/documents/markdown';
import { placeOf, textOf } from '../src/answers/passage';
import { fitsChannel, withinLength } from '../src/answers/saying';
import { readSheet } from '../src/answers/sheet';

const passagesIn = (text: string) => passagesOf('page.md', 'page', markdownBlocks(text));
const indexOf = (text: string) => new SourceIndex(passagesIn(text));

describe('cutting', () => {
  test('a passage is a heading with what stands below it; a row of a table carries its head', () => {
    const text = `# Prices\n\nAll with *tax*.\n\n## Boats\n\n| Boat | Adult | Child |\n|---|---|---|\n| Kestrel | £6 | £3 |\n| Wren | £8 | |\n\n## Extras\n\n- A bicycle: £2\n- A [kayak](https://example.org): £4\n`;
    expect(passagesIn(text)).toEqual([
      { source: 'page.md', headings: ['Prices'], sentences: ['All with tax.'] },
      {
        source: 'page.md',
        headings: ['Prices', 'Boats'],
        sentences: ['Kestrel: Adult £6, Child £3', 'Wren: Adult £8'],
      },
      { source: 'page.md', headings: ['Prices', 'Extras'], sentences: ['A bicycle: £2', 'A kayak: £4'] },
    ]);
  });

  test('a text without headings is a passage for each paragraph, and says nothing where it is empty', () => {
    expect(passagesIn('One thing.\n\nAnother thing.').map(textOf)).toEqual(['One thing.', 'Another thing.']);
    expect(passagesIn('')).toEqual([]);
    expect(passagesIn('# Only a heading')).toEqual([]);
  });

  test('no sentence is cut at a number, a time or a short form', () => {
    expect(
      sentencesOf('It costs £6.40 a day. Call Dr. Lund at 9.30 a.m. or write.  We answer! Always.'),
    ).toEqual(['It costs £6.40 a day.', 'Call Dr. Lund at 9.30 a.m. or write.', 'We answer!', 'Always.']);
  });
});

describe('asking', () => {
  test('two questions in a message are two, a greeting is none, and one with "and" in it is one', () => {
    expect(questionsIn('Hi! how much is it and can i bring my dog?')).toEqual([
      'Hi! how much is it',
      'can i bring my dog?',
    ]);
    expect(questionsIn('hello')).toEqual([]);
    // Messages that were gathered are a line each, however many there are; one that only begins goes on.
    expect(
      questionsIn(
        'hi\ni wanted to ask\nif dogs are ok\nwhat does a single cost\nis there parking\nand wifi?\nthanks',
      ),
    ).toEqual(['i wanted to ask if dogs are ok', 'what does a single cost', 'is there parking', 'and wifi?']);
    expect(
      questionsIn(Array.from({ length: 20 }, (_, at) => `is there a boat ${at}`).join('\n')),
    ).toHaveLength(1);
    expect(questionsIn('is the bread and butter pudding good')).toHaveLength(1);
  });

  test('a short question goes on from the one before', () => {
    expect([
      carriedOver('and on sundays?'),
      carriedOver('for two'),
      carriedOver('where is the car park now'),
    ]).toEqual([0.5, 0.25, 0]);
    const index = indexOf(
      '# A\n\n## Boats to Wren\n\nBoats leave at 07:00. On Sundays at 09:30.\n\n## Ticket office\n\nOpen from 08:00. Closed on Sundays.\n',
    );
    // Which passage is meant, where the one is asked after the other.
    const place = (message: string, before: string) =>
      placeOf(
        index.find(goingOn(index.read(message), index.read(before), carriedOver(message))).found[0]!.passage,
      );
    expect(place('and on sundays?', 'when do the boats leave')).toBe('page.md#Boats to Wren');
    expect(place('and on sundays?', 'when is the ticket office open')).toBe('page.md#Ticket office');
  });

  test('a slip is read as the sources spell it, and a common word is left alone', () => {
    const index = indexOf('# A\n\n## Membership\n\nMembership costs £49 a month.\n');
    expect(index.read('membrshp cost').text).toBe('membership cost');
    expect(index.read('month mouth').text).toBe('month mouth');
  });
});

describe('saying', () => {
  const text =
    'Can you change it? You can change a ticket free of charge until one hour before. After that nothing is given back. Unless we cancel the sailing: then you get all of it. The office is beside the pier and has a bench.';
  const index = indexOf(`# A\n\n## Changes\n\n${text}\n`);
  const said = (most: number) => answersTo(index, 'can i change my ticket', { fits: withinLength(most) })[0]!;

  test('a passage that fits is sent whole, but for what it asks itself', () => {
    expect(said(600).text).toBe(text.replace('Can you change it? ', ''));
  });

  test('what is too long keeps the sentence that answers with its exceptions, and cuts none', () => {
    expect(said(170).text).toBe(
      'You can change a ticket free of charge until one hour before. After that nothing is given back. Unless we cancel the sailing: then you get all of it.',
    );
  });

  test('where they do not fit together nothing is said, and the passage is offered', () => {
    expect(said(90)).toMatchObject({ zone: 'offer', text: null });
  });

  test('what is nowhere in the sources is not known', () => {
    const [answered] = answersTo(index, 'do you sell umbrellas');
    expect(answered).toMatchObject({ zone: 'not known', found: [] });
    expect(answersTo(new SourceIndex([]), 'anything?')).toMatchObject([{ zone: 'not known' }]);
  });
});

test('a sheet says by its lines what is wrong with it', () => {
  expect(readSheet('a,b\n1,2').problems).toEqual([
    'The first line must name the columns, one of them “question”.',
  ]);
  const { rows, problems } = readSheet(
    'question,known,contains\nhow much,maybe,\nwhen,no,9:00|10:00\n,yes,\n',
  );
  expect(problems).toEqual(['Line 2: known is yes or no.', 'Line 4: a question is missing.']);
  expect(rows).toEqual([
    { question: 'when', from: '', contains: ['9:00', '10:00'], lacks: [], known: 'no', least: 'offer' },
  ]);
});

describe('the brief', () => {
  const client: BriefFacts = {
    brief: {
      address: 'The Old Slipway, Harwick',
      phone: '+44 1632 960144',
      tone: 'kind',
      parking: 'Free for two hours',
    },
    openingHours: {
      ...{ monday: [{ from: '09:00', to: '17:00' }], tuesday: [{ from: '09:00', to: '17:00' }] },
      ...{ sunday: [{ from: '10:00', to: '13:00' }], daysOff: ['12-25'], otherHours: { '2026-12-06': [] } },
    },
    ...{ timeZone: 'Europe/London', country: 'GB', languages: ['en'] },
  };
  // A Tuesday.
  const now = Date.UTC(2026, 11, 1, 12);
  const index = new SourceIndex(briefPassages(client));
  const said = (message: string, before: string | null = null) =>
    answersTo(index, message, { client, now, before }).map(({ text }) => text);

  test('is a source, without its tone', () => {
    expect(briefPassages(client).map(textOf)).toEqual([
      'Monday to Tuesday: 09:00 to 17:00. Wednesday to Saturday: closed. Sunday: 10:00 to 13:00.',
      'Address: The Old Slipway, Harwick.',
      'Phone: +44 1632 960144.',
      'Parking: Free for two hours.',
    ]);
  });

  test('says when it is open on the day that is asked for, holidays and other hours included', () => {
    expect(said('are you open on monday?')).toEqual(['Monday 7 December: 09:00 to 17:00.']);
    expect(said('are you open on sunday')).toEqual(['Sunday 6 December: closed.']);
    expect(said('what time do you close today')).toEqual(['Tuesday 1 December: 09:00 to 17:00.']);
    expect(said('r u still open')).toEqual(['Tuesday 1 December: 09:00 to 17:00.']);
    expect(said('are you open on christmas day?')).toEqual(['Friday 25 December: closed.']);
    expect(said('and tomorrow?', 'are you open today')).toEqual(['Wednesday 2 December: closed.']);
    expect(said('and on sunday?', 'what is your address')).not.toEqual(['Sunday 6 December: closed.']);
  });

  test('leaves what asks for more than hours to the sources', () => {
    for (const question of [
      'does the pool open on sunday',
      'is the car park closed tomorrow',
      'open a new account',
    ])
      expect(hoursSaid(question, question, client, now)).toBeNull();
    expect(
      hoursSaid('are you open on monday', 'are you open on monday', { ...client, openingHours: {} }, now),
    ).toBeNull();
  });
});

describe('what a client has said', () => {
  test('a wording that was confirmed is answered from then on', () => {
    const passages = passagesIn(
      '# A\n\n## Pets\n\nThey travel free.\n\n## Bicycles\n\nA bicycle costs £2.\n',
    );
    const question = 'is there a charge for my moggy';
    const zone = (index: SourceIndex) => answersTo(index, question)[0]!.zone;
    const before = new SourceIndex(passages);
    expect(zone(before)).not.toBe('answer');
    const taught = passages.map((each, at) => (at === 0 ? { ...each, wordings: [question] } : each));
    const after = new SourceIndex(taught, before);
    expect(answersTo(after, question)[0]).toMatchObject({ zone: 'answer', text: 'They travel free.' });
    expect(answersTo(after, 'is there a charge for my bicycle')[0]!.text).not.toBe('They travel free.');
  });

  test('two sources that say otherwise are no answer', () => {
    const page = (source: string, price: string) =>
      passagesOf(
        source,
        source,
        markdownBlocks(`# A\n\n## Bicycle price\n\nA bicycle costs ${price} each way.\n`),
      );
    const asked = (...prices: string[]) =>
      answersTo(
        new SourceIndex(prices.flatMap((price, at) => page(`${at}.md`, price))),
        'how much does a bicycle cost',
      )[0]!;
    expect(asked('£3.50', '£3')).toMatchObject({ zone: 'not known', text: null });
    expect(
      asked('£3.50', '£3')
        .disagree?.map(({ source }) => source)
        .sort(),
    ).toEqual(['0.md', '1.md']);
    expect(asked('£3.00', '£3').disagree).toBeNull();
  });

  test('an SMS has two parts at most', () => {
    expect([fitsChannel('sms')('x'.repeat(306)), fitsChannel('sms')('x'.repeat(307))]).toEqual([true, false]);
    expect(fitsChannel('telegram')('x'.repeat(600))).toBe(true);
  });
});

test('among many passages the same is found as among few', () => {
  const many = Array.from({ length: 1_000 }, (_, at) => ({
    ...{
      source: `${at}.md`,
      headings: [`Part ${at}`],
      sentences: [`Word${at} is kept on shelf number ${at}.`],
    },
  }));
  const dogs = { source: 'dogs.md', headings: ['Dogs'], sentences: ['Dogs travel free, on a lead.'] };
  const index = new SourceIndex([...many, dogs]);
  expect(index.find(index.read('can i bring my puppy')).found[0]!.passage.source).toBe('dogs.md');
  expect(index.find(index.read('where is word512 kept')).found[0]!.passage.source).toBe('512.md');
});

describe('by meaning', () => {
  /** What a text means: how often each letter stands in it. */
  const letters = {
    encode: (texts: readonly string[]) =>
      texts.map((text) => {
        const vector = new Float32Array(512);
        for (const letter of text.toLowerCase()) vector[letter.charCodeAt(0) % 512]! += 1;
        const length = Math.hypot(...vector) || 1;
        return vector.map((each) => each / length / 4);
      }),
  };
  const passages = passagesIn('# A\n\n## Dogs\n\nDogs travel free.\n\n## Cats\n\nCats stay at home.\n');

  test('is looked at from when all of it is known, and taken over where nothing has changed', () => {
    const index = new SourceIndex(passages);
    const meanings = meaningsOf(letters, passages);
    expect([index.knowsMeaning, index.unencoded()]).toEqual([false, [0, 1]]);
    index.learn(letters, [[1, meanings[1]!]]);
    expect([index.knowsMeaning, index.unencoded()]).toEqual([false, [0]]);
    expect(index.find(index.read('god')).found[0]!.features.nearWhole).toBe(0);
    index.learn(letters, [[0, meanings[0]!]]);
    expect([index.knowsMeaning, index.unencoded()]).toEqual([true, []]);
    expect(index.find(index.read('sgod')).found[0]!.passage.headings).toEqual(['A', 'Dogs']);

    const [first] = passages;
    const changed = new SourceIndex([first!, { ...passages[1]!, sentences: ['Cats sleep.'] }], index);
    expect(changed.unencoded()).toEqual([1]);
    const same = new SourceIndex(passages, changed);
    same.learn(letters, [[1, meanings[1]!]]);
    expect(same.knowsMeaning).toBe(true);
  });

  test('what belongs to another passage is left aside', () => {
    const index = new SourceIndex(passages);
    index.learn(letters, [
      [0, new Int8Array(512)],
      [7, new Int8Array(1_536)],
    ]);
    expect([index.knowsMeaning, index.unencoded()]).toEqual([false, [0, 1]]);
  });

  test('among many, what is near in meaning is looked at though it shares no word', () => {
    const many = Array.from({ length: 500 }, (_, at) => ({
      ...{ source: `${at}.md`, headings: [`Part ${at}`], sentences: [`Shelf ${at}.`] },
    }));
    const zebra = { source: 'z.md', headings: ['Zzz'], sentences: ['Zzz zz.'] };
    const index = new SourceIndex([...many, zebra]);
    expect(index.find(index.read('zzzzzzz')).found).toEqual([]);
    index.learn(letters, meaningsOf(letters, index.passages).entries());
    expect(index.find(index.read('zzzzzzz')).found[0]!.passage).toBe(zebra);
  });
});
