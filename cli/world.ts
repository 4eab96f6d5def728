import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { parse } from 'yaml';
import { z } from 'zod';
import {
  ROLES,
  SaveDestination,
  type DemoSignIn,
  type DestinationPage,
  type DestinationRow,
  type FieldsPage,
  type LineRow,
  type NewInletAddress,
  type WebhooksPage,
} from '@dart-loop/contract';
import { Calendar, ChannelKind, Duration, Menus, OpeningHours, durationMs } from '@dart-loop/core';
import { WoundClock } from '../apps/server/src/platform/clock';
import type { Config } from '../apps/server/src/platform/config';
import { hashPassword } from '../apps/server/src/platform/secrets';
import { startServer } from '../apps/server/src/server';
import { graphAccess } from '../apps/standins/src/graph';
import type { PhoneView } from '../apps/standins/src/phone';
import { smsAccess } from '../apps/standins/src/sms';
import { Api } from './api';
import { DemoPeople, bringDemoPeople } from './demoPeople';
import { ROOT } from './places';
import { sleep } from './machine';

const DAY = 86_400_000;
const Says = z.union([
  z.string(),
  z.object({ tap: z.string() }),
  z.object({ comment: z.string(), on: z.string() }),
  z.object({ ad: z.string() }),
  z.object({ link: z.string() }),
  z.object({ later: z.string().regex(/^\d+h$/) }),
]);
const World = z.object({
  agency: z.string(),
  password: z.string(),
  accounts: z.array(
    z.object({
      role: z.enum(ROLES),
      name: z.string(),
      email: z.string(),
      words: z.string(),
      /** Their slugs; all clients where it is left out. */
      clients: z.array(z.string()).optional(),
    }),
  ),
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
          z.object({
            channel: z.enum(['messenger', 'instagram']),
            id: z.string(),
            name: z.string(),
            menus: Menus.optional(),
          }),
          z.object({ channel: z.literal('whatsapp'), id: z.string(), number: z.string() }),
          z.object({ channel: z.literal('telegram'), token: z.string() }),
          z.object({ channel: z.literal('sms'), number: z.string() }),
        ]),
      ),
      calendars: z.array(Calendar).default([]),
      loops: z.array(z.string()),
      people: DemoPeople.optional(),
      destinations: z.array(SaveDestination).default([]),
      /** An incoming webhook by which a destination tells of its changes. */
      wayBack: z.object({ hook: z.string(), of: z.string() }).optional(),
    }),
  ),
});
const Kinds = z.array(
  z.object({ client: z.string(), line: ChannelKind, times: z.number().int(), says: z.array(Says) }),
);
const Walls = z.array(
  z.object({
    channel: z.enum(['messenger', 'instagram', 'whatsapp']),
    account: z.string(),
    posts: z.array(z.object({ id: z.string(), ago: Duration, text: z.string() })),
    ads: z.array(z.object({ id: z.string(), text: z.string(), opening: z.string() })),
    templates: z
      .array(
        z.object({
          name: z.string(),
          language: z.string(),
          status: z.enum(['APPROVED', 'PENDING', 'REJECTED', 'PAUSED']),
          category: z.enum(['UTILITY', 'MARKETING', 'AUTHENTICATION']),
          body: z.string(),
          buttons: z.array(z.string()).default([]),
        }),
      )
      .default([]),
  }),
);
const Names = z.object({ first: z.array(z.string()), last: z.array(z.string()) });

const read = (file: string) => readFileSync(join(ROOT, 'demo', file), 'utf8');

/** The accounts that everybody may look around with. */
export function demoSignIns(): DemoSignIn[] {
  const { accounts, password } = World.parse(parse(read('clients.yaml')));
  return accounts.map(({ role, name, email, words }) => ({ role, name, email, words, password }));
}

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

/**
 * Makes the agency, its accounts and its clients; lines and loops come in through the API, as a user would
 * bring them.
 */
