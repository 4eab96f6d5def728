import type { Page } from '@playwright/test';
import { expect, expectAccessible, signIn, takeIn, test } from './stage';

const COUNTS = [2, 3, 5, 10, 12, 30];

/** A loop that asks six times, with ever more choices; the last choice leads on each time. */
const file = (keyword: string, name: string) => `
format: dart-loop/1
name: ${name}
cues:
  - { kind: keyword, words: [${keyword}], match: exactly }
scenes:
${COUNTS.map(
  (count, index) => `  - id: of-${count}
    name: Of ${count}
    steps:
      - kind: say
        text: Which berth of ${count}?
        choices:
${Array.from({ length: count }, (_, at) => `          - { label: Berth ${count}-${at + 1}, to: ${at + 1 === count ? `of-${COUNTS[index + 1] ?? 'end'}` : 'wrong'} }`).join('\n')}
        noReply: { after: 1d, to: wrong }`,
).join('\n')}
  - id: of-end
    name: Arrived
    steps:
      - { kind: say, text: All aboard. }
  - id: wrong
    name: Wrong
    steps:
      - { kind: say, text: That was the wrong berth. }
`;

const LINES = [
  ['Telegram', 'saltmarsh-ferries'],
  ['SMS', 'saltmarsh-ferries'],
  ['Instagram', 'orrery-picture-house'],
  ['Messenger', 'orrery-picture-house'],
  ['WhatsApp', 'bramble-row-nursery'],
] as const;

async function openPhone(page: Page, client: string, channel: string): Promise<void> {
  await page.goto(`/${client}/test-phone`);
  await page.getByRole('radiogroup', { name: 'Line' }).getByRole('radio', { name: channel }).click();
  await expect(page.getByLabel('Write as the customer')).toBeVisible();
}
async function write(page: Page, text: string): Promise<void> {
  await page.getByLabel('Write as the customer').fill(text);
  await page.getByRole('button', { name: 'Send', exact: true }).click();
}

for (const [channel, client] of LINES)
  test(`2, 3, 5, 10, 12 and 30 choices are played to the end on ${channel}`, async ({ page }, info) => {
    await signIn(page);
    const keyword = `BERTH${channel}${info.project.name}`.toUpperCase();
    await takeIn(
      page,
      client,
      file(keyword, `Berths ${channel} ${info.project.name} ${Date.now().toString(36)}`),
      true,
    );
    await openPhone(page, client, channel);
    const phone = page.getByRole('log');
    await write(page, keyword);
    for (const count of COUNTS) {
      await expect(phone.getByText(`Which berth of ${count}?`).first()).toBeVisible();
      const label = `Berth ${count}-${count}`;
      const button = (name: string) => phone.getByRole('button', { name, exact: true }).last();
      for (let page_ = 0; page_ < 6; page_++) {
        if (channel === 'SMS') {
          const shown = phone.getByText(new RegExp(`^[A-Z]+ ${label}$`, 'm')).last();
          const more = phone.getByText(/Write MORE/).nth(page_);
          await expect(shown.or(more).first()).toBeVisible();
          const letter =
            (await shown.count()) > 0
              ? new RegExp(`^([A-Z]+) ${label}$`, 'm').exec(await shown.innerText())?.[1]
              : undefined;
          await write(page, letter ?? 'more');
          if (letter) break;
          continue;
        }
        // A list stands behind the button that opens it.
        const opener = phone.getByRole('button', { expanded: false }).last();
        await expect(button(label).or(button('More')).or(opener).first()).toBeVisible();
        if (channel === 'WhatsApp' && count > 3) await opener.click();
        if ((await button(label).count()) > 0) {
          await button(label).click();
          break;
        }
        const before = await phone.locator(':scope > *').count();
        await button('More').click();
        // What came of it, and on most channels what was tapped as well.
        const more = channel === 'Telegram' ? 1 : 2;
        await expect.poll(() => phone.locator(':scope > *').count()).toBeGreaterThanOrEqual(before + more);
      }
    }
    await expect(phone.getByText('All aboard.')).toBeVisible();
    await expect(phone.getByText('That was the wrong berth.')).toHaveCount(0);
  });

