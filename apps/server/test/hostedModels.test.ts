import type { AgencyModelPage, AnswerView, ClientModelPage, ConversationPage } from '@dart-loop/contract';
import { USUAL_LIMITS } from '@dart-loop/core/answers/hosted/settings';
import { ModelStandin } from '../../standins/src/model';
import { Keyring } from '../src/platform/keyring';
import { Stage } from './support/stage';

/** A hosted model that is asked where the sources alone are not sure: what it says, costs, and may not. */

let stage: Stage;
const CLIENT = '/clients/saltmarsh-ferries';
/** Of several passages a little: not sure by the sources alone. */
const UNSURE = 'my bicycle and the tide: is it late';
const LOOP = `
format: dart-loop/1
name: Ask us
cues: [{ kind: keyword, words: [ask], match: first word }]
scenes:
  - id: one
    name: Questions
    steps:
      - { kind: answer, text: What would you like to know?, noReply: { after: 1d, to: end } }
`;

const model = (named: string, more = {}) => ({
  ...{ address: ModelStandin.address, model: named, currency: 'GBP', mostAMonth: 100 },
  ...{ priceSent: 1, priceBack: 2, ...more },
});
const agencys = (named: string, more = {}, token: string | undefined = ModelStandin.token) =>
  stage.api.put('/model', { model: model(named, more), token });
const uses = (limits = {}) =>
  stage.api.put<ClientModelPage>(`${CLIENT}/model`, {
    ...{ uses: 'agency', own: null, limits: { ...USUAL_LIMITS, ...limits } },
  });
const page = () => stage.api.get<ClientModelPage>(`${CLIENT}/model`);
const tried = async (withModel = true): Promise<AnswerView> => {
  const asked = { message: UNSURE, channel: 'telegram', withModel };
  return (await stage.api.post<AnswerView[]>(`${CLIENT}/sources/ask`, asked))[0]!;
};

beforeAll(async () => {
  stage = await Stage.open({ limits: false });
});
afterAll(() => stage.close());

test('without one nothing is asked, and a client that wants one needs it set up', async () => {
  const { zone, model: none } = await tried();
  expect(zone).not.toBe('answer');
  expect(none).toBeNull();
  await expect(uses()).rejects.toThrow(/The agency has no hosted model/);
  await expect(stage.api.put('/model', { model: model('obeys') })).rejects.toThrow(/the model’s key/);
  const inside = { ...model('obeys'), address: 'https://127.0.0.1/v1/chat/completions' };
  await expect(stage.api.put('/model', { model: inside, token: 'x' })).rejects.toThrow(/private address/);
  expect(stage.standins.model.asked).toHaveLength(0);
});

test('one that obeys names sentences, and what is said is theirs, and what it costs is counted', async () => {
  await agencys('obeys');
  expect((await uses()).agency).toEqual({ model: 'obeys', currency: 'GBP' });
  expect((await tried(false)).model).toBeNull();
  const { model: made, passages, next } = await tried();
  expect(made).toMatchObject({ why: [], calls: 1, currency: 'GBP' });
  expect([...passages, ...next].map(({ text }) => text)).toContain(made!.text);
  const { spent, calls } = await page();
  expect(calls).toMatchObject([{ came: 'said', question: UNSURE, model: 'obeys', cost: made!.cost }]);
  expect(spent).toEqual([{ currency: 'GBP', calls: 1, cost: made!.cost }]);
  expect(made!.cost).toBeLessThan(0.01);
  expect(await stage.api.get<AgencyModelPage>('/model')).toMatchObject({
    kept: { hint: ModelStandin.token.slice(-4) },
    spent: [{ calls: 1 }],
    usedBy: ['Saltmarsh Ferries'],
  });
});

