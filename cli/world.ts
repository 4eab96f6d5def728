import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { parse } from 'yaml';
import { z } from 'zod';
import { OpeningHours } from '@dart-loop/core';
import { WoundClock } from '../apps/server/src/clock';
import type { Config } from '../apps/server/src/config';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../apps/server/src/http/session';
import { hashPassword } from '../apps/server/src/secrets';
import { startServer } from '../apps/server/src/server';
import { smsAccess } from '../apps/standins/src/sms';
import { Api } from './api';
import { ROOT } from './places';
import { sleep } from './machine';

const DAY = 86_400_000;
const Says = z.union([z.string(), z.object({ tap: z.string() }), z.object({ later: z.string().regex(/^\d+h$/) })]);
const World = z.object({
  agency: z.string(),
  clients: z.array(
    z.object({
      slug: z.string(),
      name: z.string(),
      country: z.string(),
      timeZone: z.string(),
      brief: z.record(z.string(), z.string()),
      languages: z.array(z.string()).default(['en']),
      openingHours: OpeningHours.default({}),
      lines: z.array(
        z.discriminatedUnion('channel', [
          z.object({ channel: z.literal('telegram'), token: z.string() }),
          z.object({ channel: z.literal('sms'), number: z.string() }),
        ]),
      ),
      loops: z.array(z.string()),
    }),
  ),
});
const Kinds = z.array(z.object({ client: z.string(), line: z.enum(['telegram', 'sms']), times: z.number().int(), says: z.array(Says) }));
const Names = z.object({ first: z.array(z.string()), last: z.array(z.string()) });

const read = (file: string) => readFileSync(join(ROOT, 'demo', file), 'utf8');

/** Whether the database already holds a world. */
export async function isLoaded(ownerUrl: string): Promise<boolean> {
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  try {
    return ((await db.query('select from agency limit 1')).rowCount ?? 0) > 0;
  } finally {
    await db.end();
  }
}

/** Makes the agency, its accounts and its clients; lines and loops come in through the API, as a user would bring them. */
export async function makeAgency(ownerUrl: string): Promise<z.infer<typeof World>> {
  const world = World.parse(parse(read('clients.yaml')));
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  try {
    await db.query('begin');
    const agency = (await db.query<{ id: number }>('insert into agency (name) values ($1) returning id', [world.agency])).rows[0]!.id;
    const ids = new Map<string, number>();
    for (const client of world.clients) {
      const made = await db.query<{ id: number }>(
        'insert into client (agency_id, slug, name, brief, country, time_zone, languages, opening_hours) values ($1, $2, $3, $4, $5, $6, $7, $8) returning id',
        [agency, client.slug, client.name, client.brief, client.country, client.timeZone, client.languages, client.openingHours],
      );
      ids.set(client.slug, made.rows[0]!.id);
    }
    for (const account of DEMO_ACCOUNTS) {
      const made = await db.query<{ id: number }>(
        'insert into account (agency_id, email, name, role, password_hash, all_clients) values ($1, $2, $3, $4, $5, $6) returning id',
        [agency, account.email, account.name, account.role, await hashPassword(DEMO_PASSWORD), account.role !== 'client'],
      );
      if (account.role === 'client')
        await db.query('insert into account_client (account_id, client_id) values ($1, $2)', [
          made.rows[0]!.id,
          ids.get('saltmarsh-ferries'),
        ]);
    }
    await db.query('commit');
  } finally {
    await db.end();
  }
  return world;
}

/** Connects the lines and brings in and publishes the loops of the world. */
export async function setUpClients(api: Api, world: z.infer<typeof World>): Promise<void> {
  for (const client of world.clients) {
    for (const line of client.lines)
      await api.post(`/clients/${client.slug}/lines`, line.channel === 'telegram' ? line : { ...line, ...smsAccess(line.number) });
    for (const loop of client.loops) {
      const { id } = await api.post<{ id: string }>(`/clients/${client.slug}/loops/import`, { file: read(`${client.slug}/${loop}.yaml`) });
      await api.post(`/clients/${client.slug}/loops/${id}/publish`, { revision: 1 });
    }
  }
}

/**
 * Loads the demo world: accounts, lines and loops, then a week of conversations played through the stand-ins and the
 * real webhooks, with the clocks of both wound through the week. `config.address` is where the demo will be later.
 */
