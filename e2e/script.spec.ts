import { expect, expectAccessible, makeLoop, ofLoop, publish, signIn, test, type } from './stage';

const CLIENT = 'northgate-climbing';

test('steps are added, moved, pointed elsewhere and removed; all of it is undone and redone, and saved', async ({
  page,
}) => {
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'EDIT' });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await page.getByRole('button', { name: 'Add a step to Bye' }).click();
  await page.getByRole('button', { name: /^Ask for a number/ }).click();
  await page.getByRole('button', { name: 'Done adding' }).click();
  const bye = page.getByRole('region', { name: 'Scene 3, Bye' });
  await expect(bye.getByRole('group', { name: /^(say|ask|end)/ })).toHaveCount(3);
  await expect(page.getByRole('button', { name: 'Publish 1 change' })).toBeVisible();
  // Above the end, where it can be reached.
  await bye.getByRole('button', { name: 'More for this ask' }).click();
  await page.getByRole('button', { name: /^Move up/ }).click();
  await expect(bye.getByRole('group', { name: /^(say|ask|end)/ }).nth(1)).toHaveAccessibleName(
    'ask: How many?',
  );
  await page.getByRole('button', { name: 'Not now leads to 3 Bye. Change' }).click();
  await page.getByRole('button', { name: 'a new scene' }).click();
  await expect(page.getByRole('region', { name: 'Scene 2, Scene 4' })).toBeVisible();
  await expect(page.getByText('Scene 2 (Scene 4) has no steps; add one or remove the scene.')).toBeVisible();
  await page.getByRole('button', { name: /^Publish/ }).click();
  await expect(page.getByRole('button', { name: 'Publish now' })).toBeDisabled();
  await page.getByRole('button', { name: 'Not yet' }).click();
  const undo = page.getByRole('button', { name: 'Undo' });
  for (let step = 0; step < 3; step++) await undo.click();
  await expect(page.getByRole('button', { name: 'Published' })).toBeVisible();
  await expect(undo).toBeDisabled();
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByRole('button', { name: 'Publish 1 change' })).toBeVisible();
  await page.reload();
  await expect(
    page.getByRole('region', { name: 'Scene 3, Bye' }).getByRole('group', { name: /^(say|ask|end)/ }),
  ).toHaveCount(3);
  await page.getByRole('button', { name: 'More for this ask' }).last().click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Remove/ })
    .click();
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
  await page.getByRole('textbox', { name: 'Text' }).press('Control+End');
  await page.getByRole('button', { name: 'Insert a merge field' }).click();
  await page.getByRole('button', { name: /^first name/ }).click();
  await expect(page.getByRole('textbox', { name: 'Text' })).toHaveValue(
    /^Another time.*\[first name, or "there"\]$/,
  );
  await expect(page.getByRole('button', { name: /^Publish \d changes$/ })).toBeVisible();
  const file = await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=json`)).text();
  await expect
    .poll(
      async () =>
        (
          await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=json`)).text()
        ).includes('person.first_name'),
      { message: file },
    )
    .toBe(true);
  const saved = JSON.parse(
    await (await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=json`)).text(),
  ) as {
    scenes: { steps: { choices?: { label: string }[]; noReply?: { after: string }; retry?: object }[] }[];
  };
  expect(saved.scenes[0]!.steps[0]).toMatchObject({
    choices: [{ label: 'Yes please' }, { label: 'Not now' }, { label: 'Perhaps' }],
    noReply: { after: '1d' },
    retry: { times: 2 },
  });
});

test.describe('two at once', () => {
  test.use({ meant: [/409 \(Conflict\)|ERR_FAILED/] });

  test('two people write in one loop: they see each other, both stand, and where both changed the same it is told', async ({
    page,
    browser,
  }) => {
    await signIn(page);
    const loop = await makeLoop(page, CLIENT, { keyword: 'TWO' });
    const address = `/${CLIENT}/loops/${loop.id}`;
    await page.goto(address);
    const other = await (
      await browser.newContext({ baseURL: new URL(page.url()).origin, viewport: page.viewportSize() })
    ).newPage();
    await signIn(other, 'owner');
    await other.goto(address);
    const rename = async (who: typeof page, from: string, to: string) => {
      await who.getByRole('button', { name: `Scene: ${from}. Edit` }).click();
      await who.getByRole('textbox', { name: 'Scene' }).fill(to);
      await who.getByRole('textbox', { name: 'Scene' }).press('Enter');
    };
    await expect(page.getByText('Odile Marrow is here too', { exact: false })).toBeVisible();
    // What one saves, the other sees, with whose it is.
    await rename(other, 'Bye', 'So long');
    await expect(page.getByText('Odile Marrow has just changed this draft', { exact: false })).toBeVisible();
    await expect(page.getByRole('region', { name: 'Scene 3, So long' })).toBeVisible();
    await page.getByRole('button', { name: 'Noted', exact: true }).click();
    // Both write before either has heard of the other: in different scenes, and in the same.
    await page.route('**/api/live', (route) => route.abort());
    await page.route('**/draft', async (route) => {
      await page.unroute('**/draft');
      await rename(other, 'Email', 'Address');
      await rename(other, 'Welcome', 'Good day');
      await expect
        .poll(async () =>
          (
            await (await other.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=yaml`)).text()
          ).includes('Good day'),
        )
        .toBe(true);
      await route.continue();
    });
    await rename(page, 'Welcome', 'Hello');
    await expect(
      page.getByText('Where both have changed the same, yours stands:', { exact: false }),
    ).toBeVisible();
    await expect(page.getByText('Odile Marrow wrote “Good day”', { exact: false })).toBeVisible();
    await expect(page.getByRole('region', { name: 'Scene 2, Address' })).toBeVisible();
    await expect(page.getByRole('region', { name: 'Scene 1, Hello' })).toBeVisible();
    await page.getByRole('button', { name: 'Use their version' }).click();
    await expect(page.getByRole('region', { name: 'Scene 1, Good day' })).toBeVisible();
    // Undoing takes back only what is ours.
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('region', { name: 'Scene 2, Address' })).toBeVisible();
    await other.context().close();
  });

  test('a lost connection, a reload and a second window lose nothing that was typed', async ({
    page,
    context,
  }) => {
    await signIn(page);
    const loop = await makeLoop(page, CLIENT, { keyword: 'LOST' });
    const address = `/${CLIENT}/loops/${loop.id}`;
    await page.goto(address);
    await expect(page.getByRole('region', { name: 'Scene 1, Welcome' })).toBeVisible();
    await page.route('**/draft', (route) => route.abort());
    await page.getByRole('button', { name: /^Text: Another time/ }).click();
    await page.getByRole('textbox', { name: 'Text' }).fill('Typed without a connection');
    await page.getByRole('textbox', { name: 'Text' }).press('Control+Enter');
    await expect(page.getByText('not saved', { exact: false }).first()).toBeVisible();
    const second = await context.newPage();
    await second.route('**/draft', (route) => route.abort());
    await second.goto(address);
    await second.getByRole('button', { name: 'Scene: Welcome. Edit' }).click();
    await second.getByRole('textbox', { name: 'Scene' }).fill('Hello there');
    await second.getByRole('textbox', { name: 'Scene' }).press('Enter');
    await expect(second.getByText('not saved', { exact: false }).first()).toBeVisible();
    await page.unroute('**/draft');
    await page.reload();
    await second.close();
    await expect(page.getByText('Typed without a connection')).toBeVisible();
    await expect
      .poll(async () => {
        const file = await (
          await page.request.get(`/api/clients/${CLIENT}/loops/${loop.id}/file?as=yaml`)
        ).text();
        return [file.includes('Typed without a connection'), file.includes('Hello there')];
      })
      .toEqual([true, true]);
    // Typed in the very moment in which the page is left: in a line, and in a step that is not there yet.
    await page.getByRole('button', { name: /^Question: Where to/ }).click();
    await page.getByRole('textbox', { name: 'Question' }).fill('Where shall we write to?');
    await page.reload();
    await expect(page.getByText('Where shall we write to?')).toBeVisible();
    await page.getByRole('button', { name: 'Add a step to Bye' }).click();
    await page.getByRole('textbox', { name: 'What comes next?' }).fill('Half a senten');
    await page.reload();
    await expect(page.getByRole('textbox', { name: 'What comes next?' })).toHaveValue('Half a senten');
  });
});