test.each([
  ['lies', 'own words', 'refused', 2],
  ['garbage', 'quoted', 'refused', 2],
  ['down', 'quoted', 'failed', 1],
  ['slow', 'quoted', 'failed', 1],
])('one that is %s (%s): nothing of it is said', async (named, wording, came, calls) => {
  await agencys(named, {}, undefined);
  await uses({ wording, patience: 1 });
  const { model: made } = await tried();
  expect(made).toMatchObject({ text: null, calls });
  expect(made!.why).toHaveLength(calls);
  expect((await page()).calls[0]).toMatchObject({ came, why: made!.why.at(-1) });
});

test('one that hesitates says that it is not known, and its key that does not fit fails', async () => {
  await agencys('hesitates', {}, undefined);
  await uses();
  expect((await tried()).model).toMatchObject({ text: null, why: [], calls: 1 });
  expect((await page()).calls[0]).toMatchObject({ came: 'not known' });
  await agencys('obeys', {}, 'another key');
  expect((await tried()).model).toMatchObject({ text: null, why: ['it was answered 401'] });
});

test('what it costs never passes what it may, however many ask at once', async () => {
  await agencys('obeys', { priceSent: 1_000, priceBack: 1_000 }, ModelStandin.token);
  const before = (await page()).spent[0]!.cost;
  const cap = before + 6;
  await uses({ mostAMonth: cap });
  const all = await Promise.all(Array.from({ length: 12 }, () => tried()));
  const said = all.filter(({ model: made }) => made!.text !== null);
  expect(said.length).toBeGreaterThan(0);
  expect(said.length).toBeLessThan(12);
  const stopped = all.filter(({ model: made }) => made!.why[0]?.includes('for this client is used up'));
  expect(said.length + stopped.length).toBe(12);
  const { spent } = await page();
  expect(spent[0]!.cost).toBeGreaterThan(before);
  expect(spent[0]!.cost).toBeLessThanOrEqual(cap);
  // The agency's own bound holds for all its clients together.
  await agencys('obeys', { mostAMonth: 0.5 });
  await uses({ mostAMonth: 1_000 });
  expect((await tried()).model!.why[0]).toContain('for the agency is used up');
});

test('in a conversation it answers once, is told no address of anybody, and the inbox says who chose', async () => {
  await agencys('obeys', { mostAMonth: 1_000 });
  await uses({ mostAMonth: 1_000 });
  await stage.publish(LOOP);
  await stage.write('72001', 'ask', 'Marlow');
  await stage.hears('72001', 1);
  const before = stage.standins.model.asked.length;
  await stage.write('72001', `I am Marlow, marlow@post.example. ${UNSURE}?`, 'Marlow');
  const [, answer] = await stage.hears('72001', 2);
  const asked = stage.standins.model.asked.slice(before);
  expect(asked.length).toBeGreaterThan(0);
  const told = JSON.stringify(asked);
  expect(told).toContain('Customer: ');
  expect(told).toContain('What would you like to know?');
  expect(told).not.toMatch(/marlow/i);
  const { calls } = await page();
  expect(calls[0]).toMatchObject({ came: 'said', conversationId: expect.any(String) as string });
  expect(answer).not.toMatch(/do not know/);
  expect(JSON.stringify(calls)).not.toMatch(/marlow/i);
  const id = calls[0]!.conversationId!;
  const { entries } = await stage.api.get<ConversationPage>(`${CLIENT}/conversations/${id}`);
  expect(JSON.stringify(entries)).toContain('chosen by the hosted model');

  // It is erased with the person.
  const { person_id } = await stage.one<{ person_id: string }>(
    `select person_id from conversation where id = '${id}'`,
  );
  await stage.db.query('select erase_person(client_id, $1) from person where id = $1', [person_id]);
  expect((await page()).calls.filter((call) => call.conversationId !== null)).toEqual([]);
});

test('its key is sealed anew with the others', async () => {
  const sealed = () =>
    stage.one<{ secrets: Buffer }>('select secrets from agency_model').then(({ secrets }) => secrets);
  const before = await sealed();
  const ring = await Keyring.open(stage.config.laneDatabase, stage.config.key);
  await ring.rotate(stage.config.key);
  expect((await sealed()).equals(before)).toBe(false);
  expect((await tried()).model).toMatchObject({ why: [], calls: 1 });
});
