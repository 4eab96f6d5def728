import fc from 'fast-check';
import { groupAlike } from '../src/answers/alike';
import { documentBlocks } from '../src/answers/documents/documents';
import { answersTo } from '../src/answers/answering';
import { passagesOf } from '../src/answers/cutting';
import { SourceIndex } from '../src/answers/finding';
import { fitsChannel, withinLength } from '../src/answers/saying';
import { toSay } from '../src/answers/toSay';
import { FromSources } from '../src/engine/steps/fromSources';

const asked = (questions: string[]) =>
  questions.map((question, at) => ({ id: String(at), question, at: at * 1_000 }));
const groups = (...questions: string[]) => groupAlike(asked(questions)).map(({ wordings }) => wordings);

test('questions that ask for the same are one, most asked first, of those the newest', () => {
  expect(
    groups(
      'do you sell umbrellas?',
      'Do you sell umbrellas',
      'who painted the funnel?',
      'can i park near the quay?',
      'is there any parking?',
      'where do i leave the car?',
    ),
  ).toEqual([
    ['where do i leave the car?', 'is there any parking?', 'can i park near the quay?'],
    ['Do you sell umbrellas'],
    ['who painted the funnel?'],
  ]);
});

test('what has a word in common and asks for something else stays apart', () => {
  expect(groups('how much is a bicycle?', 'how much is a dog?')).toHaveLength(2);
  expect(groups('when does the last boat leave?', 'when does the shop close?')).toHaveLength(2);
});

test('every question is in one group, whatever is asked', () => {
  fc.assert(
    fc.property(
      fc.array(fc.oneof(fc.string(), fc.constantFrom('parking?', 'park?', '')), { maxLength: 40 }),
      (all) => {
        const made = groupAlike(asked(all));
        expect(made.flatMap(({ ids }) => ids).sort()).toEqual(
          asked(all)
            .map(({ id }) => id)
            .sort(),
        );
        expect(made.every(({ count, ids }) => count === ids.length && count > 0)).toBe(true);
        expect(made.map(({ count }) => count)).toEqual(made.map(({ count }) => count).sort((a, b) => b - a));
      },
    ),
    { numRuns: 50 },
  );
});

describe('what a step is given to say', () => {
  const SITE = `# Saltmarsh Ferries
## Parking on the quay
The car park on the quay has 60 places and costs £6 a day.
## Parking at Harwick
At Harwick you park behind the station, free for passengers.
## Dogs
Dogs are welcome on deck and travel free.
`;
  const index = new SourceIndex(
    passagesOf('site.md', 'Saltmarsh Ferries', documentBlocks('text', new TextEncoder().encode(SITE))),
  );
  const say = (question: string, fits = fitsChannel('telegram')) =>
    toSay(index, answersTo(index, question, { fits }), fits);

  test('the source’s own words, with where they stand; passages to choose from by their headings', () => {
    expect(say('are dogs welcome on deck?')).toEqual([
      {
        ...{ question: 'are dogs welcome on deck?', came: 'answered', offers: [], passage: null },
        ...{ text: 'Dogs are welcome on deck and travel free.', from: 'Saltmarsh Ferries, Dogs' },
      },
    ]);
    const [offered] = say('where can I park?');
    expect(offered).toMatchObject({ came: 'offered', text: null });
    expect(
      offered!.offers
        .map(({ label }) => label)
        .slice(0, 2)
        .sort(),
    ).toEqual(['Parking at Harwick', 'Parking on the quay']);
    expect(FromSources.safeParse(say('where can I park? are dogs welcome on deck?')).success).toBe(true);
  });

  test('what cannot be said at the length is not offered; where nothing is left it is not known', () => {
    expect(say('where can I park?', withinLength(10))).toMatchObject([{ came: 'not known', offers: [] }]);
  });
});
