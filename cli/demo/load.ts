import pg from 'pg';
import type { DestinationPage, LineRow } from '@dart-loop/contract';
import { WoundClock } from '../../apps/server/src/platform/clock';
import type { Config } from '../../apps/server/src/platform/config';
import { startServer } from '../../apps/server/src/server';
import { Api, postJson } from '../api';
import { sleep } from '../machine';
import { makeAgency } from './agency';
import { setUpClients, standinName, tieBack } from './clients';
import { conversations, doingOf } from './conversations';
import { bringDemoPeople } from './people';
import { readNames } from './world';

const DAY = 86_400_000;

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
    const names = readNames();
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
