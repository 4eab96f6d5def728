import type { Page, TestInfo } from '@playwright/test';
import { expect, expectAccessible, signIn, test } from './stage';

/** A client for each size of screen: what the one test breaks, the other must not meet. */
const clientOf = ({ project }: TestInfo) =>
  project.name === 'phone' ? 'bramble-row-nursery' : 'orrery-picture-house';

async function somebody(
  page: Page,
  path: string,
  firstName: string,
  fields: Record<string, string>,
): Promise<string> {
  const { id } = (await (await page.request.post(`${path}/people`, { data: { firstName } })).json()) as {
    id: string;
  };
  expect((await page.request.put(`${path}/people/${id}`, { data: { fields } })).status()).toBe(200);
  return id;
}

/** Signed in, with the fields that people here have, and a mark of the test's own. */
async function begin(page: Page, info: TestInfo): Promise<{ client: string; path: string; mark: string }> {
  await signIn(page);
  const client = clientOf(info);
  const path = `/api/clients/${client}`;
  for (const [key, type] of [
    ['email', 'email'],
    ['town', 'text'],
  ])
    await page.request.post(`${path}/fields`, { data: { key, type, name: key } });
  return { client, path, mark: `${info.project.name}${Date.now().toString(36)}` };
}

// A private address, and what somebody else has changed meanwhile, are refused, and the browser says so.
test.use({ meant: [/400 \(Bad Request\)|409 \(Conflict\)/] });

test('a CRM is set up from nothing and tried on a real person', async ({ page }, info) => {
  const { client, path, mark } = await begin(page, info);
  await somebody(page, path, `Anna ${mark}`, { email: `${mark}@example.org`, town: 'Harwick' });

  await page.goto(`/${client}/sync/new`);
  await page.getByLabel('Name', { exact: true }).fill(`Register ${mark}`);
  await page.getByLabel('Address of the contacts').fill('https://192.168.0.10/contacts');
  await page.getByLabel('Token').fill('crm-demo-token');
  await page.getByRole('button', { name: 'Add destination' }).click();
  await expect(page.getByText(/is a private address \(192\.168\.0\.10\)/)).toBeVisible();
  await page.getByLabel('Address of the contacts').fill('https://crm.example/contacts');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Add destination' }).click();

  // Its columns are read, what is called the same is filled in by itself, and what it needs is said.
  await page.getByRole('button', { name: 'Read their columns' }).click();
  const columns = page.getByRole('list', { name: 'Columns' });
  await expect(columns.getByRole('button', { name: 'What goes into email: email' })).toBeVisible();
  await page.getByRole('button', { name: 'Remove email' }).click();
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(
    page.getByText('email: The other side needs this column, and nothing goes into it.'),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'Switch on' })).toBeDisabled();
  await page.getByRole('button', { name: 'Read their columns again' }).click();
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(page.getByText(/The other side needs this column/)).toHaveCount(0);
  await expectAccessible(page);

  const preview = page.getByRole('list', { name: 'Preview' });
  await expect(preview.getByText(`${mark}@example.org`)).toBeVisible();
  await page.getByRole('button', { name: `Try with Anna ${mark}` }).click();
  const dialog = page.getByRole('dialog');
  // Made, or changed where the same test on the other size of screen has already brought her there.
  await expect(dialog.getByText(/(made|changed) contact C-\d{18}/)).toBeVisible();
  await expect(dialog.getByText(/^Answered 20[01] after/).first()).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Close' }).click();
});