test('steps of every kind are written, chosen together, moved, copied into another loop, and found', async ({
  page,
}, info) => {
  await signIn(page);
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  const loop = await makeLoop(page, CLIENT, { keyword: 'WRITE' });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await type(page, 'Email', [
    'wait 2h',
    'tag keen',
    'if tag keen -> Bye',
    'ask Which day suits you?',
    'go Nowhere yet',
  ]);
  const email = page.getByRole('region', { name: 'Scene 2, Email' });
  await expect(email.getByRole('group', { name: /^(say|ask|wait|set|split|go)/ })).toHaveCount(7);
  await expect(page.getByRole('region', { name: 'Scene 4, Nowhere yet' })).toBeVisible();
  // Its settings in words.
  await email.getByRole('button', { name: 'wait: 2 h. Change' }).click();
  await page.getByLabel('Wait', { exact: true }).fill('until monday 9:00');
  await page.getByRole('button', { name: 'Done', exact: true }).click();
  await expect(email.getByText('until Monday, 09:00')).toBeVisible();
  // Two chosen, copied, and pasted into another loop as text.
  await email.getByRole('button', { name: 'More for this wait' }).click();
  await page.getByRole('button', { name: /^Choose several/ }).click();
  await email.getByRole('button', { name: 'More for this set' }).click();
  await page.getByRole('button', { name: /^Choose several/ }).click();
  await expect(page.getByText('2 steps chosen')).toBeVisible();
  if (info.project.name === 'wide') await expectAccessible(page);
  await page.getByRole('toolbar').getByRole('button', { name: 'Copy' }).click();
  const target = await makeLoop(page, CLIENT, { keyword: 'TARGET' });
  await page.goto(`/${CLIENT}/loops/${target.id}`);
  await page.getByRole('button', { name: 'More for this end' }).click();
  await page.getByRole('button', { name: /^Paste below/ }).click();
  await expect(
    page.getByRole('region', { name: 'Scene 3, Bye' }).getByText('until Monday, 09:00'),
  ).toBeVisible();
  // Words are found and replaced in all texts.
  await ofLoop(page, 'Find and replace');
  await page.getByLabel('Find', { exact: true }).fill('we');
  await expect(page.getByText('Once in 1 step.')).toBeVisible();
  await page.getByLabel('Replace by').fill('the team');
  await page.getByRole('button', { name: 'Replace all' }).click();
  await expect(page.getByRole('button', { name: /^Text: Hello. Shall the team write to you/ })).toBeVisible();
});

