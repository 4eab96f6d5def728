import { Secret, TOTP } from 'otpauth';
import { expect, expectAccessible, signIn, test } from './stage';

const PASSWORD = 'a lantern by the slipway';

test.describe('the team', () => {
  // Links that count no more, roles that were taken away, and wrong passwords are answered with a refusal.
  test.use({ meant: [/40[0134] \(/] });

  test('somebody is invited, comes in, gets another role while signed in, a new password, and is removed', async ({
    page,
    browser,
  }, info) => {
    const email = `wren.${info.project.name}@halfmoonrelay.example`;
    const name = `Wren Oakley ${info.project.name}`;
    await signIn(page, 'owner');
    await page.goto('/team');
    await page.getByRole('button', { name: 'Invite', exact: true }).click();
    await page.getByLabel('Email').fill('wren at halfmoonrelay');
    await page.getByRole('button', { name: 'Send invitation' }).click();
    await expect(page.getByText('Type an email address such as name@example.org.')).toBeVisible();
    await page.getByLabel('Email').fill(email);
    await page.getByRole('radio', { name: 'Operator' }).click();
    await page.getByRole('checkbox', { name: 'See and change all people' }).click();
    await page.getByRole('radio', { name: 'Chosen clients' }).click();
    await page.getByRole('checkbox', { name: 'Kestrel Language School' }).click();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Send invitation' }).click();
    await expect(page.getByText(`The link for ${email}`)).toBeVisible();
    await expect(page.getByText('It was sent by mail as well.', { exact: false })).toBeVisible();
    const link = new URL(await page.getByText(/\/welcome\/[\w-]{43}$/).innerText()).pathname;
    await expect(page.getByRole('list', { name: 'Invited' }).getByText(email)).toBeVisible();

    const theirs = await (
      await browser.newContext({ baseURL: new URL(page.url()).origin, viewport: page.viewportSize() })
    ).newPage();
    await theirs.goto(link);
    await expect(theirs.getByText(`Halfmoon Relay invites ${email}.`, { exact: false })).toBeVisible();
    await theirs.getByLabel('Your name').fill(name);
    await theirs.getByLabel('Password', { exact: true }).fill('qwertyuiop123');
    await theirs.getByRole('button', { name: 'Create account' }).click();
    await expect(
      theirs.getByText('Is one of the first that somebody would try', { exact: false }),
    ).toBeVisible();
    await expectAccessible(theirs);
    await theirs.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await theirs.getByLabel('Password', { exact: true }).press('Enter');
    await expect(theirs.getByRole('heading', { name: 'Today' })).toBeVisible();
    // What was given to them, and nothing else.
    await theirs.goto('/kestrel-language-school/people');
    await expect(theirs.getByRole('heading', { name: 'People' })).toBeVisible();
    await theirs.goto('/kestrel-language-school/loops');
    await expect(theirs.getByText('Your role (operator) does not include', { exact: false })).toBeVisible();
    // The link is used up.
    await theirs.goto(link);
    await expect(theirs.getByText('This link counts no more', { exact: false })).toBeVisible();

    await page.reload();
    await page.getByRole('button', { name: `Change ${name}` }).click();
    await page.getByRole('radio', { name: 'Builder' }).click();
    await page.getByRole('button', { name: `Save ${name}` }).click();
    // Of another size there may be another one just now.
    const theirLine = page.getByRole('listitem').filter({ hasText: name });
    await expect(theirLine.getByText('Builder, Kestrel Language School')).toBeVisible();
    await theirs.goto('/kestrel-language-school/loops');
    await expect(theirs.getByText('Placement', { exact: true })).toBeVisible();
    await theirs.goto('/saltmarsh-ferries/loops');
    await expect(theirs.getByText('There is no such client', { exact: false })).toBeVisible();

    await page.getByRole('button', { name: `Change ${name}` }).click();
    await page.getByRole('button', { name: 'Create link for a new password' }).click();
    await expect(page.getByText(`The link for ${name}`)).toBeVisible();
    const reset = new URL(await page.getByText(/\/welcome\/[\w-]{43}$/).innerText()).pathname;
    await theirs.goto(reset);
    await theirs.getByLabel('New password').fill('the tide comes twice');
    await theirs.getByRole('button', { name: 'Save password' }).click();
    await expect(theirs.getByRole('heading', { name: 'Today' })).toBeVisible();

    await page.getByRole('button', { name: `Change ${name}` }).click();
    await page.getByRole('button', { name: `Remove ${name}` }).click();
    await page.getByRole('button', { name: `Remove ${name}` }).click();
    await expect(page.getByText(name, { exact: true })).toHaveCount(0);
    await theirs.reload();
    await theirs.getByLabel('Email').fill(email);
    await theirs.getByLabel('Password', { exact: true }).fill('the tide comes twice');
    await theirs.getByRole('button', { name: 'Sign in', exact: true }).click();
    await expect(theirs.getByText('That address and password do not belong together.')).toBeVisible();
    await theirs.context().close();

    await page.goto('/audit');
    const changes = page.getByRole('list', { name: 'Changes' });
    await expect(changes.getByText('Odile Marrow removed somebody').first()).toBeVisible();
    // Somebody else may have been removed beside this test: all of them are opened.
    const closed = page.getByRole('button', { name: /^Details: Odile Marrow removed somebody/ });
    while ((await closed.count()) > 0) await closed.first().click();
    await expect(changes.getByText(email).first()).toBeVisible();
    await expectAccessible(page);
  });

  test('one’s own page: a name, a password, and the sessions elsewhere', async ({ page, browser }, info) => {
    const email = `own.${info.project.name}@halfmoonrelay.example`;
    await signIn(page, 'owner');
    const made = await page.request.post('/api/team/invitations', {
      data: { email, role: 'builder', clients: 'all' },
    });
    const { address } = (await made.json()) as { address: string };
    await page.request.delete('/api/session');
    await page.goto(new URL(address).pathname);
    await page.getByLabel('Your name').fill('Own Page');
    await page.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await page.getByRole('button', { name: 'Create account' }).click();
    await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
    const elsewhere = await browser.newContext({ baseURL: new URL(page.url()).origin });
    await elsewhere.request.post('/api/session', { data: { email, password: PASSWORD } });

    await page.goto('/account');
    const sessions = page.getByRole('list', { name: 'Where you are signed in' });
    await expect(sessions.getByRole('listitem')).toHaveCount(2);
    await sessions.getByRole('button', { name: /^Sign out/ }).click();
    await expect(sessions.getByRole('listitem')).toHaveCount(1);
    expect((await elsewhere.request.get('/api/today')).status()).toBe(401);
    await page.getByLabel('Name', { exact: true }).fill('Own Name');
    await page.getByRole('button', { name: 'Save name' }).click();
    await expect(page.getByRole('heading', { name: 'Own Name' })).toBeVisible();
    await page.getByRole('button', { name: /^Dates and numbers: English: / }).click();
    await page.getByRole('button', { name: /^German: 31.12.2026/ }).click();
    await expect(page.getByRole('button', { name: /^Dates and numbers: German/ })).toBeVisible();
    await page.getByRole('button', { name: /^Time zone of what you see: Same as the device/ }).click();
    await page.getByLabel('Only those with').fill('new york');
    await expectAccessible(page);
    await page.getByLabel('Only those with').press('Enter');
    await expect(
      page.getByRole('button', { name: 'Time zone of what you see: America/New York. Change' }),
    ).toBeVisible();
    await page.goto('/');
    const day = { weekday: 'long', day: 'numeric', month: 'long', timeZone: 'America/New_York' } as const;
    await expect(page.getByText(new Date().toLocaleString('de', day), { exact: false })).toBeVisible();
    await page.goto('/account');
    await page.getByLabel('Current password').fill('not this one');
    await page.getByLabel('New password').fill('the tide comes twice');
    await page.getByRole('button', { name: 'Change password' }).click();
    await expect(page.getByText('Is not the one that you have now.')).toBeVisible();
    await page.getByLabel('Current password').fill(PASSWORD);
    await page.getByRole('button', { name: 'Change password' }).click();
    await expect(page.getByText('The password is changed.', { exact: false })).toBeVisible();
    await expectAccessible(page);

    // A second factor: set up, asked for at the sign-in, and turned off.
    await page.getByRole('button', { name: 'Set up second factor' }).click();
    const secret = (await page.getByText(/^([A-Z2-7]{4} ){7}[A-Z2-7]{4}$/).innerText()).replaceAll(' ', '');
    const totp = new TOTP({ secret: Secret.fromBase32(secret) });
    await page.getByLabel('Code', { exact: true }).fill('000000');
    await page.getByRole('button', { name: 'Turn on', exact: true }).click();
    await expect(page.getByText('Is not the one that your authenticator shows now.')).toBeVisible();
    await page.getByLabel('Code', { exact: true }).fill(totp.generate({ timestamp: Date.now() - 30_000 }));
    await page.getByRole('button', { name: 'Turn on', exact: true }).click();
    const recovery = page.getByRole('list', { name: 'Recovery codes' }).getByRole('listitem');
    await expect(recovery).toHaveCount(10);
    const spare = await recovery.first().innerText();
    await expectAccessible(page);
    for (const code of [totp.generate(), spare]) {
      await page.goto('/account');
      await page.getByRole('button', { name: 'Sign out', exact: true }).click();
      await page.getByLabel('Email').fill(email);
      await page.getByLabel('Password', { exact: true }).fill('the tide comes twice');
      await page.getByRole('button', { name: 'Sign in', exact: true }).click();
      await page.getByLabel('Code', { exact: true }).fill(code);
      await page.getByRole('button', { name: 'Sign in', exact: true }).click();
      await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
    }
    await page.goto('/account');
    await expect(page.getByText('9 recovery codes are left.', { exact: false })).toBeVisible();
    await page.getByRole('button', { name: 'Turn off second factor' }).click();
    await page.getByLabel('Your password, to turn it off').fill('the tide comes twice');
    await page.getByRole('button', { name: 'Turn off', exact: true }).click();
    await expect(page.getByRole('button', { name: 'Set up second factor' })).toBeVisible();
    await elsewhere.close();
  });
});

test.describe('clients', () => {
  test.use({ meant: [/40[09] \(/] });

  test('a client is added, its brief written, by two at once, and what is emptied is said', async ({
    page,
    browser,
  }, info) => {
    await signIn(page, 'owner');
    await page.goto('/clients');
    await page.getByRole('button', { name: 'Add client' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('button', { name: 'Add client' }).click();
    await expect(dialog.getByText('Type a name.')).toBeVisible();
    await dialog.getByLabel('Name').fill(`Orchard Lane ${info.project.name}`);
    await dialog.getByLabel('Country').fill('GB');
    await dialog.getByLabel('Time zone').fill('Europe/London');
    await dialog.getByLabel('Language').fill('en');
    await dialog.getByRole('button', { name: 'Add client' }).click();
    await expect(page).toHaveURL(`/orchard-lane-${info.project.name}/brief`);
    await expect(page.getByText('Not live yet')).toBeVisible();
    await expect(page.getByRole('link', { name: 'Connect a line' })).toBeVisible();
    await page.getByLabel('Phone', { exact: true }).fill('+44 1632 960188');
    await page.getByLabel('Name of a new entry').fill('Oven day');
    await page.getByRole('button', { name: 'Add entry' }).click();
    await page.getByLabel('oven_day', { exact: true }).fill('Thursday');
    await page.getByRole('button', { name: 'oven_day is any text. Change' }).click();
    await page.getByRole('button', { name: 'a time of day' }).click();
    await page.getByLabel('Currency').fill('EUR');
    await page.getByLabel('Sunday').fill('all day');
    await expect(page.getByText('Hours such as “9-12, 13:30-17”; empty is closed.')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Save brief' })).toBeDisabled();
    await page.getByLabel('Sunday').fill('');
    await page.getByLabel('Monday').fill('7-15');
    // One holiday of the coming year is chosen from the country's, one is typed.
    await page.getByLabel('Closed days').fill('2031-02-03');
    await page.getByRole('button', { name: 'Public holidays' }).click();
    const holidays = page.getByRole('dialog', { name: 'Public holidays' });
    await holidays.getByRole('checkbox', { name: /Christmas Day$/ }).click();
    await expectAccessible(page);
    await holidays.getByRole('button', { name: 'Close on 1 day' }).click();
    await expect(page.getByLabel('Closed days')).toHaveValue(/^2031-02-03, \d{4}-12-25$/);
    await page.getByRole('button', { name: 'Save brief' }).click();
    await expect(page.getByText('Is to be a time of day, such as', { exact: false }).first()).toBeVisible();
    await page.getByRole('button', { name: 'oven_day is a time of day. Change' }).click();
    await page.getByRole('button', { name: 'any text' }).click();
    await page.getByRole('button', { name: 'Save brief' }).click();
    await expect(page.getByText(/^By these hours it is (open|closed) now/)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Save brief' })).toBeDisabled();
    await page.reload();
    await expect(page.getByLabel('Monday')).toHaveValue('07:00-15:00');
    await expect(page.getByLabel('oven_day', { exact: true })).toHaveValue('Thursday');
    await expect(page.getByLabel('Currency')).toHaveValue('EUR');
    await expectAccessible(page);

    // Put away, and brought back.
    await page.getByRole('button', { name: 'Archive client' }).click();
    await page.getByRole('button', { name: `Archive Orchard Lane ${info.project.name}` }).click();
    await expect(page.getByRole('heading', { name: 'Clients' })).toBeVisible();
    await expect(page.getByRole('list', { name: 'Archived' })).toContainText('Orchard Lane');
    await page.getByRole('button', { name: `Restore Orchard Lane ${info.project.name}` }).click();
    await page
      .getByRole('list', { name: 'Clients' })
      .getByRole('link', { name: `Orchard Lane ${info.project.name}` })
      .click();
    await expect(page.getByLabel('oven_day', { exact: true })).toHaveValue('Thursday');

    // Somebody else writes it meanwhile.
    await page.getByLabel('Phone', { exact: true }).fill('+44 1632 960189');
    const other = await browser.newContext({ baseURL: new URL(page.url()).origin });
    const two = await other.newPage();
    await signIn(two, 'builder');
    await two.goto(page.url());
    await two.getByLabel('Address').fill('2 Orchard Lane');
    await two.getByRole('button', { name: 'Save brief' }).click();
    await expect(two.getByRole('button', { name: 'Save brief' })).toBeDisabled();
    await other.close();
    await page.getByRole('button', { name: 'Save brief' }).click();
    await expect(page.getByText('Bram Tansy has changed it', { exact: false })).toBeVisible();
    await page.getByRole('button', { name: 'Use their version' }).click();
    await expect(page.getByLabel('Address')).toHaveValue('2 Orchard Lane');
    await expect(page.getByLabel('Phone', { exact: true })).toHaveValue('+44 1632 960188');

    // An entry that loops name.
    await page.goto('/saltmarsh-ferries/brief');
    await expect(page.getByText('Used by Sailing alerts', { exact: false }).first()).toBeVisible();
    await page.getByLabel('Phone', { exact: true }).fill('');
    await expect(page.getByText(/^Empty, and used by Sailing alerts/)).toBeVisible();
    await page.getByRole('button', { name: 'Discard changes' }).click();
    await expect(page.getByLabel('Phone', { exact: true })).toHaveValue('+44 1632 960144');
  });
});
