import { expect, expectAccessible, makeLoop, signIn, test } from './stage';

const CLIENT = 'northgate-climbing';

test('steps are added, moved, pointed elsewhere and removed; all of it is undone and redone, and saved', async ({ page }) => {
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'EDIT' });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await page.getByRole('button', { name: 'Add a step to Bye' }).click();
  await page.getByRole('button', { name: /^Ask for a number/ }).click();
  const bye = page.getByRole('region', { name: 'Scene 3, Bye' });
  await expect(bye.getByRole('group')).toHaveCount(3);
  await expect(page.getByText('Differs from version 1: scene 3: question added.')).toBeVisible();
  // Above the end, where it can be reached.
  await bye.getByRole('button', { name: 'More for this ask' }).click();
  await page.getByRole('button', { name: /^Move up/ }).click();
  await expect(bye.getByRole('group').nth(1)).toHaveAccessibleName('ask: How many?');
  await page.getByRole('button', { name: 'Not now leads to 3 Bye. Change' }).click();
  await page.getByRole('button', { name: 'a new scene' }).click();
  await expect(page.getByRole('region', { name: 'Scene 2, Scene 4' })).toBeVisible();
  await expect(page.getByText('Scene 2 (Scene 4) has no steps; add one or remove the scene.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Publish/ })).toBeDisabled();
  const undo = page.getByRole('button', { name: 'Undo' });
  for (let step = 0; step < 3; step++) await undo.click();
  await expect(page.getByRole('button', { name: 'Published' })).toBeVisible();
  await expect(undo).toBeDisabled();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByText('Differs from version 1: scene 3: question added.')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('region', { name: 'Scene 3, Bye' }).getByRole('group')).toHaveCount(3);
  await page.getByRole('button', { name: 'More for this ask' }).last().click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Published' })).toBeVisible();
});

