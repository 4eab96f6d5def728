import type {
  DestinationRow,
  FieldsPage,
  LineRow,
  NewInletAddress,
  SaveDestination,
  WebhooksPage,
} from '@dart-loop/contract';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { durationMs } from '@dart-loop/core';
import sharp from 'sharp';
import { typedFor } from '../../apps/standins/src/access';
import { postJson, type Api } from '../api';
import { siteOf } from './site';
import { DEMO, read, readWalls, type World, type WorldLine } from './world';

/** How the stand-ins name a line. */
export function standinName(line: WorldLine): string {
  if (line.channel === 'telegram') return line.token.split(':')[0]!;
  return line.channel === 'sms' ? line.number : `${line.channel}:${line.id}`;
}

/**
 * Puts up the walls of the accounts, connects the lines, and brings in and publishes the loops of the world.
 */
export async function setUpClients(
  api: Api,
  world: World,
  standins: string,
  now: number,
): Promise<void> {
  const walls = readWalls();
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
      const { id } = await api.post<LineRow>(`/clients/${client.slug}/lines`, { channel: line.channel, ...typedFor(line) });
      if ('menus' in line && line.menus)
        await api.put(`/clients/${client.slug}/lines/${id}/menus`, line.menus);
    }
    for (const calendar of client.calendars) await api.post(`/clients/${client.slug}/calendars`, calendar);
    for (const { name, drawing } of client.files) {
      const picture = await sharp(Buffer.from(read(drawing))).png().toBuffer();
      await api.file(`/clients/${client.slug}/files?name=${encodeURIComponent(name)}`, picture);
    }
    await postJson(`${standins}/control`, { site: siteOf(client.slug, client.name) });
    await addSources(api, client);
    for (const loop of client.loops) {
      const { id } = await api.post<{ id: string }>(`/clients/${client.slug}/loops/import`, {
        file: read(`${client.slug}/${loop}.yaml`),
      });
      await api.post(`/clients/${client.slug}/loops/${id}/publish`, { revision: 1 });
    }
  }
}

/** The pages of its site as documents, a few answers of its own, and the questions that customers ask. */
async function addSources(api: Api, { slug, pairs }: World['clients'][number]): Promise<void> {
  const folder = join(DEMO, slug);
  for (const file of readdirSync(join(folder, 'site')).sort())
    await api.file(`/clients/${slug}/sources/documents?name=${file}`, readFileSync(join(folder, 'site', file)));
  for (const pair of pairs) await api.post(`/clients/${slug}/pairs`, pair);
  await api.post(`/clients/${slug}/sheet/paste`, { csv: read(`${slug}/questions.csv`) });
}

/**
 * Makes the incoming webhook by which the CRM tells of the columns that fields go into; gives its address.
 */
export async function tieBack(
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