test('a finding is fixed in one tap, another accepted with a reason; a path is rehearsed and kept as a take; a changed text changes the take', async ({
  page,
}) => {
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, {
    keyword: 'CHECKED',
    text: 'Hello {{ person.nickname }}. Shall we write to you?',
  });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await page.getByRole('tab', { name: /^Checks/ }).click();
  const checks = page.getByRole('region', { name: 'Checks' });
  await checks.getByRole('button', { name: /^Accept: .*\[nickname\] may be empty/ }).click();
  await checks.getByLabel('Why is this acceptable?').fill('Everybody has one here');
  await checks.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(checks.getByText('Accepted: Everybody has one here')).toBeVisible();
  await checks.getByRole('radio', { name: /^Paths/ }).click();
  await expectAccessible(page);
  await checks.getByLabel('Only those with', { exact: true }).fill('yes please, then an email');
  await checks
    .getByRole('button', { name: /^Yes please, then an email address/ })
    .first()
    .click();
  const stage = page.getByRole('region', { name: 'Rehearse' });
  await expect(stage.getByText('Noted, mira@example.org.')).toBeVisible();
  await expectAccessible(page);
  await stage.getByRole('button', { name: 'Keep as take' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Says yes');
  await page.getByRole('button', { name: 'Save take' }).click();
  await expect(stage.getByText('Saved as “Says yes”.', { exact: false })).toBeVisible();
  await page.getByRole('tab', { name: /^Script/ }).click();
  await page.getByRole('button', { name: /^Text: Noted/ }).click();
  await page.getByRole('textbox', { name: 'Text' }).fill('Written down: [email].');
  await page.getByRole('textbox', { name: 'Text' }).press('Control+Enter');
  await page.getByRole('tab', { name: /^Checks/ }).click();
  await checks.getByRole('radio', { name: 'Takes 1, 1 changed' }).click();
  await expect(checks.getByText('− Noted, mira@example.org.')).toBeVisible();
  await expect(checks.getByText('+ Written down: mira@example.org.')).toBeVisible();
  // It stands in the way until it is accepted.
  if (page.viewportSize()!.width < 900) await page.getByRole('tab', { name: /^Script/ }).click();
  await page
    .getByRole('button', { name: /^Publish/ })
    .first()
    .click();
  await expect(
    page.getByText('The take “Says yes” plays otherwise than kept.', { exact: false }),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'Publish now' })).toBeDisabled();
  await page.getByRole('button', { name: 'See the checks' }).click();
  await checks.getByRole('radio', { name: /^Takes/ }).click();
  await checks.getByRole('button', { name: 'Accept the changes in Says yes' }).click();
  await expect(checks.getByText('● plays as kept', { exact: false })).toBeVisible();
  if (page.viewportSize()!.width < 900) await page.getByRole('tab', { name: /^Script/ }).click();
  await expect(page.getByText('saved', { exact: false }).first()).toBeVisible();
  await publish(page);
  await expect(page.getByText('live, version 2', { exact: false })).toBeVisible();
});