test('a destination that is on is broken, says so, is mended, and loses nothing', async ({ page }, info) => {
  const { client, path, mark } = await begin(page, info);
  const anna = await somebody(page, path, `Anna ${mark}`, { email: `${mark}@example.org`, town: 'Harwick' });

  const made = await page.request.post(`${path}/destinations`, {
    data: {
      kind: 'contact',
      name: `Register ${mark}`,
      settings: { address: 'https://crm.example/contacts', findBy: 'email' },
      token: 'crm-demo-token',
      mapping: ['email', 'town'].map((field) => ({
        to: field,
        as: 'text',
        origin: { from: 'field', field },
      })),
      triggers: { fields: 'any' },
    },
  });
  const { id } = (await made.json()) as { id: string };
  expect(
    (await page.request.post(`${path}/destinations/${id}/try`, { data: { personId: anna } })).status(),
  ).toBe(200);
  await page.goto(`/${client}/sync/${id}`);
  await page.getByRole('button', { name: 'Switch on' }).click();
  await expect(page.getByText(/^On, /)).toBeVisible();
  await page.getByRole('radio', { name: 'Deliveries' }).click();
  await page.request.put(`${path}/people/${anna}`, { data: { fields: { town: 'Fenwater' } } });
  await expect(page.getByText(/^changed contact C-\d{18}$/)).toBeVisible();

  await page.getByRole('radio', { name: 'Set up' }).click();
  await page.getByLabel('Token').fill('another-token');
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(page.getByRole('button', { name: 'Save changes' })).toHaveCount(0);
  await page.request.put(`${path}/people/${anna}`, { data: { fields: { town: 'Marrow Bay' } } });
  await expect(page.getByText(/^Failing since .*it does not let us in \(401\), \d/)).toBeVisible();
  await page.getByLabel('Token').fill('crm-demo-token');
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(page.getByText(/^On, last taken/)).toBeVisible();
  await page.getByRole('radio', { name: 'Deliveries' }).click();
  await expect(page.getByRole('button', { name: `Details of the delivery of Anna ${mark}` })).toHaveCount(3);
  await page
    .getByRole('button', { name: `Details of the delivery of Anna ${mark}` })
    .first()
    .click();
  await expect(page.getByRole('dialog').getByText(/Try \d+, .*changed contact/)).toBeVisible();
  await expect(page.getByRole('dialog').getByText(/Try 1, .*it does not let us in \(401\)/)).toBeVisible();
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  await page.getByRole('button', { name: 'Switch off' }).click();
  await expect(page.getByText('Off: no changes are recorded or sent')).toBeVisible();
});

test('what somebody else changes meanwhile is told: theirs is taken, or one’s own kept over it', async ({
  page,
}, info) => {
  const { client, path, mark } = await begin(page, info);
  const destination = (body: object) => ({
    kind: 'webhook',
    name: `Hook ${mark}`,
    settings: { address: 'https://hooks.example/in', ...body },
    mapping: [{ to: 'town', as: 'text', origin: { from: 'field', field: 'town' } }],
    triggers: { fields: 'any' },
  });
  const { id } = (await (
    await page.request.post(`${path}/destinations`, { data: destination({}) })
  ).json()) as { id: string };
  const elsewhere = async (body: object) =>
    expect(
      (await page.request.put(`${path}/destinations/${id}`, { data: destination({ body }) })).status(),
    ).toBe(200);
  await page.goto(`/${client}/sync/${id}`);
  await page.getByRole('radio', { name: 'Set up' }).click();
  // Nothing is being written here: what changes elsewhere stands here at once.
  await elsewhere({ first: 'elsewhere' });
  await expect(page.getByLabel('Body', { exact: true })).toHaveValue(/first/);
  await page.getByLabel('Body', { exact: true }).fill('{"mine": true}');
  await elsewhere({ second: 'elsewhere' });
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(page.getByText(/ has changed it since it was opened here/)).toBeVisible();
  await expect(page.getByLabel('Body', { exact: true })).toHaveValue('{"mine": true}');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Use their version' }).click();
  await expect(page.getByLabel('Body', { exact: true })).toHaveValue(/second/);
  await page.getByLabel('Body', { exact: true }).fill('{"mine": true}');
  await elsewhere({ third: 'elsewhere' });
  await page.getByRole('button', { name: 'Save changes' }).click();
  await page.getByRole('button', { name: 'Overwrite with mine' }).click();
  await expect(page.getByRole('button', { name: 'Save changes' })).toHaveCount(0);
  await page.reload();
  await page.getByRole('radio', { name: 'Set up' }).click();
  await expect(page.getByLabel('Body', { exact: true })).toHaveValue(/mine/);
});

