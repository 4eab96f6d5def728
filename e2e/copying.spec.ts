import { expect, expectAccessible, signIn, test } from './stage';

test('a set-up is looked at, copied to three new clients, finished by hand, and one of them archived', async ({
  page,
}, info) => {
  const size = info.project.name;
  await signIn(page, 'owner');
  await page.goto('/saltmarsh-ferries/brief');
  await page.getByRole('link', { name: 'Copy set-up' }).click();
  await expect(page.getByRole('heading', { name: 'Copy set-up' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Preview copy' })).toBeDisabled();
  await page.getByLabel('New clients').fill(`Tern ${size}\nGull ${size}\n\n Skua ${size} `);
  await page.getByRole('button', { name: 'Preview copy' }).click();
  const preview = page.getByRole('list', { name: 'What will be copied' });
  await expect(preview.getByRole('listitem')).toHaveCount(3);
  await expect(preview.getByText(/^Loops: .*Sailing alerts/).first()).toBeVisible();
  await expectAccessible(page);
  // What is chosen otherwise is looked at anew.
  await page.getByRole('checkbox', { name: 'Segments' }).click();
  await expect(preview).toHaveCount(0);
  await page.getByRole('button', { name: 'Preview copy' }).click();
  await page.getByRole('button', { name: 'Copy to 3 clients' }).click();
  await expect(page.getByText('Copied to 3 clients.')).toBeVisible();
  await page.getByRole('link', { name: `Open Tern ${size}` }).click();

  await expect(page).toHaveURL(`/tern-${size}/brief`);
  const left = page.getByRole('list', { name: 'Left to do' });
  const phone = left.getByRole('checkbox', { name: /^Fill in “phone”/ });
  await expect(phone).toBeVisible();
  await expectAccessible(page);
  // What can be told from how things stand goes by itself; the rest is ticked.
  await page.getByLabel('Phone', { exact: true }).fill('+44 1632 960155');
  await page.getByRole('button', { name: 'Save brief' }).click();
  await expect(phone).toHaveCount(0);
  const loop = left.getByRole('checkbox', { name: /^Look through “Sailing alerts”/ });
  await loop.click();
  await expect(loop).toHaveCount(0);
  await left.getByRole('link', { name: /^Open: Look through “Newsletter”/ }).click();
  await expect(page.getByRole('button', { name: /^Publish/ }).first()).toBeVisible();

  await page.goto(`/skua-${size}/brief`);
  await page.getByRole('button', { name: 'Archive client' }).click();
  await page.getByRole('button', { name: `Archive Skua ${size}` }).click();
  await expect(page.getByRole('list', { name: 'Archived' })).toContainText(`Skua ${size}`);
  await page.getByRole('button', { name: `Delete Skua ${size}` }).click();
  const sure = page.getByRole('button', { name: `Delete Skua ${size} for ever` });
  await expect(sure).toBeDisabled();
  await page.getByLabel('Type its name').fill(`Skua ${size}`);
  await expectAccessible(page);
  await sure.click();
  const receipt = page
    .getByRole('list', { name: 'Deleted' })
    .getByRole('listitem')
    .filter({ hasText: `Skua ${size}` });
  await expect(receipt).toContainText('by Odile Marrow');

  // Those that are looked at most stand first.
  await page.goto('/gull-' + size + '/loops');
  await page.getByRole('button', { name: /^Client: / }).click();
  await page.getByRole('button', { name: `Pin Gull ${size}` }).click();
  await expect(page.getByRole('button', { name: `Unpin Gull ${size}` })).toBeVisible();
  await page.getByRole('button', { name: `Unpin Gull ${size}` }).click();
  await expect(page.getByRole('button', { name: `Pin Gull ${size}` })).toBeVisible();
});

test('an incoming webhook gets another address', async ({ page }, info) => {
  await signIn(page, 'owner');
  await page.goto('/northgate-climbing/webhooks');
  const name = `till-${info.project.name}`;
  await page.getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Add webhook' }).click();
  const shown = page.getByText(/\/in\/[\w-]{43}$/);
  const first = await shown.textContent();
  await page.getByRole('link', { name }).click();
  await page.getByRole('button', { name: 'Make a new address' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Make a new address' }).click();
  await expect(shown).toBeVisible();
  const second = await shown.textContent();
  expect(second).not.toBe(first);
  const call = (address: string) =>
    page.request.post(address, { data: { person: { email: 'x@example.org' } } });
  expect((await call(first!)).status()).toBe(404);
  // Nobody of that address is there; but it is heard.
  expect((await (await call(second!)).json()) as { title: string }).toMatchObject({ title: 'Nobody found' });
});
