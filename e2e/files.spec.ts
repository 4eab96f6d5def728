import sharp from 'sharp';
import { expect, expectAccessible, signIn, test, takeIn } from './stage';

const CLIENT = 'bramble-row-nursery';
const picture = (width: number) =>
  sharp({ create: { width, height: 300, channels: 3, background: '#3c7a4b' } })
    .png()
    .toBuffer();

test('a picture is added in a step, sent, listed with where it is used, and replaced; nothing that is used is removed', async ({
  page,
  meant,
}, info) => {
  // What is refused is told to the browser's console, too.
  meant.push(/status of 422/);
  const name = `Planting plan ${info.project.name}`;
  await signIn(page);
  const loop = await takeIn(
    page,
    CLIENT,
    `format: dart-loop/1
name: Plan ${info.project.name}
cues:
  - kind: keyword
    words: [PLAN${info.project.name.toUpperCase()}]
    match: exactly
scenes:
  - id: one
    name: One
    steps:
      - { id: look, kind: say, text: Here is the plan. }
`,
    false,
  );
  await page.goto(`/${CLIENT}/loops/${loop}`);
  await page.getByRole('button', { name: 'More for this say' }).click();
  await page.getByRole('button', { name: 'Settings' }).click();
  await page.getByRole('button', { name: 'Choose a file' }).click();
  const chooser = page.getByRole('dialog', { name: 'Choose a file' });
  await chooser
    .getByLabel('Add a file from this device')
    .last()
    .setInputFiles({ name: `${name}.png`, mimeType: 'image/png', buffer: await picture(640) });
  await expect(page.getByText(`${name}: picture, 640 × 300`, { exact: false })).toBeVisible();

  await expect
    .poll(async () => (await page.request.get(`/api/clients/${CLIENT}/loops/${loop}`)).text())
    .toContain('file.planting_plan');

  await page.goto(`/${CLIENT}/files`);
  const row = page.getByRole('listitem', { name });
  await expect(row).toContainText(`used by Plan ${info.project.name}`);
  await expectAccessible(page);
  await row
    .getByLabel(`Replace ${name}`)
    .last()
    .setInputFiles({
      name: 'other.jpg',
      mimeType: 'image/jpeg',
      buffer: await picture(900),
    });
  await expect(row).toContainText('900 × 300');
  await row.getByRole('button', { name: `Remove ${name}` }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Take it out there first');
  await expect(dialog.getByRole('button', { name: `Remove ${name}` })).toBeDisabled();
  await page.keyboard.press('Escape');
  await row.getByRole('button', { name: `Rename ${name}` }).click();
  await page.getByRole('dialog').getByLabel('Name', { exact: true }).fill(`${name} in spring`);
  await page.getByRole('dialog').getByRole('button', { name: 'Save name' }).click();
  await expect(page.getByRole('listitem', { name: `${name} in spring` })).toBeVisible();

  // What no channel takes is refused with why, and nothing is left of it.
  await page
    .getByLabel('Add a file')
    .last()
    .setInputFiles({ name: 'page.pdf', mimeType: 'application/pdf', buffer: Buffer.from('<html></html>') });
  await expect(page.getByText('cannot be sent on the channels', { exact: false })).toBeVisible();
});