test('the route is drawn, opened by a stop and saved; how a step lands is seen on each line', async ({
  page,
}) => {
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'ROUTE' });
  await page.goto(`/${CLIENT}/loops/${loop.id}?see=route`);
  const route = page.getByRole('region', { name: 'Route' });
  await expect(route.getByRole('link', { name: 'Open scene 2 Email' })).toBeVisible();
  await expectAccessible(page);
  for (const kind of ['SVG', 'PNG']) {
    const saving = page.waitForEvent('download');
    await route.getByRole('button', { name: `Save as ${kind}` }).click();
    expect((await saving).suggestedFilename()).toMatch(new RegExp(`route.${kind.toLowerCase()}$`));
  }
  await route.getByRole('link', { name: 'Open scene 2 Email' }).click();
  await expect(page.getByRole('region', { name: 'Scene 2, Email' })).toBeVisible();
  await page
    .getByRole('region', { name: 'Scene 1, Welcome' })
    .getByRole('button', { name: 'More for this say' })
    .click();
  await page.getByRole('button', { name: /^See it on each channel/ }).click();
  const lands = page.getByRole('region', { name: 'As it lands' });
  await expect(lands.getByText('A Yes please', { exact: false })).toBeVisible();
  await expect(lands.getByText(/1 part · \d+ of 160/)).toBeVisible();
  await expectAccessible(page);
});