test('a comment on the wall is answered below it and in private; the inbox shows it at the head of the conversation', async ({
  page,
}, info) => {
  await signIn(page);
  const words = `COMET for a ${info.project.name}`;
  await openPhone(page, 'orrery-picture-house', 'Instagram');
  const wall = page.getByRole('radio', { name: 'Wall' });
  if (await wall.isVisible()) await wall.click();
  await page.getByRole('textbox', { name: 'Comment', exact: true }).first().fill(words);
  await page.getByRole('textbox', { name: 'Comment', exact: true }).first().press('Enter');
  await expect(page.getByText(words)).toBeVisible();
  await expect(page.getByText(/^↳ /).last()).toBeVisible();
  await expectAccessible(page);
  const messages = page.getByRole('radio', { name: 'Messages' });
  if (await messages.isVisible()) await messages.click();
  await page.getByRole('log').getByRole('button', { name: 'Friday at 20:15' }).click();
  await expect(page.getByRole('log').getByText('How many seats, up to six?')).toBeVisible();
  const who = (await page.getByText(/^Mira, \d+$/).innerText()).replace('Mira, ', '');
  const people = (await (
    await page.request.get(`/api/clients/orrery-picture-house/people?q=${who}`)
  ).json()) as { rows: { id: string }[] };
  await page.goto(`/orrery-picture-house/people/${people.rows[0]!.id}`);
  await page.getByRole('link', { name: /Open conversation/ }).click();
  await expect(page.getByText(/commented on the post “One week before/)).toBeVisible();
  await expect(page.getByText('privately under the comment').first()).toBeVisible();
  await expectAccessible(page);
});

test('an ad is clicked on WhatsApp; the line is capped and its renewal asks for secrets alone', async ({
  page,
}, info) => {
  await signIn(page);
  await openPhone(page, 'bramble-row-nursery', 'WhatsApp');
  const wall = page.getByRole('radio', { name: 'Wall' });
  if (await wall.isVisible()) await wall.click();
  await page.getByRole('button', { name: /^Click the ad/ }).click();
  await expect(page.getByRole('log').getByText(/let us find a plant/)).toBeVisible();
  await page.goto('/bramble-row-nursery/lines');
  const line = page.getByRole('listitem').filter({ hasText: 'whatsapp' });
  const cap = info.project.name === 'phone' ? '400' : '500';
  await line.getByRole('button', { name: /^Sending limits of/ }).click();
  await page.getByLabel('Most per day on this line').fill(cap);
  await page.getByRole('button', { name: 'Save limits' }).click();
  await expect(line.getByText(new RegExp(`of ${cap} unasked messages sent today`))).toBeVisible();
  await line.getByRole('button', { name: /^Renew/ }).click();
  await expect(page.getByLabel('Access token')).toBeVisible();
  await expect(page.getByLabel('Id of the number')).toHaveCount(0);
  await expectAccessible(page);
});

test('a menu is put on a line, compared with what the channel has, and stands on the phone’s wall', async ({
  page,
}, info) => {
  await signIn(page);
  const [name, channel] =
    info.project.name === 'phone' ? ['Orrery Picture House', 'Messenger'] : ['@orrery.pictures', 'Instagram'];
  await page.goto('/orrery-picture-house/lines');
  await page.getByRole('button', { name: `Menus of ${name}` }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText(`${channel} has exactly this.`)).toBeVisible();
  await expect(dialog.getByText('“programme”, heard by What’s on').first()).toBeVisible();
  const standing = dialog.getByRole('group', { name: 'Standing menu' });
  await standing.getByRole('button', { name: 'Add entry to the standing menu' }).click();
  const fields = standing.getByRole('textbox');
  await fields.last().fill('x'.repeat(31));
  await expect(dialog.getByText(/has 31 characters; the standing menu on/)).toBeVisible();
  await fields.last().fill('Prices');
  await expect(dialog.getByText('“prices”: no live loop hears it yet')).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: `Save to ${channel}` }).click();
  await expect(dialog.getByText(`${channel} has exactly this.`)).toBeVisible();
  await openPhone(page, 'orrery-picture-house', channel);
  const wall = page.getByRole('radio', { name: 'Wall' });
  if (await wall.isVisible()) await wall.click();
  await page
    .getByRole('button', { name: /^What is on( this week\?)?$/ })
    .first()
    .click();
  await expect(page.getByRole('log').getByText(/^This week at Orrery Picture House/)).toBeVisible();
});