test('what the other side refuses stands on the shelf and is replayed; rows of a sheet follow', async ({
  page,
}, info) => {
  await signIn(page);
  const client = clientOf(info);
  const path = `/api/clients/${client}`;
  const mark = `${info.project.name}${Date.now().toString(36)}`;
  await page.request.post(`${path}/fields`, { data: { key: 'town', type: 'text', name: 'town' } });
  const bram = await somebody(page, path, `Bram ${mark}`, { town: 'Harwick' });
  await page.goto(`/${client}/sync/new`);
  await page.getByRole('radio', { name: 'Rows of a sheet' }).click();
  await page.getByLabel('Name', { exact: true }).fill(`Sheet ${mark}`);
  await page.getByLabel('Address of the rows').fill('https://sheet.example/nowhere');
  await page.getByLabel('Token').fill('sheet-demo-token');
  await page.getByLabel('Find a person’s row by column').fill('person');
  await page.getByRole('button', { name: 'Add destination' }).click();
  for (const [at, to, from] of [
    [1, 'person', 'their id'],
    [2, 'town', 'town'],
  ] as const) {
    await page.getByRole('button', { name: 'Add a column' }).click();
    await page.getByLabel(`Column ${at}`, { exact: true }).fill(to);
    await page.getByRole('button', { name: `What goes into ${to}: their name` }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: new RegExp(`^${from}`) })
      .first()
      .click();
  }
  await page.getByRole('button', { name: 'Save changes' }).click();
  await page.getByRole('button', { name: 'Switch on' }).click();
  await expect(page.getByText(/^On, /)).toBeVisible();
  await page.request.put(`${path}/people/${bram}`, { data: { fields: { town: 'Saint Orrin' } } });
  await page.getByRole('radio', { name: 'Deliveries' }).click();
  await page.getByRole('radio', { name: 'Failed' }).click();
  // Others of this client may change meanwhile, and are sent as well.
  const his = page.getByRole('listitem').filter({ hasText: `Bram ${mark}` });
  await expect(his.getByText('failed: it was answered 404')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('radio', { name: 'Set up' }).click();
  await page.getByLabel('Address of the rows').fill('https://sheet.example/rows');
  await page.getByRole('button', { name: 'Save changes' }).click();
  await expect(page.getByRole('button', { name: 'Save changes' })).toHaveCount(0);
  await page.getByRole('radio', { name: 'Deliveries' }).click();
  await page.getByRole('button', { name: /^Send all \d+ again$/ }).click();
  await expect(page.getByText(`wrote the row of ${bram}`)).toBeVisible();
});

test('people are read from a webhook, by pointing at an example', async ({ page }, info) => {
  await signIn(page);
  const client = clientOf(info);
  const mark = `${info.project.name}${Date.now().toString(36)}`.toLowerCase();
  await page.goto(`/${client}/webhooks`);
  await page.getByLabel('Name').fill(`till-${mark}`);
  await page.getByRole('button', { name: 'Add webhook' }).click();
  const address = await page.getByText(/\/in\/[\w-]{30,}/).innerText();
  const post = async (body: object) =>
    (await page.request.post(address, { data: body })).json() as Promise<{
      person: string;
      changed: string[];
    }>;
  await page.getByRole('link', { name: `till-${mark}` }).click();
  await page.getByRole('button', { name: 'Listen for an example' }).click();
  await expect(page.getByText(/^Listens till/)).toBeVisible();
  const sale = {
    changed_at: '2026-11-20T08:00:00Z',
    customer: { email: `${mark}@example.org`, name: `Ada ${mark}`, walks: 7 },
  };
  await post(sale);
  // What is known already is guessed; what is new is pointed at.
  await page.getByRole('button', { name: 'What customer.walks goes into: nothing' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^new field walks/ })
    .click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Test with the example' }).click();
  await expect(page.getByText(`Would add Ada ${mark}.`)).toBeVisible();
  await expect(page.getByText('Nothing has been changed.')).toBeVisible();
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('button', { name: 'Stop reading people' })).toBeVisible();
  const { person, changed } = await post(sale);
  expect(changed).toContain('walks');
  await page.goto(`/${client}/people/${person}`);
  await expect(page.getByRole('heading', { name: `Ada ${mark}` })).toBeVisible();
});

test('a key of the API is made, tried on the page, and withdrawn', async ({ page }, info) => {
  await signIn(page);
  const client = clientOf(info);
  const mark = `${info.project.name}${Date.now().toString(36)}`;
  await page.goto(`/${client}/api`);
  await page.getByRole('button', { name: 'Add key' }).click();
  await page.getByLabel('Name', { exact: true }).fill(`Till ${mark}`);
  await page.getByRole('button', { name: 'Create key' }).click();
  await expect(page.getByText('Copy it now')).toBeVisible();
  await page.getByRole('button', { name: /^Add or change a person/ }).click();
  await page
    .getByLabel('Body, as JSON')
    .fill(JSON.stringify({ by: { email: `${mark}@example.org` }, firstName: `Api ${mark}` }));
  await page.getByRole('button', { name: 'Send: Add or change a person' }).click();
  await expect(page.getByText('Answered 200')).toBeVisible();
  await expect(page.getByLabel('Answer')).toContainText('"made": true');
  await expectAccessible(page);
  await page.getByRole('button', { name: `Withdraw Till ${mark}` }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: `Withdraw Till ${mark}` })
    .click();
  await expect(page.getByRole('list', { name: 'Keys' }).getByText(`Till ${mark}`)).toHaveCount(0);
});