test('a loop is paused with what that means, runs again, is stopped, archived and shown', async ({
  page,
}) => {
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'PAUSE' });
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await ofLoop(page, 'Pause');
  await expect(page.getByText('Nobody new can start it', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Pause loop' }).click();
  await expect(page.getByText('paused: nobody new starts', { exact: false }).first()).toBeVisible();
  await ofLoop(page, 'Resume');
  await expect(page.getByText('live, version 1', { exact: false })).toBeVisible();
  await ofLoop(page, 'Stop');
  await page.getByRole('button', { name: 'Stop loop' }).click();
  await expect(page.getByText('stopped: nobody starts', { exact: false }).first()).toBeVisible();
  await ofLoop(page, 'Archive');
  await expect(page.getByText('archived', { exact: false }).first()).toBeVisible();
  await ofLoop(page, 'Versions and history');
  await expect(
    page.getByRole('list', { name: 'History' }).getByText('archived a loop', { exact: false }),
  ).toBeVisible();
  await page.keyboard.press('Escape');
  await page.goto(`/${CLIENT}/loops`);
  await expect(page.getByText(loop.name, { exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: /archived loops?$/ }).click();
  await expect(page.getByText(loop.name, { exact: true })).toBeVisible();
});

test('300 steps: a letter typed is there at once, and the checks come beside it', async ({ page }, info) => {
  test.skip(info.project.name === 'phone', 'once is enough');
  await signIn(page);
  const scenes = Array.from(
    { length: 60 },
    (_, at) => `
  - id: s${at}
    name: Scene ${at}
    steps:
${Array.from({ length: 5 }, (_each, step) => `      - { id: t${at}-${step}, kind: say, text: "Step ${step} of scene ${at} says something that people read." }`).join('\n')}
      - { id: g${at}, kind: go, to: ${at < 59 ? `s${at + 1}` : 'end'} }`,
  );
  const { id } = (await (
    await page.request.post(`/api/clients/${CLIENT}/loops/import`, {
      data: {
        file: `format: dart-loop/1\nname: Long one\ncues: [{ kind: keyword, words: [LONGEST], match: exactly }]\nscenes:${scenes.join('')}`,
      },
    })
  ).json()) as { id: string };
  await page.goto(`/${CLIENT}/loops/${id}`);
  await page.getByRole('button', { name: /^Text: Step 0 of scene 30 / }).click();
  const field = page.getByRole('textbox', { name: 'Text' });
  await field.press('Control+End');
  await field.pressSequentially(' Typed in the middle of three hundred steps.');
  await expect(field).toHaveValue(/Typed in the middle of three hundred steps\.$/);
  await field.press('Control+Enter');
  await expect(page.getByText(/^1 path, 0 have a take$/)).toBeVisible();
});

test.describe('what is refused', () => {
  test.use({ meant: [/422 \(Unprocessable Entity\)/] });

  test('a loop is made, and one is taken in from a file; a wrong file is refused with its line', async ({
    page,
  }) => {
    await signIn(page);
    await page.goto(`/${CLIENT}/loops`);
    await page.getByRole('button', { name: 'Add loop' }).click();
    await page.getByLabel('Name').fill('Made by hand');
    await page.getByRole('dialog').getByRole('button', { name: 'Add loop' }).click();
    await expect(page.getByText('Nothing starts this loop yet', { exact: false }).first()).toBeVisible();
    await expectAccessible(page);
    await page.goto(`/${CLIENT}/loops`);
    const choosing = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'Import' }).click();
    await (
      await choosing
    ).setFiles({
      name: 'wrong.yaml',
      mimeType: 'application/yaml',
      buffer: Buffer.from(
        'format: dart-loop/1\nname: Wrong\ncues: []\nscenes:\n  - name: A\n    steps:\n      - kind: dance\n',
      ),
    });
    await expect(page.getByText('Line 7, column 15', { exact: false })).toBeVisible();
  });
});

test('by keyboard alone: lines are walked, edited, added, moved and undone', async ({ page }, info) => {
  test.skip(info.project.name === 'phone', 'keys are for wide screens');
  await signIn(page);
  const loop = await makeLoop(page, CLIENT, { keyword: 'KEYS' });
  // The quickest hand there can be: a key at the very moment at which the first line stands there.
  await page.addInitScript(() =>
    new MutationObserver((_changes, observer) => {
      if (!document.querySelector('[data-step]')) return;
      observer.disconnect();
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', bubbles: true }));
    }).observe(document, { childList: true, subtree: true }),
  );
  await page.goto(`/${CLIENT}/loops/${loop.id}`);
  await expect(page.getByRole('group', { name: /^say: Hello/ })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('textbox', { name: 'Text' })).toBeFocused();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('Typed by key');
  await page.keyboard.press('Control+Enter');
  await expect(page.getByText('Typed by key')).toBeVisible();
  await page.getByRole('group', { name: /^say: Typed/ }).focus();
  await page.keyboard.press('a');
  await expect(page.getByRole('textbox', { name: 'What comes next?' })).toBeFocused();
  await page.keyboard.type('Added by key');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('group', { name: 'say: Added by key' })).toBeFocused();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('group', { name: /^say/ }).first()).toHaveAccessibleName('say: Added by key');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('group', { name: 'say: Added by key' })).toHaveCount(0);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keyboard shortcuts' })).toBeVisible();
  await page.keyboard.press('Escape');
  // What changes on the page between the two keys does not make a p of its own of the second, which would
  // publish.
  await page.keyboard.press('g');
  await page.setViewportSize({ width: 1_270, height: 800 });
  await page.keyboard.press('p');
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
});
