import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import type { DestinationRow, InboxPage, LoopRow, PeoplePage, WebhooksPage } from '@dart-loop/contract';
import { Api } from '../api';
import { removeCluster, removeLeftClusters } from '../cluster';
import { chromium as browserPath, needPackages } from '../machine';
import { DATA, ROOT } from '../places';
import { startStack } from '../stack';
import { signInDemo } from '../browser';

const CLIENT = 'saltmarsh-ferries';
const SIZES = { phone: { width: 390, height: 844 }, wide: { width: 1280, height: 800 } } as const;

/** `./dartloop shots`: one current picture of each main view, from the demo's data. */
export async function shots(): Promise<void> {
  needPackages({ browser: true }, console.log);
  removeLeftClusters();
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
    const inlet = (await api.get<WebhooksPage>(`/clients/${CLIENT}/webhooks`)).inlets[0]!.id;
    const register = (await api.get<DestinationRow[]>(`/clients/${CLIENT}/destinations`))[0]!.id;
    const held = (await api.get<InboxPage>('/inbox?shelf=waiting')).rows.find(
      (row) => row.held && row.channel === 'telegram',
    )!;
    const office = (await api.get<LoopRow[]>(`/clients/${CLIENT}/loops`)).find(
      (row) => row.name === 'Ticket office',
    )!.id;
    const finder = (await api.get<LoopRow[]>('/clients/bramble-row-nursery/loops')).find(
      (row) => row.name === 'Plant finder',
    )!.id;
    const commented = (await api.get<InboxPage>(`/inbox?shelf=running&client=orrery-picture-house`)).rows[0]!
      .id;
    // Each with words that stand there once everything has come.
    const views: {
      name: string;
      path: string;
      size: keyof typeof SIZES;
      shows: string | RegExp;
      light?: 'dark';
      /** Pressed one after the other. */
      press?: string[];
      /** Then written into a field, a line each: that of the rehearsal, or another. */
      says?: string[];
      into?: string;
      /** What is waited for then. */
      hears?: RegExp;
      top?: boolean;
    }[] = [
      { name: 'today-phone-dark', path: '/', size: 'phone', shows: /conversations/, light: 'dark' },
      { name: 'loops-phone', path: `/${CLIENT}/loops`, size: 'phone', shows: /Newsletter/ },
      { name: 'brief-wide', path: `/${CLIENT}/brief`, size: 'wide', shows: /Used by/ },
      {
        name: 'script-wide',
        path: `/${CLIENT}/loops/${loop}`,
        size: 'wide',
        shows: /Which island/,
        press: ['SMS', 'The person writes “SAILINGS”'],
        says: ['a', 'skerry'],
      },
      {
        name: 'checks-phone',
        path: `/bramble-row-nursery/loops/${finder}?see=checks`,
        size: 'phone',
        shows: /Risky/,
        press: ['Paths'],
      },
      {
        name: 'route-wide-dark',
        path: `/${CLIENT}/loops/${loop}?see=route`,
        size: 'wide',
        shows: /37 paths|paths,/,
        light: 'dark',
      },
      {
        name: 'rehearse-phone',
        path: `/${CLIENT}/loops/${loop}?see=rehearse`,
        size: 'phone',
        shows: /The person writes “SAILINGS”/,
        press: ['The person writes “SAILINGS”'],
      },
      { name: 'inbox-wide', path: `/inbox/${CLIENT}/${talk}`, size: 'wide', shows: /You are on the list/ },
      {
        name: 'handed-over-wide',
        path: `/inbox/${CLIENT}/${held.id}`,
        size: 'wide',
        shows: /handed over to/,
      },
      {
        name: 'comment-wide',
        path: `/inbox/orrery-picture-house/${commented}`,
        size: 'wide',
        shows: /commented on the post/,
        top: true,
      },
      {
        name: 'answers-wide',
        path: `/${CLIENT}/answers`,
        size: 'wide',
        shows: /on-board.md/,
        says: ['r dogs allowed n do they pay?'],
        into: 'Ask as a customer',
        hears: /% sure/,
      },
      {
        name: 'ways-in-phone',
        path: `/${CLIENT}/loops/${office}`,
        size: 'phone',
        shows: /What is it about/,
        press: ['More for this loop', 'Ways in'],
      },
      {
        name: 'webhook-wide',
        path: `/${CLIENT}/webhooks/${inlet}`,
        size: 'wide',
        shows: /contact\.town/,
      },
      {
        name: 'sync-wide',
        path: `/${CLIENT}/sync/${register}`,
        size: 'wide',
        shows: /Preview/,
      },
      {
        name: 'people-wide',
        path: `/${CLIENT}/people?where=${encodeURIComponent('town is Harwick and crossings is at least 12')}`,
        size: 'wide',
        shows: /Such as|Reads as/,
      },
      { name: 'person-phone', path: `/${CLIENT}/people/${person}`, size: 'phone', shows: /Activity/ },
      { name: 'bookings-phone', path: '/northgate-climbing/bookings', size: 'phone', shows: /Coached hour/ },
      { name: 'lines-phone', path: `/${CLIENT}/lines`, size: 'phone', shows: /Webhook address/ },
    ];
    for (const view of views) {
      const context = await browser.newContext({
        viewport: SIZES[view.size],
        colorScheme: view.light ?? 'light',
        baseURL: stack.address,
      });
      await signInDemo(context.request, 'builder');
      const page = await context.newPage();
      await page.goto(view.path);
      await page.getByRole('heading', { level: 1 }).first().waitFor();
      await page
        .getByText(/^(Loading|Opening Dart Loop)/)
        .first()
        .waitFor({ state: 'detached' });
      await page.getByText(view.shows).first().waitFor();
      for (const name of view.press ?? [])
        await page
          .getByRole('button', { name: new RegExp(`^${name}`) })
          .or(page.getByRole('radio', { name: new RegExp(`^${name}`) }))
          .first()
          .click();
      for (const line of view.says ?? []) {
        const field = page.getByLabel(view.into ?? 'Write as the customer');
        await field.fill(line);
        await field.press('Enter');
      }
      if (view.hears) await page.getByText(view.hears).first().waitFor();
      if (view.top) await page.getByText(view.shows).first().scrollIntoViewIfNeeded();
      await page.evaluate(() => document.fonts.ready.then(() => undefined));
      await page.waitForTimeout(600);
      await page.screenshot({ path: join(to, `${view.name}.png`) });
      await context.close();
    }
    // The test phone with its wall, in the middle of a conversation.
    const wide = await browser.newContext({ viewport: SIZES.wide, baseURL: stack.address });
    await signInDemo(wide.request, 'builder');
    const wall = await wide.newPage();
    await wall.goto('/bramble-row-nursery/test-phone');
    await wall.getByRole('radio', { name: /WhatsApp/ }).click();
    await wall.getByRole('button', { name: /^Click the ad/ }).click();
    await wall.getByRole('log').getByRole('button', { name: 'Choose' }).click();
    await wall.waitForTimeout(400);
    await wall.screenshot({ path: join(to, 'test-phone-wide.png') });
    await wide.close();
    console.log(`${views.length + 1} pictures are in docs/screenshots.`);
  } finally {
    await browser.close();
    await stack.stop();
    removeCluster(folder);
  }
}
