import type { AnswerView, Source } from '@dart-loop/contract';
import { Api } from '../../../cli/api';
import { WoundClock } from '../src/platform/clock';
import { startServer } from '../src/server';

import { Stage, until } from './support/stage';

/** What passages mean: worked out in the background, kept beside them, and what it changes. */

const clock = new WoundClock(Date.UTC(2026, 11, 1, 10));
let stage: Stage;
beforeAll(async () => {
  stage = await Stage.open({ clock });
  const where = { country: 'GB', timeZone: 'Europe/London' };
  await stage.api.post('/clients', { name: 'Heron Boats', ...where, language: 'en' });
  await stage.api.post('/clients', { name: 'Garza Barcos', ...where, language: 'es' });
});
afterAll(() => stage.close());

const add = (slug: string, text: string): Promise<Source> =>
  stage.api.file<Source>(`/clients/${slug}/sources/documents?name=boats.md`, Buffer.from(text));
const ask = async (slug: string, message: string): Promise<AnswerView> => {
  const [answer] = await stage.api.post<AnswerView[]>(`/clients/${slug}/sources/ask`, {
    message,
    channel: 'telegram',
  });
  return answer!;
};
const standing = async (slug: string) => {
  const { rows } = await stage.db.query<{ is: boolean; kept: number }>(
    `
      select c.encoded_revision = c.sources_revision as is,
        (select count(*)::int from passage_meaning m where m.client_id = c.id) as kept
      from client c where slug = $1`,
    [slug],
  );
  return rows[0]!;
};
const encoded = (slug: string) =>
  until(
    () => standing(slug),
    ({ is }) => is,
  );

const PAGE =
  '# Boats\n\n## Swimming\n\nThe current is strong. Ask for the times of the tide.\n\n## Barbecues\n\nThey may stand on the ground if they have legs.\n\n## Shop\n\nMilk and ice are sold from 08:00 to 18:00.\n';

test('passages are answered from at once, and by what they mean when that is known', async () => {
  const { id } = await add('heron-boats', PAGE);
  expect((await ask('heron-boats', 'when is the shop open'))?.passages[0]?.heading).toBe('Shop');
  await encoded('heron-boats');
  expect((await standing('heron-boats')).kept).toBe(3);
  // No word of it stands in the passage.
  const { zone, passages, next } = await ask('heron-boats', 'can my children bathe safely in the sea');
  expect([...passages, ...next][0]?.heading).toBe('Swimming');
  expect(zone).not.toBe('answer');

  // What no passage says any more is let go of; what is said still is not worked out again.
  await stage.api.file(
    `/clients/heron-boats/sources/${id}/content?name=boats.md`,
    Buffer.from(PAGE.replace('Milk and ice', 'Milk and bread')),
  );
  const before = await digests();
  await encoded('heron-boats');
  const after = await digests();
  expect(after).toHaveLength(3);
  expect(after.filter((digest) => before.includes(digest))).toHaveLength(2);
});

const digests = async (): Promise<string[]> => {
  const { rows } = await stage.db.query<{ digest: Buffer }>(
    "select digest from passage_meaning m join client c on c.id = m.client_id where c.slug = 'heron-boats'",
  );
  return rows.map(({ digest }) => digest.toString('hex'));
};

test('another process learns it from the database', async () => {
  await encoded('heron-boats');
  const other = await startServer({ ...stage.config, port: 0 }, clock);
  try {
    const api = await Api.signIn(other.address, 'owner');
    const [answer] = await api.post<AnswerView[]>('/clients/heron-boats/sources/ask', {
      message: 'can my children bathe safely in the sea',
      channel: 'telegram',
    });
    expect([...answer!.passages, ...answer!.next][0]?.heading).toBe('Swimming');
  } finally {
    await other.stop();
  }
});

test('sources of a client who speaks no English are compared by their words', async () => {
  await add('garza-barcos', '# Barcos\n\n## Perros\n\nLos perros viajan gratis.\n');
  await encoded('garza-barcos');
  expect((await standing('garza-barcos')).kept).toBe(0);
  expect((await ask('garza-barcos', 'perros gratis')).passages[0]?.heading).toBe('Perros');
});
