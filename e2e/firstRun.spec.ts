import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { spawn, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from '../cli/places';
import { freePort } from '../cli/machine';
import { expect, expectAccessible, publish, test } from './stage';

/** An installation of the test’s own, started as docs/running.md says, with stand-ins for the platforms. */
async function startFresh(): Promise<{ address: string; code: string; end: () => Promise<void> }> {
  const data = join(ROOT, '.data');
  mkdirSync(data, { recursive: true });
  const folder = mkdtempSync(join(data, `browser-${process.pid}-first-`));
  const port = await freePort(0);
  const settings = join(folder, 'dartloop.env');
  writeFileSync(
    settings,
    `DARTLOOP_ADDRESS=http://127.0.0.1:${port}
DARTLOOP_PORT=${port}
DARTLOOP_FOLDER=${join(folder, 'live')}
DARTLOOP_TEST_PHONE=yes
DARTLOOP_TELEGRAM=${process.env.DARTLOOP_BROWSER_STANDINS}
`,
  );
  const environment = Object.fromEntries(
    Object.entries(process.env).filter(([name]) => !name.startsWith('DARTLOOP_')),
  );
  const child: ChildProcess = spawn(join(ROOT, 'dartloop'), ['start'], {
    env: { ...environment, DARTLOOP_SETTINGS: settings },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let said = '';
  const code = await new Promise<string>((resolve, reject) => {
    for (const stream of [child.stdout!, child.stderr!])
      stream.on('data', (part: Buffer) => {
        said += part.toString();
        const found = /with the code ([A-Z0-9-]+)/.exec(said);
        if (found) resolve(found[1]!);
      });
    child.once('exit', () => reject(new Error(`it ended before it was ready: ${said}`)));
  });
  return {
    address: `http://127.0.0.1:${port}`,
    code,
    async end() {
      const gone = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      await gone;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

test.describe('a new installation', () => {
  test.use({ meant: [/400 \(/] });

  test('from the first page to a message that is answered', async ({ page }, info) => {
    test.setTimeout(240_000);
    const fresh = await startFresh();
    try {
      await page.goto(fresh.address);
      await expect(page.getByRole('heading', { name: 'Set up Dart Loop' })).toBeVisible();
      await expectAccessible(page);
      await page.getByLabel('One-time code').fill('WRONG-ONE');
      await page.getByLabel('Name of the agency').fill('Tidewater Talk');
      await page.getByLabel('Your name').fill('Ada Quill');
      await page.getByLabel('Your email').fill('ada@tidewater.example');
      await page.getByLabel('Password').fill('a lantern by the slipway');
      await page.getByRole('button', { name: 'Create agency' }).click();
      await expect(page.getByText('Is not the code in the server’s log.')).toBeVisible();
      await page.getByLabel('One-time code').fill(fresh.code.toLowerCase());
      await page.getByRole('button', { name: 'Create agency' }).click();
      await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
      await page.getByRole('link', { name: 'Add the first client' }).click();
      await page.getByRole('button', { name: 'Add client' }).click();
      await page.getByRole('dialog').getByLabel('Name').fill('Orchard Lane Bakery');
      await page.getByRole('dialog').getByRole('button', { name: 'Add client' }).click();
      await expect(page.getByText('Not live yet')).toBeVisible();
      await page.getByRole('link', { name: 'Connect a line' }).click();
      const bot = info.project.name === 'phone' ? '7001200911' : '7001200912';
      await page.getByRole('radio', { name: 'Telegram bot' }).click();
      await page.getByLabel('Bot token').fill(`${bot}:${'f'.repeat(35)}`);
      await page.getByRole('button', { name: 'Connect and test' }).click();
      await expect(page.getByText('is connected.', { exact: false })).toBeVisible();
      await page.goto(`${fresh.address}/orchard-lane-bakery/brief`);
      await page.getByRole('link', { name: 'Add a loop' }).click();
      await page.getByRole('button', { name: /^An example that explains itself/ }).click();
      await publish(page);
      await expect(page.getByText('live, version 1', { exact: false })).toBeVisible();
      await page.goto(`${fresh.address}/orchard-lane-bakery/brief`);
      await expect(page.getByLabel('Time zone')).toBeVisible();
      await expect(page.getByText('Not live yet')).toHaveCount(0);
      // Somebody writes to the bot.
      const somebody = { channel: 'telegram', line: bot, who: '64001' };
      const standins = process.env.DARTLOOP_BROWSER_STANDINS;
      const taken = await page.request.post(`${standins}/phone/act`, {
        data: { ...somebody, do: 'write', name: 'Mira', text: 'LEARN' },
      });
      expect(taken.ok(), await taken.text()).toBe(true);
      await expect
        .poll(async () => (await page.request.post(`${standins}/phone/look`, { data: somebody })).text())
        .toContain('This is a loop, and you are in its rehearsal.');
      await page.goto(`${fresh.address}/inbox`);
      await page.getByRole('tab', { name: /In a loop/ }).click();
      await expect(page.getByRole('listitem').filter({ hasText: 'Mira' })).toBeVisible();
      // And without any platform: on a line for trying out.
      await page.goto(`${fresh.address}/orchard-lane-bakery/test-phone`);
      await page.getByRole('link', { name: 'Make a line for trying out' }).click();
      await page.getByRole('radio', { name: 'WhatsApp number' }).click();
      await page.getByRole('radio', { name: 'For trying out' }).click();
      await expectAccessible(page);
      await page.getByRole('button', { name: 'Make the line' }).click();
      await expect(page.getByText('Write to it from the test phone.', { exact: false })).toBeVisible();
      await page.goto(`${fresh.address}/orchard-lane-bakery/test-phone`);
      await page.getByLabel('Write as the customer').fill('LEARN');
      await page.keyboard.press('Enter');
      await expect(page.getByText('This is a loop, and you are in its rehearsal.')).toBeVisible();
    } finally {
      // The page goes first: it would ask a server that has ended.
      await page.close();
      await fresh.end();
    }
  });
});
