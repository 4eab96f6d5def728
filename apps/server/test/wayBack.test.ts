import type {
  DeliveryRow,
  DestinationPage,
  InletPage,
  NewInletAddress,
  PersonPage,
  TriedReading,
  WebhooksPage,
} from '@dart-loop/contract';
import type { IncomingMapping } from '@dart-loop/core/sync/incoming';
import type { Winner } from '@dart-loop/core/sync/settle';
import { CrmStandin } from '../../standins/src/crm';
import { Stage, until } from './support/stage';

const CLIENT = '/clients/saltmarsh-ferries';

let stage: Stage;
let destination: string;
let inlet: string;
let address: string;
let mapping: IncomingMapping;
beforeAll(async () => {
  stage = await Stage.open({ limits: false });
  await stage.fields(CLIENT, { email: 'email', town: 'text', trips: 'number' });
  const column = (to: string, as: string) => ({ to, as, origin: { from: 'field', field: to } });
  ({ id: destination } = await stage.api.post<DestinationPage>(`${CLIENT}/destinations`, {
    kind: 'contact',
    name: 'CRM',
    settings: { address: 'https://crm.example/contacts', findBy: 'email' },
    token: CrmStandin.token,
    mapping: [column('email', 'text'), column('town', 'text'), column('trips', 'number')],
    triggers: { fields: 'any' },
  }));
  await stage.api.post(`${CLIENT}/destinations/${destination}/state`, { state: 'on' });
  ({ address } = await stage.api.post<NewInletAddress>(`${CLIENT}/webhooks`, { hook: 'crm' }));
  const { inlets } = await stage.api.get<WebhooksPage>(`${CLIENT}/webhooks`);
  inlet = `${CLIENT}/webhooks/${inlets.find(({ hook }) => hook === 'crm')!.id}`;
});
afterAll(() => stage.close());

