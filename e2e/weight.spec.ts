import { gzipSync } from 'node:zlib';
import { expect, signIn, test } from './stage';

/** The most JavaScript that a screen may load, gzipped, in kB; the rest belongs elsewhere. */
const BUDGETS: [screen: string, shows: string, most: number][] = [
  ['/', 'yesterday', 400],
  ['/inbox', 'Settled', 410],
  ['/saltmarsh-ferries/people', 'Harwick regulars', 440],
  ['/saltmarsh-ferries/loops', 'Sailing alerts', 410],
  ['/saltmarsh-ferries/lines', 'Connect a line', 430],
];

test('no screen loads more JavaScript than its budget, or is named a script that it does not run', async ({
  browser,
}, info) => {
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
    await fresh.coverage.startJSCoverage();
    const page = await fresh.goto(screen);
    await expect(fresh.getByText(shows).first()).toBeVisible();
    // What the server named with the page is what the page has run.
    const named = [...(page?.headers().link ?? '').matchAll(/<([^>]+)>; rel=preload; as=script/g)];
    const run = (await fresh.coverage.stopJSCoverage()).map(({ url }) => new URL(url).pathname);
    expect(named.length, screen).toBeGreaterThan(0);
    expect(run, screen).toEqual(expect.arrayContaining(named.map(([, script]) => script)));
    const sizes = (await Promise.all(bodies)).map((body) => gzipSync(body).length);
    weights[screen] = sizes.reduce((sum, size) => sum + size, 0) / 1_000;
    await context.close();
  }
  for (const [screen, , most] of BUDGETS) expect(weights[screen], screen).toBeLessThan(most);
  expect(Math.min(...Object.values(weights))).toBeGreaterThan(100);
});
