import { Agent, request } from 'node:http';
import pg from 'pg';
import type { DestinationPage, DestinationRow, PeoplePage } from '@dart-loop/contract';
import { Api } from '../cli/api';
import { sleep } from '../cli/machine';
import { startStack } from '../cli/stack';
import { makeAgency } from '../cli/demo/agency';
import { median, print } from './figures';

const CLIENT = '/clients/saltmarsh-ferries';
const QUEUED = 10_000;
const LOOKS_MS = 250;

/**
 * Deliveries to an endpoint on this machine: how many a second, how long 10,000 take after an outage, and how
 * quick the app is meanwhile.
 */
export async function deliveries(folder: string): Promise<void> {
  const stack = await startStack({ folder, wishedPort: 0, world: false, web: false, log: 'error' });
  const db = new pg.Client({ connectionString: stack.cluster.owner });
  await db.connect();
  try {
    await makeAgency(stack.cluster.owner);
    const api = await Api.signIn(stack.address, 'owner');
    for (const [key, type] of [
      ['email', 'email'],
      ['town', 'text'],
    ])
      await api.post(`${CLIENT}/fields`, { key, type, name: key });
    const { id } = await api.post<DestinationPage>(`${CLIENT}/destinations`, {
      kind: 'webhook',
      name: 'Endpoint',
      settings: { address: 'https://sink.example/in' },
      mapping: ['email', 'town'].map((to) => ({ to, as: 'text', origin: { from: 'field', field: to } })),
      triggers: { tags: 'any' },
    });
    await fill(db);
    const plain = await plainLoop(`${stack.standins}/outside/sink.example/in`);
    // An outage: what is to go out is noted, and nothing goes.
    await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'paused' });
    await db.query(
      `
        insert into tag_change (client_id, person_id, tag, is_on, at, by)
        select 1, id, 'late', true, now(), '{"kind": "person"}' from person where client_id = 1`,
    );
    const waiting = async () => (await api.get<DestinationRow[]>(`${CLIENT}/destinations`))[0]!.waiting;
    if ((await waiting()) !== QUEUED)
      throw new Error(`${await waiting()} deliveries wait, and ${QUEUED} should`);
    const quiet = await looks(api, () => Promise.resolve(false));
    await sleep(1_100);
    const began = performance.now();
    await api.post(`${CLIENT}/destinations/${id}/state`, { state: 'on' });
    const busy = await looks(api, async () => (await waiting()) > 0);
    const seconds = (performance.now() - began) / 1_000;
    const { rows } = await db.query<{ n: number }>(
      "select count(*)::int as n from delivery where status = 'done'",
    );
    if (rows[0]!.n !== QUEUED)
      throw new Error(`${rows[0]!.n} deliveries were made, and ${QUEUED} should have been`);
    print(
      'deliveries a second to an endpoint on this machine',
      QUEUED / seconds,
      `the same posts in a plain loop, one after the other: ${plain.toFixed(0)} a second; ratio ${(QUEUED / seconds / plain).toFixed(2)}`,
    );
    print(
      '10,000 deliveries queued in an outage, s till all are made',
      seconds,
      `in a plain loop: ${(QUEUED / plain).toFixed(1)} s`,
    );
    print(
      'first rows of the list of people meanwhile, median, ms',
      median(busy),
      `without deliveries: ${median(quiet).toFixed(1)} ms`,
    );
  } finally {
    await db.end();
    await stack.stop();
  }
}

async function fill(db: pg.Client): Promise<void> {
  await db.query(
    `
     insert into person (client_id, id, first_name, fields, tags, lists, created_at, last_seen_at)
     select 1, gen_random_uuid(), 'P' || n,
       jsonb_build_object('email', jsonb_build_object('type', 'email', 'value', 'p' || n || '@example.org'),
       'town', jsonb_build_object('type', 'text', 'value', 'Harwick')), '{}', '{}', now(), now()
       from generate_series(1, $1::int) n`,
    [QUEUED],
  );
}

/**
 * How quickly the list of people answers, as often as somebody could look, till it is over; at least ten
 * times.
 */
async function looks(api: Api, goesOn: () => Promise<boolean>): Promise<number[]> {
  const times: number[] = [];
  while (times.length < 10 || (await goesOn())) {
    const from = performance.now();
    await api.get<PeoplePage>(`${CLIENT}/people`);
    times.push(performance.now() - from);
    await sleep(LOOKS_MS);
  }
  return times;
}

/** Posts a second of the same size without anything around them, over one kept connection. */
async function plainLoop(address: string): Promise<number> {
  const agent = new Agent({ keepAlive: true, maxSockets: 1 });
  const body = JSON.stringify({
    specversion: '1.0',
    id: '00000000-0000-0000-0000-000000000000',
    source: 'dart-loop/Saltmarsh%20Ferries',
    type: 'person.changed',
    subject: '00000000-0000-0000-0000-000000000000',
    time: new Date().toISOString(),
    datacontenttype: 'application/json',
    data: { email: 'p1000@example.org', town: 'Harwick' },
  });
  const post = () =>
    new Promise<void>((resolve, reject) => {
      const sent = request(
        address,
        { method: 'POST', agent, headers: { 'content-type': 'application/json' } },
        (answer) => {
          answer.resume();
          answer.once('end', resolve);
        },
      );
      sent.once('error', reject);
      sent.end(body);
    });
  const began = performance.now();
  const count = QUEUED / 4;
  for (let at = 0; at < count; at++) await post();
  agent.destroy();
  return count / ((performance.now() - began) / 1_000);
}