test('a choice, an exit and a retry are written; a merge field is put in', async ({ page }) => {
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'CHOICE' });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await page.getByRole('button', { name: 'More for this say' }).first().click();
  await page.getByRole('button', { name: 'Add a choice' }).click();
  await page.getByRole('button', { name: 'Choice C: Choice C. Edit' }).click();
  await page.getByRole('textbox', { name: 'Choice C' }).fill('Perhaps');
  await page.getByRole('textbox', { name: 'Choice C' }).press('Enter');
  await page.getByRole('button', { name: 'More for this say' }).first().click();
  await page.getByRole('button', { name: 'Ask again when it cannot be read' }).click();
  await page.getByRole('button', { name: 'no reply in 3 h. Change the time' }).click();
  await page.getByRole('button', { name: '1 d', exact: true }).click();
  await page.getByRole('button', { name: /^Text: Another time/ }).click();
  await page.getByRole('button', { name: 'Insert a merge field' }).click();
  await page.getByRole('button', { name: /^first name/ }).click();
  await expect(
    page.getByRole('button', { name: /^Text: Another time.*first_name/ }).or(page.getByRole('textbox', { name: 'Text' })),
  ).toBeVisible();
  await expect(
    page
      .getByText('Differs from version 1: scene 1: choice added, exit', { exact: false })
      .or(page.getByText('scene 1: choice added', { exact: false }))
      .first(),
  ).toBeVisible();
  const file = await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=json`)).text();
  await expect
    .poll(
      async () =>
        (await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=json`)).text()).includes('person.first_name'),
      { message: file },
    )
    .toBe(true);
  const saved = JSON.parse(await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=json`)).text()) as {
    scenes: { steps: { choices?: { label: string }[]; noReply?: { after: string }; retry?: object }[] }[];
  };
  expect(saved.scenes[0]!.steps[0]).toMatchObject({
    choices: [{ label: 'Yes please' }, { label: 'Not now' }, { label: 'Perhaps' }],
    noReply: { after: '1d' },
    retry: { times: 2 },
  });
});

test.describe('what is refused', () => {
  test.use({ meant: [/409 \(Conflict\)|422 \(Unprocessable Entity\)|ERR_FAILED/] });

  test('two people at once: the second is told, nothing is written over, and either can go on', async ({ page, browser }) => {
    await signIn(page);
    const loop = await makeLoop(page, CLIENT, { keyword: 'TWO' });
    const address = `/${CLIENT}/loops/${loop.id}`;
    await page.goto(address);
    const other = await (await browser.newContext({ baseURL: new URL(page.url()).origin })).newPage();
    await signIn(other, 'owner');
    await other.goto(address);
    const rename = async (who: typeof page, from: string, to: string) => {
      await who.getByRole('button', { name: `Scene: ${from}. Edit` }).click();
      await who.getByRole('textbox', { name: 'Scene' }).fill(to);
      await who.getByRole('textbox', { name: 'Scene' }).press('Enter');
    };
    // What one saves, the other sees, with whose it is.
    await rename(other, 'Bye', 'So long');
    await expect(page.getByText('Odile Marrow has just changed this draft', { exact: false })).toBeVisible();
    await expect(page.getByRole('region', { name: 'Scene 3, So long' })).toBeVisible();
    // Both write before either has heard of the other.
    await page.route('**/api/live', (route) => route.abort());
    await page.route('**/draft', async (route) => {
      await rename(other, 'Email', 'Address');
      await expect(other.getByText('saved', { exact: false }).first()).toBeVisible();
      await expect
        .poll(async () =>
          (await (await other.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=yaml`)).text()).includes('Address'),
        )
        .toBe(true);
      await page.unroute('**/draft');
      await route.continue();
    });
    await rename(page, 'Welcome', 'Hello');
    await expect(page.getByText('Odile Marrow saved this draft while you were writing.', { exact: false })).toBeVisible();
    const kept = await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=yaml`)).text();
    expect(kept).toContain('name: Address');
    expect(kept).toContain('name: Welcome');
    await page.getByRole('button', { name: 'Take theirs' }).click();
    await expect(page.getByRole('region', { name: 'Scene 2, Address' })).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('region', { name: 'Scene 1, Hello' })).toBeVisible();
    await other.context().close();
  });

  test('a loop is made, and one is taken in from a file; a wrong file is refused with its line', async ({ page }) => {
    await signIn(page);
    await page.goto(`/${CLIENT}/loops`);
    await page.getByRole('button', { name: 'New loop' }).click();
    await page.getByLabel('Name').fill('Made by hand');
    await page.getByRole('button', { name: 'Make it' }).click();
    await expect(page.getByText('Nothing starts this loop yet', { exact: false }).first()).toBeVisible();
    await expectAccessible(page);
    await page.goto(`/${CLIENT}/loops`);
    const choosing = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'From a file' }).click();
    await (
      await choosing
    ).setFiles({
      name: 'wrong.yaml',
      mimeType: 'application/yaml',
      buffer: Buffer.from('format: dart-loop/1\nname: Wrong\ncues: []\nscenes:\n  - name: A\n    steps:\n      - kind: dance\n'),
    });
    await expect(page.getByText('Line 7, column 15', { exact: false })).toBeVisible();
  });
});

test('by keyboard alone: lines are walked, edited, added, moved and undone', async ({ page }, info) => {
  test.skip(info.project.name === 'phone', 'keys are for wide screens');
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'KEYS' });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await expect(page.getByRole('group').first()).toBeVisible();
  await page.keyboard.press('j');
  await expect(page.getByRole('group', { name: /^say: Hello/ })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('textbox', { name: 'Text' })).toBeFocused();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('Typed by key');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('Typed by key')).toBeVisible();
  await page.getByRole('group', { name: /^say: Typed/ }).focus();
  await page.keyboard.press('a');
  await expect(page.getByRole('group', { name: 'say: Write the text here' })).toBeFocused();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('group').first()).toHaveAccessibleName('say: Write the text here');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('group', { name: 'say: Write the text here' })).toHaveCount(0);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
});
