import { gzipSync } from 'node:zlib';
import { expect, signIn, test } from './stage';

/** The most JavaScript that a screen may load, gzipped, in kB; the rest belongs elsewhere. */
const BUDGETS: [screen: string, shows: string, most: number][] = [
  ['/', 'yesterday', 500],
  ['/inbox', 'Settled', 510],
  ['/saltmarsh-ferries/people', 'Harwick regulars', 540],
  ['/saltmarsh-ferries/loops', 'Sailing alerts', 510],
  ['/saltmarsh-ferries/lines', 'Connect a line', 510],
];

test('no screen loads more JavaScript than its budget', async ({ page, browser }, info) => {
  test.skip(info.project.name !== 'phone', 'sizes are the same on both');
  const weights: Record<string, number> = {};
  for (const [screen, shows] of BUDGETS) {
    const context = await browser.newContext({ baseURL: info.project.use.baseURL });
    const fresh = await context.newPage();
    await signIn(fresh);
    const bodies: Promise<Buffer>[] = [];
    fresh.on('response', (response) => {
      if (response.request().resourceType() === 'script') bodies.push(response.body());
    });
    await fresh.goto(screen);
    await expect(fresh.getByText(shows).first()).toBeVisible();
    const sizes = (await Promise.all(bodies)).map((body) => gzipSync(body).length);
    weights[screen] = sizes.reduce((sum, size) => sum + size, 0) / 1_000;
    await context.close();
  }
  await page.close();
  for (const [screen, , most] of BUDGETS) expect(weights[screen], screen).toBeLessThan(most);
  expect(Math.min(...Object.values(weights))).toBeGreaterThan(100);
});