export async function loadWorld(
  ownerUrl: string,
  config: Config,
  standins: string,
  now: number,
  progress: (done: number, of: number) => void,
): Promise<void> {
  const world = await makeAgency(ownerUrl);
  const clock = new WoundClock(now - 7 * DAY);
  const control = (order: object) => postJson(`${standins}/control`, order);
  await control({ clock: clock.now(), limits: false });
  const server = await startServer({ ...config, log: 'error' }, clock);
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  try {
    const api = await Api.signIn(server.address, 'owner');
    await setUpClients(api, world);
    const settle = async () => {
      for (;;) {
        await server.path.settled();
        const { rows } = await db.query<{ left: number }>(
          "select ((select count(*) from message where status = 'queued') + (select count(*) from pending) + (select count(*) from errand where status = 'waiting'))::int as left",
        );
        if (rows[0]!.left === 0) return;
        clock.wind(clock.now() + 1_100);
        await sleep(2);
      }
    };
    const windTo = async (moment: number) => {
      for (;;) {
        const { rows } = await db.query<{ due: Date | null }>('select min(due_at) as due from timer');
        const due = rows[0]?.due?.getTime();
        if (due === undefined || due > moment) break;
        clock.wind(due);
        await control({ clock: clock.now() });
        await settle();
      }
      clock.wind(moment);
      await control({ clock: clock.now() });
    };
    const acts = conversations(world, now);
    for (const [index, act] of acts.entries()) {
      await windTo(act.at);
      const person = { channel: act.channel, line: act.line, who: act.who };
      if (typeof act.says === 'string') await postJson(`${standins}/phone/write`, { ...person, name: act.name, text: act.says });
      else {
        const { messages } = await postJson<{ messages: { id: string; buttons: { text: string; data: string }[] }[] }>(
          `${standins}/phone/look`,
          person,
        );
        const message = messages.findLast((each) => each.buttons.some((button) => button.text === (act.says as { tap: string }).tap));
        const button = message?.buttons.find((each) => each.text === (act.says as { tap: string }).tap);
        if (!message || !button) throw new Error(`the demo conversation of ${act.name} finds no button “${act.says.tap}”`);
        await postJson(`${standins}/phone/tap`, { ...person, messageId: message.id, data: button.data });
      }
      await settle();
      progress(index + 1, acts.length);
    }
    await windTo(now);
    await settle();
    await server.path.noteLines();
  } finally {
    await db.end();
    await server.stop();
    await control({ clock: null, limits: true });
  }
}

interface Act {
  at: number;
  channel: 'telegram' | 'sms';
  line: string;
  who: string;
  name: string;
  says: string | { tap: string };
}

/** The week's conversations: the same for the same moment, spread over waking hours, the unanswered ones last. */
function conversations(world: z.infer<typeof World>, now: number): Act[] {
  const kinds = Kinds.parse(parse(read('conversations.yaml')));
  const names = Names.parse(parse(read('people.yaml')));
  let seed = 20_261;
  const chance = () => {
    // mulberry32
    seed = (seed + 0x6d2b79f5) | 0;
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
  const acts: Act[] = [];
  let person = 0;
  for (const kind of kinds) {
    const client = world.clients.find((each) => each.slug === kind.client)!;
    const line = client.lines.find((each) => each.channel === kind.line)!;
    for (let time = 0; time < kind.times; time++) {
      person++;
      const first = names.first[(person * 7) % names.first.length]!;
      const last = names.last[(person * 4) % names.last.length]!;
      const number = String(person).padStart(3, '0');
      const fill: Record<string, string> = {
        '{email}': `${first}.${last}@example.org`.toLowerCase(),
        '{bad email}': `${first.toLowerCase()} at example`,
        '{number}': String(1 + Math.floor(chance() * 5)),
        '{phone}': `07700 900 ${number}`,
      };
      const day = kind.times === 1 ? 0 : Math.floor(chance() * 7);
      let at =
        kind.times === 1
          ? now - Math.round((0.2 + chance() * 1.5) * 3_600_000)
          : Math.min(now - 3_600_000 * (1 + chance() * 9), now - day * DAY - chance() * 9 * 3_600_000);
      for (const says of kind.says) {
        if (typeof says === 'object' && 'later' in says) {
          at += Number.parseInt(says.later) * 3_600_000;
          continue;
        }
        acts.push({
          at: Math.min(at, now - 60_000),
          channel: kind.line,
          line: line.channel === 'telegram' ? line.token.split(':')[0]! : line.number,
          who: kind.line === 'telegram' ? `61000${number}` : `+447700900${number}`,
          name: `${first} ${last}`.slice(0, 40),
          says: typeof says === 'string' ? says.replace(/\{[a-z ]+\}/g, (key) => fill[key] ?? key) : says,
        });
        at += 20_000 + chance() * 240_000;
      }
    }
  }
  return acts.sort((a, b) => a.at - b.at);
}

async function postJson<T>(url: string, body: object): Promise<T> {
  const response = await fetch(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
  const answer = (await response.json()) as T & { reason?: string };
  if (!response.ok) throw new Error(`${url} answered ${response.status}: ${answer.reason ?? ''}`);
  return answer;
}
