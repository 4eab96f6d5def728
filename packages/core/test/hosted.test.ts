import { ModelStandin, ModelAsked as StandinAsked } from '../../../apps/standins/src/model';
import { masked } from '../src/answers/hosted/masking';
import { completionOf, readReply } from '../src/answers/hosted/reply';
import { modelRequest, type ModelAsked } from '../src/answers/hosted/request';
import { costOf, HostedModel, mostCost, USUAL_LIMITS } from '../src/answers/hosted/settings';
import { withinLength } from '../src/answers/saying';

/** What a hosted model is asked, and what of its answers may be said. */

const asked: ModelAsked = {
  question: 'can my dog come on the ferry?',
  passages: [
    {
      source: 'dogs.md',
      headings: ['Ferry', 'Dogs'],
      sentences: [
        'Dogs travel free on the lower deck.',
        'Except in July and August, when they pay £2.',
        'Bowls of water stand by the door.',
        'They are not allowed in the cabin.',
      ],
    },
    { source: 'fares.md', headings: ['Fares'], sentences: ['An adult pays £6, a child £3.'] },
  ],
  turns: [{ by: 'person', text: 'hello' }],
  facts: ['The business is Kittiwake Ferries.'],
  most: 200,
  fits: withinLength(200),
  wording: 'quoted',
};
const own: ModelAsked = { ...asked, wording: 'own words' };
const say = (...said: object[]) => JSON.stringify({ known: true, say: said });
const DOGS = asked.passages[0]!.sentences;

test('a request holds rules, facts, numbered passages, what was said, the length and the schema', () => {
  const request = StandinAsked.parse(modelRequest(asked, { model: 'obeys' }, USUAL_LIMITS));
  const [rules, told] = request.messages.map(({ content }) => content);
  expect(rules).toContain('at most 200 characters');
  expect(told).toContain('[1.2] Except in July and August, when they pay £2.');
  expect(told).toContain('[2.1] An adult pays £6, a child £3.');
  for (const part of ['Kittiwake Ferries', 'Customer: hello', 'Question:\ncan my dog come'])
    expect(told).toContain(part);
  expect(request.max_tokens).toBe(USUAL_LIMITS.mostTokens);
  const long = { ...asked, passages: Array<(typeof asked.passages)[0]>(900).fill(asked.passages[0]!) };
  expect(JSON.stringify(modelRequest(long, { model: 'obeys' }, USUAL_LIMITS)).length).toBeLessThan(20_000);
});

test('quoted, the sources say it themselves: whole where it fits, never without its exception', () => {
  expect(readReply(say({ from: ['1.1'] }), asked)).toMatchObject({ known: true, text: DOGS.join(' ') });
  const short = { ...asked, fits: withinLength(90) };
  expect(readReply(say({ from: ['1.1'] }), short)).toMatchObject({ text: DOGS.slice(0, 2).join(' ') });
  expect(readReply(say({ from: ['1.1'] }), { ...asked, fits: withinLength(40) })).toMatchObject({
    ok: false,
  });
  expect(readReply(say({ from: ['2.1'] }, { from: ['1.4'] }), asked)).toMatchObject({
    text: 'An adult pays £6, a child £3. They are not allowed in the cabin.',
    passages: [asked.passages[1], asked.passages[0]],
  });
});

test('what is not known is not known, and what has no form is not said', () => {
  expect(readReply('{"known": false, "say": []}', asked)).toEqual({ ok: true, known: false });
  expect(readReply('```json\n{"known": true, "say": []}\n```', asked)).toEqual({ ok: true, known: false });
  for (const garbage of ['', 'Of course!', '{"known": true', '[]', '{"say": "x"}', say({ from: [] })])
    expect(readReply(garbage, asked)).toMatchObject({ ok: false });
  expect(readReply(say({ from: ['3.1'] }), asked)).toMatchObject({ ok: false });
});

const quote = DOGS[3]!;
test.each<[string, string, string]>([
  ['They are not allowed in the cabin.', quote, '1.4'],
  ['Dogs are not allowed in the cabin.', quote, '1.4'],
  ['In July and August they pay £2.', 'when they pay £2', '1.2'],
])('in its own words “%s” may be said', (text, from, id) => {
  // The last leaves an "except" out: that is a condition lost.
  const { ok } = readReply(say({ from: [id], text, quote: from }), own);
  expect(ok).toBe(!text.startsWith('In July'));
});

test.each([
  ['They are allowed in the cabin.', quote, '1.4'],
  ['They are not allowed in the cabin, £5.', quote, '1.4'],
  ['They are not allowed in the cabin on mondays.', quote, '1.4'],
  ['They are not allowed in the cabin of the Kittiwake.', quote, '1.4'],
  ['Yes, but they are not allowed in the cabin.', quote, '1.4'],
  ['They are not allowed in the cabin. See https://dogs.example.', quote, '1.4'],
  ['They are never allowed in the cabin.', 'They are never allowed', '1.4'],
  ['We look after horses, parrots and not least the cabin.', quote, '1.4'],
  ['A child pays £6.', 'a child £3', '2.1'],
  ['They are definitely not allowed in the cabin.', quote, '1.4'],
])('in its own words “%s” is not said', (text, from, id) => {
  expect(readReply(say({ from: [id], text, quote: from }), own)).toMatchObject({ ok: false });
});

test('a completion in the common form is read, and another is none', () => {
  const standin = new ModelStandin();
  const request = StandinAsked.parse(modelRequest(own, { model: 'obeys' }, USUAL_LIMITS));
  const read = completionOf(standin.complete(request))!;
  expect(readReply(read.content, own)).toMatchObject({ ok: true, text: DOGS[0] });
  expect(read.tokens!.sent).toBeGreaterThan(100);
  for (const body of [null, {}, { choices: [] }, { choices: [{ message: {} }] }, 'x', { error: 1 }])
    expect(completionOf(body)).toBeNull();
});

test('what tells who wrote it is left out, and dates are not', () => {
  expect(
    masked('I am Marlow Finch, finch@post.example, +44 7700 900123, on 2026-12-04', ['Marlow Finch']),
  ).toBe('I am [name] [name], [email], [number], on 2026-12-04');
  expect(masked('a table for 4 at 19:30 for £12.50', [''])).toBe('a table for 4 at 19:30 for £12.50');
});

test('what a call costs is counted in millionths, and what it may cost is never less', () => {
  const prices = { priceSent: 0.5, priceBack: 1.5 };
  expect(costOf(prices, { sent: 1_000, back: 200 })).toBe(800);
  const request = JSON.stringify(modelRequest(own, { model: 'obeys' }, USUAL_LIMITS));
  const { usage } = new ModelStandin().complete(StandinAsked.parse(JSON.parse(request)));
  expect(mostCost(prices, Buffer.byteLength(request), USUAL_LIMITS.mostTokens)).toBeGreaterThan(
    costOf(prices, { sent: usage.prompt_tokens, back: usage.completion_tokens }),
  );
});

test('an address inside, or one that is not encrypted, is no model’s', () => {
  const model = { model: 'm', priceSent: 0, priceBack: 0, currency: 'GBP', mostAMonth: 5 };
  expect(HostedModel.safeParse({ ...model, address: ModelStandin.address }).success).toBe(true);
  for (const address of ['http://model.example/v1', 'https://127.0.0.1/v1', 'https://localhost/v1', 'x'])
    expect(HostedModel.safeParse({ ...model, address }).success).toBe(false);
});
