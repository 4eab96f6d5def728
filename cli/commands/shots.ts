import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import type { InboxPage, LoopRow, PeoplePage } from '@dart-loop/contract';
import { Api } from '../api';
import { removeCluster } from '../cluster';
import { chromium as browserPath, needPackages } from '../machine';
import { DATA, ROOT } from '../places';
import { startStack } from '../stack';

const CLIENT = 'saltmarsh-ferries';
const SIZES = { phone: { width: 390, height: 844 }, wide: { width: 1280, height: 800 } } as const;

/** `./dartloop shots`: one current picture of each main view, from the demo's data. */
export async function shots(): Promise<void> {
  needPackages({ browser: true }, console.log);
  const folder = join(DATA, `browser-${process.pid}`);
  const to = join(ROOT, 'docs/screenshots');
  mkdirSync(to, { recursive: true });
  const stack = await startStack({ folder, wishedPort: 0, world: true, web: true, step: console.log });
  const browser = await chromium.launch({
    executablePath: browserPath()!,
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  try {
    const api = await Api.signIn(stack.address, 'builder');
    const loop = (await api.get<LoopRow[]>(`/clients/${CLIENT}/loops`))[0]!.id;
    const person = (await api.get<PeoplePage>(`/clients/${CLIENT}/people?q=example.org`)).rows.find((row) =>
      row.channels.includes('telegram'),
    )!.id;
    const talk = (await api.get<InboxPage>(`/inbox?shelf=settled&client=${CLIENT}`)).rows.find((row) =>
      row.lastWords.startsWith('You are on the list'),
    )!.id;
    const waiting = (await api.get<InboxPage>('/inbox?shelf=waiting')).rows[0]!;
    const views: { name: string; path: string; size: keyof typeof SIZES; light?: 'dark' }[] = [
      { name: 'today-phone-dark', path: '/', size: 'phone', light: 'dark' },
      { name: 'loops-phone', path: `/${CLIENT}/loops`, size: 'phone' },
      { name: 'script-phone', path: `/${CLIENT}/loops/${loop}`, size: 'phone' },
      { name: 'script-wide', path: `/${CLIENT}/loops/${loop}`, size: 'wide' },
      { name: 'inbox-wide', path: `/inbox/${CLIENT}/${talk}`, size: 'wide' },
      { name: 'inbox-wide-dark', path: `/inbox/${waiting.client.slug}/${waiting.id}`, size: 'wide', light: 'dark' },
      { name: 'people-phone', path: `/${CLIENT}/people`, size: 'phone' },
      { name: 'person-phone', path: `/${CLIENT}/people/${person}`, size: 'phone' },
      { name: 'lines-phone', path: `/${CLIENT}/lines`, size: 'phone' },
    ];
    for (const view of views) {
      const context = await browser.newContext({ viewport: SIZES[view.size], colorScheme: view.light ?? 'light', baseURL: stack.address });
      await context.request.post('/api/session/demo', { data: { role: 'builder' } });
      const page = await context.newPage();
      await page.goto(view.path);
      await page.getByText(/^(Loading|Opening)/).waitFor({ state: 'detached' });
      await page.evaluate(() => document.fonts.ready.then(() => undefined));
      await page.waitForTimeout(600);
      await page.screenshot({ path: join(to, `${view.name}.png`) });
      await context.close();
    }
    // The test phone, in the middle of a conversation.
    const context = await browser.newContext({ viewport: SIZES.phone, baseURL: stack.address });
    await context.request.post('/api/session/demo', { data: { role: 'builder' } });
    const page = await context.newPage();
    await page.goto(`/${CLIENT}/test-phone`);
    await page.getByLabel('Write as the customer').fill('sailings');
    await page.getByRole('button', { name: 'Send' }).click();
    await page.getByRole('button', { name: 'Yes, keep me posted' }).click();
    await page.getByText('Which crossing do you use most?').waitFor();
    await page.waitForTimeout(400);
    await page.screenshot({ path: join(to, 'test-phone.png') });
    await context.close();
    console.log(`${views.length + 1} pictures are in docs/screenshots.`);
  } finally {
    await browser.close();
    await stack.stop();
    removeCluster(folder);
  }
}