const crm = () => stage.standins.crm;
const post = async (body: unknown) => {
  const answer = await fetch(address, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  return {
    status: answer.status,
    body: (await answer.json()) as {
      detail?: string;
      person?: string;
      changed?: string[];
      passedOver?: string[];
    },
  };
};
const townOf = async (id: string) =>
  (await stage.api.get<PersonPage>(`${CLIENT}/people/${id}`)).facts.find(({ key }) => key === 'town')
    ?.words ?? null;
const calls = () => stage.standins.outside.requests.filter(({ host }) => host === 'crm.example').length;
const waitingFor = async (person?: string) =>
  (
    await stage.one<{ n: number }>(
      `
        select count(*)::int as n from delivery
        where status = 'waiting' and ($1::uuid is null or person_id = $1)`,
      [person ?? null],
    )
  ).n;
/**
 * Once neither side has anything to tell the other. What we are told makes its deliveries before it is
 * answered, and what is delivered makes the other side tell of it before it is marked: where nothing waits,
 * then all is told, and still nothing waits, nothing more can come.
 */
async function still(): Promise<void> {
  await until(
    async () => {
      const waitedBefore = await waitingFor();
      const before = [calls(), crm().answers.length];
      await crm().quiet();
      const toldMeanwhile = [calls(), crm().answers.length].some((count, at) => count !== before[at]);
      return { waitedBefore, toldMeanwhile, waits: await waitingFor() };
    },
    ({ waitedBefore, toldMeanwhile, waits }) => waitedBefore === 0 && !toldMeanwhile && waits === 0,
    60_000,
  );
}

test('a mapping is made by pointing at an example, tried on it without changing anything, and kept', async () => {
  expect(await post({ contact: { id: 'x' } })).toMatchObject({ status: 400 });
  expect((await stage.api.get<InletPage>(inlet)).refusal).toMatch(/^person: /);
  expect((await stage.api.post<InletPage>(`${inlet}/listen`, { on: true })).listensUntil).not.toBeNull();
  const example = {
    event: 'contact.changed',
    changed_at: '2026-11-20T08:00:00Z',
    contact: { id: 'C-77', email: 'ada@example.org', name: 'Ada Tallow', town: 'Fenwater', trips: 7 },
  };
  expect(await post(example)).toEqual({ status: 202, body: { kept: 'as the example' } });
  const page = await stage.api.get<InletPage>(inlet);
  expect(page.example!.leaves.map(({ path }) => path)).toContain('contact.town');
  expect(page.destinations).toEqual([{ id: destination, name: 'CRM' }]);
  mapping = page.example!.guess;
  expect(mapping).toMatchObject({
    who: [
      { by: 'their id', from: 'contact.id' },
      { by: 'email', from: 'contact.email' },
    ],
    changedAt: 'changed_at',
  });
  const people = () => stage.one<{ n: number }>('select count(*)::int as n from person');
  const before = await people();
  const tried = await stage.api.post<TriedReading>(`${inlet}/try`, {
    reading: mapping,
    destinationId: destination,
  });
  expect(tried.words).toEqual([
    'Would add Ada Tallow.',
    'Would set email = ada@example.org, town = Fenwater, trips = 7.',
  ]);
  expect(await people()).toEqual(before);
  const kept = await stage.api.put<InletPage>(`${inlet}/reading`, {
    reading: mapping,
    destinationId: destination,
  });
  expect(kept).toMatchObject({ reads: true, example: null, listensUntil: null, destinationId: destination });
  await expect(
    stage.api.post(`${inlet}/try`, { reading: mapping, destinationId: destination }),
  ).rejects.toThrow(/no example/);

  const taken = await post(example);
  expect(taken).toMatchObject({
    status: 200,
    body: { made: true, changed: ['email', 'town', 'trips'], passedOver: [] },
  });
  const person = await stage.api.get<PersonPage>(`${CLIENT}/people/${taken.body.person}`);
  expect(person).toMatchObject({ name: 'Ada Tallow', source: 'crm' });
  expect(person.facts.find(({ key }) => key === 'town')!.by!.words).toBe('crm');
  // The id that it has over there is known from then on.
  expect(
    await post({
      ...example,
      changed_at: '2026-11-21T08:00:00Z',
      contact: { id: 'C-77', town: 'Marrow Bay' },
    }),
  ).toMatchObject({
    body: { person: taken.body.person, made: false, changed: ['town'] },
  });
  expect(await post({ contact: { id: 'C-unknown' } })).toMatchObject({ status: 404 });
  expect(await post({ nothing: 1 })).toMatchObject({
    status: 400,
    body: { detail: expect.stringMatching(/nothing in it tells who it is/) as string },
  });
  expect(await post({ contact: { email: 'no address' } })).toMatchObject({ status: 400 });
  // What it says of people does not stand in what is shown of the last call.
  expect((await stage.api.get<InletPage>(inlet)).refusal).toBe(
    'who: “…” does not fit: there is no @ in it, so it is not an email address.',
  );
});

test('what is changed over there is known here, and does not go back', async () => {
  crm().tells = { address };
  const id = crm().byHand(null, { email: 'bram@example.org', town: 'Harwick' });
  await crm().quiet();
  const { person } = crm().answers.at(-1)!.body as { person: string };
  await still();
  const before = calls();
  crm().byHand(id, { town: 'Saint Orrin' });
  await still();
  expect(await townOf(person)).toBe('Saint Orrin');
  expect(calls()).toBe(before);
  const [last] = await stage.api.get<DeliveryRow[]>(`${CLIENT}/destinations/${destination}/deliveries`);
  expect(last).toMatchObject({ status: 'left out', outcome: 'it stands there already' });
  // And what is changed here comes back once, and is no news.
  await stage.api.put(`${CLIENT}/people/${person}`, { fields: { town: 'Little Skerry' } });
  await still();
  expect(crm().contacts.get(id)).toMatchObject({ town: 'Little Skerry' });
  expect(await townOf(person)).toBe('Little Skerry');
  expect(calls()).toBe(before + 1);
});

test.each([
  ['ours', 'Ours'],
  ['theirs', 'Theirs'],
] as const)(
  'twenty people changed on both sides at once: %s wins, both know it, and are still',
  async (winner, value) => {
    await stage.api.put(`${inlet}/reading`, { reading: winning(winner), destinationId: destination });
    crm().tells = { address, slowMs: () => Math.random() * 60 };
    const people = Array.from({ length: 20 }, (_, n) => ({
      contact: crm().byHand(null, { email: `${winner}${n}@example.org`, town: 'Start' }),
    }));
    await still();
    const ids = await stage.db.query<{ id: string; email: string }>(
      `
        select id, fields #>> '{email,value}' as email from person
        where client_id = 1 and fields #>> '{email,value}' like $1`,
      [`${winner}%@example.org`],
    );
    expect(ids.rows).toHaveLength(20);
    await Promise.all(
      ids.rows.map(async ({ id, email }) => {
        const at = Number(/\d+/.exec(email)![0]);
        await stage.api.put(`${CLIENT}/people/${id}`, { fields: { town: 'Ours' } });
        // At once, while ours is to go out, when it has arrived, and when we know that it has.
        const contact = people[at]!.contact;
        const arrived = () => crm().contacts.get(contact)!.town === 'Ours';
        const moments = [
          () => true,
          async () => arrived() || (await waitingFor(id)) > 0,
          arrived,
          async () => arrived() && (await waitingFor(id)) === 0,
        ];
        await until<boolean>(moments[at % moments.length]!, Boolean);
        crm().byHand(contact, { town: 'Theirs' });
      }),
    );
    await still();
    const towns = await Promise.all(ids.rows.map(({ id }) => townOf(id)));
    const theirs = people.map(({ contact }) => crm().contacts.get(contact)!.town);
    expect(new Set(towns)).toEqual(new Set([value]));
    expect(theirs).toEqual(theirs.map(() => value));
  },
  120_000,
);

test('the newest wins by the other side’s own clock, on both sides', async () => {
  await stage.api.put(`${inlet}/reading`, { reading: winning('newest'), destinationId: destination });
  crm().tells = { address };
  const contact = crm().byHand(null, { email: 'newest@example.org', town: 'Start' });
  await crm().quiet();
  const { person } = crm().answers.at(-1)!.body as { person: string };
  await still();
  await stage.api.put(`${CLIENT}/people/${person}`, { fields: { town: 'Ours' } });
  await still();
  // Told late, of before ours: ours stays, and goes there once more where they have another.
  const late = {
    changed_at: new Date(Date.now() - 60_000).toISOString(),
    contact: { id: contact, town: 'Before' },
  };
  expect(await post(late)).toMatchObject({ body: { changed: [], passedOver: ['town: what we know stays'] } });
  await still();
  expect([await townOf(person), crm().contacts.get(contact)!.town]).toEqual(['Ours', 'Ours']);
  crm().byHand(contact, { town: 'After' });
  await still();
  expect([await townOf(person), crm().contacts.get(contact)!.town]).toEqual(['After', 'After']);
});

test('an example is nobody’s any more once somebody is erased', async () => {
  await stage.api.post(`${inlet}/listen`, { on: true });
  await post({ contact: { email: 'kept.example@example.org' } });
  const { person } = (await post({ contact: { email: 'erased@example.org' } })).body;
  const kept = () =>
    stage.one<{ n: number }>('select count(*)::int as n from inlet where example is not null');
  expect((await kept()).n).toBe(1);
  await stage.api.post(`${CLIENT}/people/actions`, {
    people: { ids: [person] },
    action: { do: 'erase', reason: 'asked for it' },
  });
  await until(kept, ({ n }) => n === 0);
});

function winning(wins: Winner): IncomingMapping {
  return { ...mapping, parts: mapping.parts.map((part) => ({ ...part, wins })) };
}