export async function makeAgency(ownerUrl: string): Promise<z.infer<typeof World>> {
  const world = World.parse(parse(read('clients.yaml')));
  const db = new pg.Client({ connectionString: ownerUrl });
  await db.connect();
  try {
    await db.query('begin');
    const agency = (
      await db.query<{ id: number }>('insert into agency (name) values ($1) returning id', [world.agency])
    ).rows[0]!.id;
    const ids = new Map<string, number>();
    for (const client of world.clients) {
      const made = await db.query<{ id: number }>(
        `
          insert into client (agency_id, slug, name, brief, country, time_zone, languages, opening_hours)
          values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
        [
          agency,
          client.slug,
          client.name,
          client.brief,
          client.country,
          client.timeZone,
          client.languages,
          client.openingHours,
        ],
      );
      ids.set(client.slug, made.rows[0]!.id);
    }
    for (const account of world.accounts) {
      const made = await db.query<{ id: number }>(
        `
          insert into account (agency_id, email, name, role, password_hash, all_clients)
          values ($1, $2, $3, $4, $5, $6) returning id`,
        [
          agency,
          account.email,
          account.name,
          account.role,
          await hashPassword(world.password),
          !account.clients,
        ],
      );
      for (const slug of account.clients ?? [])
        await db.query('insert into account_client (account_id, client_id) values ($1, $2)', [
          made.rows[0]!.id,
          ids.get(slug),
        ]);
    }
    await db.query('commit');
  } finally {
    await db.end();
  }
  return world;
}

type WorldLine = z.infer<typeof World>['clients'][number]['lines'][number];

/** How the stand-ins name a line. */
function standinName(line: WorldLine): string {
  if (line.channel === 'telegram') return line.token.split(':')[0]!;
  return line.channel === 'sms' ? line.number : `${line.channel}:${line.id}`;
}

/** What a builder would type to connect a line; the stand-ins make the same secrets from the account. */
function typedFor(line: WorldLine): object {
  switch (line.channel) {
    case 'telegram':
      return line;
    case 'sms':
      return { ...line, ...smsAccess(line.number) };
    case 'whatsapp':
      return {
        channel: line.channel,
        ...graphAccess(line.channel, line.id),
        numberId: line.id,
        wabaId: `8${line.id}`,
      };
    default:
      return { channel: line.channel, ...graphAccess(line.channel, line.id) };
  }
}

/**
 * Puts up the walls of the accounts, connects the lines, and brings in and publishes the loops of the world.
 */
export async function setUpClients(
  api: Api,
  world: z.infer<typeof World>,
  standins: string,
  now: number,
): Promise<void> {
  const walls = Walls.parse(parse(read('walls.yaml')));
  for (const client of world.clients) {
    for (const line of client.lines) {
      if ('id' in line) {
        const wall = walls.find((each) => each.channel === line.channel && each.account === line.id);
        await postJson(`${standins}/control`, {
          wall: {
            channel: line.channel,
            account: line.id,
            name: line.channel === 'whatsapp' ? line.number : line.name,
            posts: (wall?.posts ?? []).map(({ id, ago, text }) => ({ id, text, at: now - durationMs(ago) })),
            ads: wall?.ads ?? [],
            templates: (wall?.templates ?? []).map(({ body, buttons, ...template }) => ({
              ...template,
              components: [
                { type: 'BODY', text: body },
                ...(buttons.length > 0
                  ? [{ type: 'BUTTONS', buttons: buttons.map((text) => ({ type: 'QUICK_REPLY', text })) }]
                  : []),
              ],
            })),
          },
        });
      }
      const { id } = await api.post<LineRow>(`/clients/${client.slug}/lines`, typedFor(line));
      if ('menus' in line && line.menus)
        await api.put(`/clients/${client.slug}/lines/${id}/menus`, line.menus);
    }
    for (const calendar of client.calendars) await api.post(`/clients/${client.slug}/calendars`, calendar);
    for (const loop of client.loops) {
      const { id } = await api.post<{ id: string }>(`/clients/${client.slug}/loops/import`, {
        file: read(`${client.slug}/${loop}.yaml`),
      });
      await api.post(`/clients/${client.slug}/loops/${id}/publish`, { revision: 1 });
    }
  }
}

/** What goes wrong in the demo: a token that has expired, and a webhook that points nowhere. */
const TROUBLE = [
  { client: 'saltmarsh-ferries', channel: 'whatsapp', is: '401' },
  { client: 'kestrel-language-school', channel: 'messenger', is: 'not subscribed' },
] as const;

/**
 * Loads the demo world: accounts, lines and loops, then a week of conversations played through the stand-ins
 * and the real webhooks, with the clocks of both wound through the week. `config.address` is where the demo
 * will be later.
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
    await setUpClients(api, world, standins, now);
    const names = Names.parse(parse(read('people.yaml')));
    for (const [index, { slug, people }] of world.clients.entries())
      if (people) await bringDemoPeople(api, slug, people, names, index * 100, now);
    for (const { slug, destinations } of world.clients)
      for (const destination of destinations) {
        const { id } = await api.post<DestinationPage>(`/clients/${slug}/destinations`, destination);
        if (destination.kind === 'contact') await api.post(`/clients/${slug}/destinations/${id}/columns`, {});
        await api.post(`/clients/${slug}/destinations/${id}/state`, { state: 'on' });
      }
    // One refusal, so that there is something to look at and to replay.
    await control({
      outside: {
        host: 'crm.example',
        status: 422,
        body: { error: 'The register is being counted.' },
        times: 1,
      },
    });
    const settle = async () => {
      for (;;) {
        await server.path.settled();
        const { rows } = await db.query<{ left: number }>(
          `
            select ((select count(*) from message where status = 'queued') + (select count(*)
              from pending) + (select count(*) from errand where status = 'waiting') + (select count(*)
            from delivery where status = 'waiting'))::int as left`,
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
      await postJson(`${standins}/phone/act`, {
        ...person,
        name: act.name,
        ...(await doingOf(act, standins)),
      });
      await settle();
      progress(index + 1, acts.length);
    }
    await windTo(now);
    await settle();
    for (const { slug, wayBack, destinations } of world.clients)
      if (wayBack) {
        const destination = destinations.find(({ name }) => name === wayBack.of)!;
        await control({ crmTells: await tieBack(api, `/clients/${slug}`, wayBack, destination) });
      }
    await server.path.noteLines();
    for (const { client, channel, is } of TROUBLE) {
      const line = world.clients
        .find((each) => each.slug === client)!
        .lines.find((each) => each.channel === channel)!;
      await control({ mood: { channel, line: standinName(line), is } });
      const rows = await api.get<LineRow[]>(`/clients/${client}/lines`);
      await api.post(`/clients/${client}/lines/${rows.find((row) => row.channel === channel)!.id}/test`, {});
    }
  } finally {
    await db.end();
    await server.stop();
    await control({ clock: null, limits: true });
  }
}

/**
 * Makes the incoming webhook by which the CRM tells of the columns that fields go into; gives its address.
 */
async function tieBack(
  api: Api,
  client: string,
  { hook, of }: { hook: string; of: string },
  { mapping }: SaveDestination,
): Promise<string> {
  const { address } = await api.post<NewInletAddress>(`${client}/webhooks`, { hook });
  const { inlets } = await api.get<WebhooksPage>(`${client}/webhooks`);
  const destinations = await api.get<DestinationRow[]>(`${client}/destinations`);
  const { fields } = await api.get<FieldsPage>(`${client}/fields`);
  await api.put(`${client}/webhooks/${inlets.find((inlet) => inlet.hook === hook)!.id}/reading`, {
    destinationId: destinations.find(({ name }) => name === of)!.id,
    reading: {
      who: [
        { by: 'their id', from: 'contact.id' },
        { by: 'email', from: 'contact.email' },
      ],
      changedAt: 'changed_at',
      parts: mapping.flatMap(({ to, origin }) =>
        origin.from === 'field'
          ? [
              {
                from: `contact.${to}`,
                into: {
                  as: 'field',
                  field: origin.field,
                  type: fields.find(({ key }) => key === origin.field)!.type,
                },
                wins: 'newest',
              },
            ]
          : [],
      ),
    },
  });
  return address;
}

interface Act {
  at: number;
  channel: ChannelKind;
  line: string;
  who: string;
  name: string;
  says: Exclude<z.infer<typeof Says>, { later: string }>;
}

/** What somebody does, for the stand-in's telephone. A label may be cut on the button that bears it. */
async function doingOf({ channel, line, who, name, says }: Act, standins: string): Promise<object> {
  if (typeof says === 'string') return { do: 'write', text: says };
  if ('comment' in says) return { do: 'comment', postId: says.on, text: says.comment };
  if ('ad' in says) return { do: 'click ad', adId: says.ad };
  if ('link' in says) return { do: 'open link', ref: says.link };
  const shown = (text: string) =>
    text === says.tap || (text.endsWith('…') && says.tap.startsWith(text.slice(0, -1)));
  const { messages } = await postJson<PhoneView>(`${standins}/phone/look`, { channel, line, who });
  const message = messages.findLast((each) => each.buttons.some((button) => shown(button.text)));
  const button = message?.buttons.find((each) => shown(each.text));
  if (!message || !button) throw new Error(`the demo conversation of ${name} finds no button “${says.tap}”`);
  return { do: 'tap', messageId: message.id, data: button.data };
}

/** Who somebody is on a channel, by their number in the demo. */
const WHO: Record<ChannelKind, (number: string) => string> = {
  messenger: (number) => `2410000000000${number}`,
  instagram: (number) => `17800000000000${number}`,
  whatsapp: (number) => `+447700900${number}`,
  telegram: (number) => `61000${number}`,
  sms: (number) => `+447700900${number}`,
};

/**
 * The week's conversations: the same for the same moment, spread over waking hours, the unanswered ones last.
 */
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
          line: standinName(line),
          who: WHO[kind.line](number),
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
  const response = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  const answer = (await response.json()) as T & { reason?: string };
  if (!response.ok) throw new Error(`${url} answered ${response.status}: ${answer.reason ?? ''}`);
  return answer;
}
