import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { DEMO } from './demoLoops';
import { answersTo } from '../src/answers/answering';
import { briefPassages, hoursSaid, type BriefFacts } from '../src/answers/brief';
import { carriedOver, questionsIn } from '../src/answers/asking';
import { passagesOf, sentencesOf } from '../src/answers/cutting';
import { goingOn, SourceIndex } from '../src/answers/finding';
import { markdownBlocks } from '../src/answers/documents/markdown';
import { placeOf, textOf } from '../src/answers/passage';
import { fitsChannel, withinLength } from '../src/answers/saying';
import { readSheet, runSheet, type SheetResult } from '../src/answers/sheet';

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

/** How often one of the first is more than one of the others: 1 always, 0.5 by chance. */
function auc(first: readonly number[], others: readonly number[]): number {
  let ahead = 0;
  for (const one of first) for (const other of others) ahead += one > other ? 1 : one === other ? 0.5 : 0;
  return ahead / (first.length * others.length);
}

test('the five clients of the demo are answered rightly, and hardly ever wrongly', () => {
  const table: Record<string, unknown>[] = [];
  const all: { results: SheetResult[]; first: number; three: number; known: number[]; unknown: number[] } = {
    ...{ results: [], first: 0, three: 0, known: [], unknown: [] },
  };
  for (const client of readdirSync(DEMO, { withFileTypes: true }).filter((each) => each.isDirectory())) {
    const folder = join(DEMO, client.name);
    const passages = readdirSync(join(folder, 'site')).flatMap((file) =>
      passagesOf(file, file, markdownBlocks(readFileSync(join(folder, 'site', file), 'utf8'))),
    );
    const { rows, problems } = readSheet(readFileSync(join(folder, 'questions.csv'), 'utf8'));
    expect(problems).toEqual([]);
    const index = new SourceIndex(passages);
    const results = runSheet(index, rows);
    const places = new Set(passages.map(placeOf));
    const known = rows.filter((row) => row.known === 'yes');
    expect(known.filter(({ from }) => !places.has(from))).toEqual([]);
    const at = known.map(({ question, from }) =>
      index.find(index.read(question)).found.findIndex(({ passage }) => placeOf(passage) === from),
    );
    const first = at.filter((each) => each === 0).length;
    const three = at.filter((each) => each >= 0 && each < 3).length;
    const sure = (is: 'yes' | 'no') =>
      results.filter(({ row }) => row.known === is).map(({ answered }) => answered.sure);
    const count = (came: SheetResult['came']) => results.filter((each) => each.came === came).length;
    table.push({
      client: client.name,
      questions: rows.length,
      first: (first / known.length).toFixed(2),
      three: (three / known.length).toFixed(2),
      auc: auc(sure('yes'), sure('no')).toFixed(2),
      right: count('right'),
      offered: count('offered'),
      wrong: count('wrong'),
    });
    all.results.push(...results);
    all.first += first;
    all.three += three;
    all.known.push(...sure('yes'));
    all.unknown.push(...sure('no'));
  }
  process.stdout.write(
    `\n${table
      .map((row) =>
        Object.entries(row)
          .map(([name, value]) => `${name} ${String(value)}`)
          .join(', '),
      )
      .join('\n')}\n`,
  );
  const share = (came: SheetResult['came']) =>
    all.results.filter((each) => each.came === came).length / all.results.length;
  expect(all.results).toHaveLength(200);
  expect(all.first / all.known.length).toBeGreaterThanOrEqual(0.75);
  expect(all.three / all.known.length).toBeGreaterThanOrEqual(0.9);
  expect(auc(all.known, all.unknown)).toBeGreaterThanOrEqual(0.9);
  expect(share('right')).toBeGreaterThanOrEqual(1 / 3);
  expect(share('wrong')).toBeLessThanOrEqual(0.03);
  // Whatever is said stands in the passage it is said from, word for word.
  for (const { answered } of all.results)
    if (answered.text !== null)
      for (const sentence of sentencesOf(answered.text))
        expect(textOf(answered.found[0]!.passage)).toContain(sentence);
});
