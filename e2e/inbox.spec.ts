import type { Page } from '@playwright/test';
import { expect, expectAccessible, ofLoop, publish, signIn, takeIn, test } from './stage';

const CLIENT = 'saltmarsh-ferries';

/** A customer on Telegram, played by the builder's test phone beside the page. */
async function customer(page: Page, who: string) {
  const lines = (await (await page.request.get(`/api/clients/${CLIENT}/lines`)).json()) as {
    id: number;
    channel: string;
  }[];
  const line = lines.find((each) => each.channel === 'telegram')!.id;
  const path = `/api/clients/${CLIENT}/test-phone`;
  return {
    write: async (text: string) =>
      void expect(
        (await page.request.post(path, { data: { do: 'write', line, who, name: 'Wren', text } })).status(),
      ).toBe(200),
    heard: async () => {
      const { messages } = (await (await page.request.get(`${path}?line=${line}&who=${who}`)).json()) as {
        messages: { from: string; text: string }[];
      };
      return messages.filter((message) => message.from === 'line').map((message) => message.text);
    },
  };
}

test('a conversation is handed over, answered by hand, and handed back; who may only look finds nothing to press', async ({
  page,
}, info) => {
  await signIn(page);
  const word = `desk ${info.project.name}`;
  const who = info.project.name === 'phone' ? '71001' : '71002';
  await takeIn(
    page,
    CLIENT,
    `{ format: dart-loop/1, name: Desk ${info.project.name}, cues: [{ kind: keyword, words: [${word}], match: exactly }], scenes: [{ id: one, name: One, steps: [{ kind: hand over, to: ticket desk, note: Wheelchair on the 16:40, text: One moment please. }, { kind: say, text: Anything else? }] }] }`,
    true,
  );
  const wren = await customer(page, who);
  await wren.write(word);
  await expect.poll(wren.heard).toEqual(['One moment please.']);
  const waiting = (await (await page.request.get('/api/inbox?shelf=waiting')).json()) as {
    rows: { id: string; lastWords: string }[];
  };
  const { id } = waiting.rows.find((row) => row.lastWords === 'One moment please.')!;

  await page.goto(`/inbox/${CLIENT}/${id}`);
  await expect(page.getByText('■ handed over to ticket desk', { exact: false })).toBeVisible();
  await expect(page.getByText('Note: Wheelchair on the 16:40')).toBeVisible();
  await page.getByLabel(/^Write to Wren/).fill('Hello Wren, there is room for two.');
  await page.getByRole('button', { name: 'Send' }).click();
  await expect.poll(wren.heard).toContain('Hello Wren, there is room for two.');
  await expect(page.getByText('You stepped in', { exact: false })).toBeVisible();
  await expect(page.getByText('■ Bram Tansy', { exact: true })).toBeVisible();
  await expect(page.getByLabel(/^Write to Wren/)).toHaveValue('');
  await expectAccessible(page);

  await wren.write('sailings');
  await expect(page.getByText('Recorded for Bram Tansy. No loop answers.')).toBeVisible();
  await page.getByRole('button', { name: 'Hand back' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: /^Desk .* continues where it paused/ }).click();
  await expect.poll(wren.heard).toContain('Anything else?');
  await expect(page.getByText('● settled')).toBeVisible();

  // By keyboard alone: write, send with Ctrl+Enter; that steps in again.
  await page.getByLabel(/^Write to Wren/).focus();
  await page.keyboard.type('One more thing.');
  await page.keyboard.press('Control+Enter');
  await expect.poll(wren.heard).toContain('One more thing.');
  await page.getByRole('button', { name: 'Hand back' }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /^Settled/ }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('● settled')).toBeVisible();

  await signIn(page, 'client');
  await page.goto(`/inbox/${CLIENT}/${id}`);
  await expect(page.getByText('One more thing.')).toBeVisible();
  await expect(page.getByRole('button', { name: /Step in|Send|Hand back/ })).toHaveCount(0);
});

test('a person who has opted out cannot be written to, and the screen says so', async ({ page }, info) => {
  await signIn(page);
  const who = info.project.name === 'phone' ? '71011' : '71012';
  const wren = await customer(page, who);
  await wren.write('sailings');
  await expect.poll(async () => (await wren.heard()).length).toBe(1);
  await wren.write('STOP');
  await expect
    .poll(async () => (await wren.heard()).at(-1))
    .toContain('no more messages from Saltmarsh Ferries');
  const settled = (await (await page.request.get(`/api/inbox?shelf=settled&client=${CLIENT}`)).json()) as {
    rows: { id: string; lastWords: string; who: string }[];
  };
  const { id } = settled.rows.find(
    (row) => row.lastWords.includes('no more messages') && row.who.startsWith('Wren'),
  )!;
  await page.goto(`/inbox/${CLIENT}/${id}`);
  await expect(page.getByText('Nothing is sent until they write START.', { exact: false })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Send' })).toHaveCount(0);
});

test('versions are told, and an earlier one comes back', async ({ page }, info) => {
  await signIn(page);
  const file = (text: string) =>
    `{ format: dart-loop/1, name: Course ${info.project.name}, cues: [{ kind: keyword, words: [course ${info.project.name}], match: exactly }], scenes: [{ name: One, steps: [{ kind: wait, for: 2h }, { kind: split, arms: [{ when: { field: level, is: known }, to: end }] }, { kind: say, text: ${text} }] }] }`;
  const id = await takeIn(page, CLIENT, file('First.'), true);
  await page.goto(`/${CLIENT}/loops/${id}`);
  // Steps of every kind are read here.
  await expect(page.getByText('2 h', { exact: true })).toBeVisible();
  await expect(page.getByText('level is known')).toBeVisible();
  await page.getByRole('button', { name: /^Text: First/ }).click();
  await page.getByRole('textbox', { name: 'Text' }).fill('Second.');
  await page.getByRole('textbox', { name: 'Text' }).press('Control+Enter');
  await publish(page);
  await expect(page.getByText('live, version 2', { exact: false })).toBeVisible();
  await ofLoop(page, 'Versions');
  await expect(page.getByText('● Version 2, live')).toBeVisible();
  await expect(page.getByText('scene 1: text reworded').first()).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Restore version 1' }).click();
  await expect(page.getByText('● Version 1, live')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByText('live, version 1', { exact: false })).toBeVisible();
});
