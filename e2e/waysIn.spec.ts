import { expect, expectAccessible, loopId, ofLoop, signIn, test } from './stage';

const CLIENT = 'saltmarsh-ferries';

test('a published loop has its ways in: words, links, and QR codes to save', async ({ page }) => {
  await signIn(page);
  await page.goto(`/${CLIENT}/loops/${await loopId(page, CLIENT, 'Ticket office')}`);
  await ofLoop(page, 'Ways in');
  const ways = page.getByRole('list', { name: 'Ways in' });
  await expect(ways.getByText(/^Open t\.me\/halfmoon_7001200301_bot\?start=ticket-office$/)).toBeVisible();
  await expect(ways.getByText('sms:+447700900144?body=PERSON')).toBeVisible();
  const link = 'https://t.me/halfmoon_7001200301_bot?start=ticket-office';
  await expect(ways.getByRole('img', { name: `QR code for ${link}` })).toBeVisible();
  await expectAccessible(page);
  for (const kind of ['SVG', 'PNG']) {
    const saving = page.waitForEvent('download');
    await ways.getByRole('button', { name: `Save the QR code for ${link} as ${kind}` }).click();
    const saved = await saving;
    expect(saved.suggestedFilename()).toBe(`Ticket office telegram.${kind.toLowerCase()}`);
    const [first] = (await (await saved.createReadStream()).toArray()) as Buffer[];
    expect(first!.subarray(0, 4).toString('latin1')).toBe(kind === 'SVG' ? '<svg' : '\x89PNG');
  }
  // The picture for websites is shown to whoever looks.
  const api = `/api/clients/${CLIENT}/loops/${await loopId(page, CLIENT, 'Ticket office')}/ways-in`;
  const { ways: all } = (await (await page.request.get(api)).json()) as {
    ways: { picture: string | null }[];
  };
  const picture = new URL(all.find((way) => way.picture !== null)!.picture!);
  expect((await page.request.get(picture.pathname)).headers()['content-type']).toContain('image/svg+xml');
});
