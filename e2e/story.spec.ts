import { expect, makeLoop, publish, signIn, test } from './stage';

const CLIENT = 'saltmarsh-ferries';

for (const channel of ['Telegram', 'SMS'] as const)
  test(`a customer on ${channel}: keyword, choice, bad email, email; then it stands on the person’s page; a changed text is said next`, async ({
    page,
  }, info) => {
    await signIn(page);
    const keyword = `STORY${channel}${info.project.name}`.toUpperCase();
    const loop = await makeLoop(page, CLIENT, { keyword });
    await page.goto(`/${CLIENT}/test-phone`);
    await page.getByRole('radio', { name: channel }).click();
    const phone = page.getByRole('log');
    const write = async (text: string) => {
      await page.getByLabel('Write as the customer').fill(text);
      await page.getByRole('button', { name: 'Send' }).click();
    };
    const who = (
      await page.getByText(channel === 'SMS' ? /^\+447700900\d{3}$/ : /^Mira, \d+$/).innerText()
    ).replace('Mira, ', '');
    await write(keyword.toLowerCase());
    await expect(phone.getByText('Hello. Shall we write to you?')).toBeVisible();
    if (channel === 'Telegram') await phone.getByRole('button', { name: 'Yes please' }).click();
    else {
      await expect(phone.getByText('A Yes please')).toBeVisible();
      await write('a');
    }
    await expect(phone.getByText('Where to?')).toBeVisible();
    await write('mira at example');
    await expect(phone.getByText('An address has an @ in it.')).toBeVisible();
    const address = `mira.${who.replace(/\D/g, '')}@example.org`;
    await write(address);
    await expect(phone.getByText(`Noted, ${address}.`)).toBeVisible();

    await page.goto(`/${CLIENT}/people`);
    await page.getByLabel('Search').fill(address);
    await page.getByRole('link').filter({ hasText: address }).click();
    await expect(page.getByText(address).first()).toBeVisible();
    await expect(page.getByText(`${loop.name}, version 1`).first()).toBeVisible();
    await page.getByRole('link', { name: /Open conversation/ }).click();
    await expect(page.getByText('Could not be read: there is no @ in it')).toBeVisible();
    await page.getByRole('button', { name: 'Why did this happen?' }).first().click();
    await expect(
      page.getByRole('dialog').getByText(`“${keyword}” was heard exactly`, { exact: false }),
    ).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);

    await page.goto(`/${CLIENT}/loops/${loop.id}`);
    await page.getByRole('button', { name: /^Text: Hello/ }).click();
    await page.getByRole('textbox', { name: 'Text' }).fill('Good morning. Shall we write to you?');
    await page.getByRole('textbox', { name: 'Text' }).press('Control+Enter');
    await expect(page.getByRole('button', { name: 'Publish 1 change' })).toBeVisible();
    await publish(page);
    await expect(page.getByText('live, version 2', { exact: false })).toBeVisible();

    await page.goto(`/${CLIENT}/test-phone`);
    await page.getByRole('radio', { name: channel }).click();
    await write(keyword);
    await expect(phone.getByText('Good morning. Shall we write to you?')).toBeVisible();
  });

test('after the last retry the exit is taken, and a screen that is open shows it without a reload', async ({
  page,
  context,
}, info) => {
  await signIn(page);
  const keyword = `LAST${info.project.name}`.toUpperCase();
  await makeLoop(page, CLIENT, { keyword });
  await page.goto(`/${CLIENT}/test-phone`);
  await page.getByRole('radio', { name: 'Telegram' }).click();
  const who = (await page.getByText(/^Mira, \d+$/).innerText()).replace('Mira, ', '');
  const write = async (text: string, answer: string, times = 1) => {
    await page.getByLabel('Write as the customer').fill(text);
    await page.getByLabel('Write as the customer').press('Enter');
    await expect(page.getByRole('log').getByText(answer)).toHaveCount(times);
  };
  await write(keyword, 'Hello. Shall we write to you?');
  const people = (await (await page.request.get(`/api/clients/${CLIENT}/people?q=${who}`)).json()) as {
    rows: { id: string }[];
  };
  const person = (await (
    await page.request.get(`/api/clients/${CLIENT}/people/${people.rows[0]!.id}`)
  ).json()) as {
    identities: { id: string }[];
  };
  const watching = await context.newPage();
  await watching.goto(`/inbox/${CLIENT}/${person.identities[0]!.id}`);
  await expect(watching.getByText(/^● in /)).toBeVisible();
  await page.getByRole('button', { name: 'Yes please' }).click();
  await expect(watching.getByText('Where to?')).toBeVisible();
  await write('one', 'An address has an @ in it.');
  await write('two', 'An address has an @ in it.', 2);
  await write('three', 'Another time.');
  await expect(watching.getByText('No retries left.', { exact: false })).toBeVisible();
  await expect(watching.getByText('● settled')).toBeVisible();
  await watching.close();
});
