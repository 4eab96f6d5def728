import type { Page } from '@playwright/test';
import { expect, expectAccessible, loopId, signIn, test } from './stage';

const CLIENT = 'saltmarsh-ferries';

/** Every screen of somebody who builds, with its title. */
async function screensOf(page: Page): Promise<[string, RegExp][]> {
  const loop = await loopId(page, CLIENT, 'Sailing alerts');
  const people = (await (await page.request.get(`/api/clients/${CLIENT}/people?q=example.org`)).json()) as {
    rows: { id: string; name: string }[];
  };
  const inbox = (await (await page.request.get(`/api/inbox?shelf=settled&client=${CLIENT}`)).json()) as {
    rows: { id: string; who: string }[];
  };
  const { sources } = (await (await page.request.get(`/api/clients/${CLIENT}/sources`)).json()) as {
    sources: { id: string }[];
  };
  return [
    ['/', /Today/],
    ['/inbox', /Inbox/],
    [`/inbox/${CLIENT}/${inbox.rows[0]!.id}`, new RegExp(inbox.rows[0]!.who.replace('+', '\\+'))],
    [`/${CLIENT}/loops`, /Loops/],
    [`/${CLIENT}/loops/${loop}`, /Sailing alerts/],
    [`/${CLIENT}/people`, /People/],
    [`/${CLIENT}/people/${people.rows[0]!.id}`, new RegExp(people.rows[0]!.name.replace('+', '\\+'))],
    [`/${CLIENT}/people/${people.rows[0]!.id}/proof`, /Consent/],
    [`/${CLIENT}/import`, /Import people/],
    [`/${CLIENT}/files`, /Files/],
    [`/${CLIENT}/answers`, /Answers/],
    [`/${CLIENT}/answers/sheet`, /Answers/],
    [`/${CLIENT}/answers/try`, /Answers/],
    [`/${CLIENT}/answers/${sources[0]!.id}`, /\.md/],
    [`/${CLIENT}/fields`, /Fields/],
    [`/${CLIENT}/lists`, /Lists/],
    [`/${CLIENT}/sending`, /Sending rules/],
    [`/${CLIENT}/bookings`, /Bookings/],
    [`/${CLIENT}/lines`, /Lines/],
    [`/${CLIENT}/webhooks`, /Webhooks/],
    [`/${CLIENT}/test-phone`, /Test phone/],
    [`/${CLIENT}/sync`, /Sync/],
    [`/${CLIENT}/api`, /API/],
    [`/${CLIENT}/erasures`, /Deletion receipts/],
    [`/${CLIENT}/brief`, /Brief/],
    ['/more', /More/],
    ['/account', /Bram Tansy|Odile Marrow/],
    ['/nowhere/at/all/here', /Page not found/],
  ];
}
const OF_THE_OWNER: [string, RegExp][] = [
  ['/clients', /Clients/],
  ['/team', /Team/],
  ['/audit', /Audit/],
];

/** What an element shows that nobody can see: it lies beyond the right edge, or is cut without dots. */
function unseen(): string[] {
  const scrolls = (element: Element): boolean => {
    for (let at: Element | null = element; at && at !== document.body; at = at.parentElement)
      if (/auto|scroll/.test(getComputedStyle(at).overflowX) && at.scrollWidth > at.clientWidth) return true;
    return false;
  };
  const all = Array.from(document.querySelectorAll<HTMLElement>('body *')).filter((element) =>
    Array.from(element.childNodes).some(
      ({ nodeType, textContent }) => nodeType === 3 && textContent!.trim() !== '',
    ),
  );
  const found = all.flatMap((element) => {
    const { width, height, right } = element.getBoundingClientRect();
    if (width === 0 || height === 0) return [];
    const { overflowX, textOverflow } = getComputedStyle(element);
    const words = element.textContent!.slice(0, 40);
    if (right > window.innerWidth + 1 && !scrolls(element)) return [`beyond the edge: ${words}`];
    const isCut = overflowX === 'hidden' && element.scrollWidth > element.clientWidth + 1;
    return isCut && textOverflow !== 'ellipsis' ? [`cut: ${words}`] : [];
  });
  const isWide = document.documentElement.scrollWidth > window.innerWidth;
  return [...new Set([...(isWide ? ['the page scrolls sideways'] : []), ...found])];
}

test('every screen can be read at 200 %: nothing is cut, and none scrolls sideways', async ({
  page,
}, info) => {
  test.setTimeout(240_000);
  // Text of twice the size is a window of half the width; below 320 points nobody is asked to go.
  await page.setViewportSize(
    info.project.name === 'phone' ? { width: 320, height: 640 } : { width: 640, height: 400 },
  );
  await signIn(page, 'owner');
  const unread: string[] = [];
  for (const [address, title] of [...(await screensOf(page)), ...OF_THE_OWNER]) {
    await page.goto(address);
    await expect(page).toHaveTitle(title);
    await expect(page.getByText(/^Loading/)).toHaveCount(0);
    unread.push(...(await page.evaluate(unseen)).map((each) => `${address}: ${each}`));
  }
  expect(unread).toEqual([]);
});

test('every screen opens by its address and survives a reload, and axe finds nothing, in the light and in the dark', async ({
  page,
}) => {
  // Two dozen screens, each opened twice and looked through twice.
  test.setTimeout(480_000);
  await page.goto('/');
  await expect(page.getByRole('button', { name: 'Bram Tansy, builder' })).toBeVisible();
  await expectAccessible(page);
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectAccessible(page);
  await signIn(page);
  const screens = await screensOf(page);
  const stands = async (address: string, title: RegExp, looked: 'all' | 'colours') => {
    await expect(page).toHaveTitle(title);
    await expect(page.getByText(/^Loading/)).toHaveCount(0);
    await expectAccessible(page, looked);
    const fits = await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth);
    expect(fits, `${address} scrolls sideways`).toBe(true);
  };
  for (const [address, title] of [...screens, ...OF_THE_OWNER]) {
    if (address === OF_THE_OWNER[0]![0]) await signIn(page, 'owner');
    await page.emulateMedia({ colorScheme: 'light' });
    await page.goto(address);
    await stands(address, title, 'all');
    await page.emulateMedia({ colorScheme: 'dark' });
    await page.reload();
    await stands(address, title, 'colours');
  }
});

test('signing in by tap and by password, and out again', async ({ page }, info) => {
  await page.goto('/northgate-climbing/people');
  await page.getByRole('button', { name: 'Bram Tansy, builder' }).click();
  // At the address that was asked for.
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
  if (info.project.name === 'phone') await page.getByRole('link', { name: 'More' }).click();
  await page.getByRole('link', { name: 'Bram Tansy' }).click();
  await page.getByRole('button', { name: 'Sign out', exact: true }).click();
  await page.getByLabel('Email').fill('petra@halfmoonrelay.example');
  await page.getByLabel('Password', { exact: true }).fill('lights-up');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible();
  // An operator sees people, and neither loops nor lines.
  await expect(page.getByRole('link', { name: 'People' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Loops' })).toHaveCount(0);
});

test('the client’s own user sees its conversations only', async ({ page }) => {
  await signIn(page, 'client');
  await page.goto('/inbox');
  await page.getByRole('tab', { name: /Settled/ }).click();
  await expect(page.getByRole('listitem').first()).toBeVisible();
  await expect(page.getByText('Northgate')).toHaveCount(0);
  await expect(page.getByRole('link', { name: /^(Loops|People)$/ })).toHaveCount(0);
});

test('Today leads to what waits, and the inbox’s shelves to the conversations', async ({ page }) => {
  await signIn(page);
  await page.goto('/');
  await page
    .getByRole('link', { name: /^Read what .* wrote$/ })
    .first()
    .click();
  await expect(
    page.getByText(/Nobody answers: no cue hears this|Handed over to ticket office/).first(),
  ).toBeVisible();
  await page.goto('/inbox');
  for (const shelf of [/In a loop/, /Settled/]) {
    await page.getByRole('tab', { name: shelf }).click();
    await expect(page.getByRole('listitem').first()).toBeVisible();
  }
});

test('a line is connected, tested and disconnected, with a sentence at each step', async ({ page }, info) => {
  await signIn(page);
  await page.goto('/northgate-climbing/lines');
  await page.getByRole('radio', { name: 'Telegram bot' }).click();
  await page.getByLabel('Bot token').fill('70012003');
  await expect(page.getByText('After the digits comes a colon, then 35 characters.')).toBeVisible();
  const id = info.project.name === 'phone' ? '7001200501' : '7001200502';
  await page.getByLabel('Bot token').fill(`${id}:${'a'.repeat(34)}`);
  await expect(page.getByText('After the colon stand 35 characters; there are 34.')).toBeVisible();
  await page.getByLabel('Bot token').fill(`${id}:${'a'.repeat(35)}`);
  await page.getByRole('button', { name: 'Connect and test' }).click();
  const name = `@halfmoon_${id}_bot`;
  await expect(page.getByText(`${name} is connected.`, { exact: false })).toBeVisible();
  const line = page.getByRole('listitem').filter({ hasText: name });
  await expect(line.getByText('connected, never heard yet', { exact: false })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: `Test ${name}` }).click();
  await expect(page.getByText(`${name} answers, and its webhook points here.`)).toBeVisible();
  await page.getByRole('button', { name: `Disconnect ${name}` }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: `Disconnect ${name}` })
    .click();
  await expect(
    page.getByText('Its secret was wiped; its conversations are kept.', { exact: false }),
  ).toBeVisible();
  await expect(line).toHaveCount(0);
});

test('an incoming webhook is made, called and removed; its address is shown once', async ({ page }, info) => {
  await signIn(page);
  const hook = `parcel-${info.project.name}`;
  await page.goto(`/${CLIENT}/webhooks`);
  await page.getByLabel('Name').fill('Parcel Sent');
  await expect(page.getByText('Small letters, digits and hyphens', { exact: false })).toBeVisible();
  await page.getByLabel('Name').fill(hook);
  await page.getByRole('button', { name: 'Add webhook' }).click();
  const address = await page.getByText(/\/in\/[\w-]{43}$/).innerText();
  const answer = await page.request.post(address, { data: { person: { email: 'nobody@example.org' } } });
  expect(((await answer.json()) as { detail: string }).detail).toContain(
    'nobody with the email “nobody@example.org”',
  );
  await page.reload();
  await expect(page.getByText(hook, { exact: true })).toBeVisible();
  await expect(page.getByText(/\/in\//)).toHaveCount(0);
  await page.getByRole('button', { name: 'Show the secret' }).click();
  await expect(page.getByText(/^whsec_/)).toBeVisible();
  await page.getByRole('button', { name: `Remove ${hook}` }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: `Remove ${hook}` })
    .click();
  await expect(page.getByText(hook, { exact: true })).toHaveCount(0);
  expect(
    (await page.request.post(address, { data: { person: { email: 'nobody@example.org' } } })).status(),
  ).toBe(404);
});

test('the colours are chosen and kept; the client is switched, by typing and by keys too', async ({
  page,
}, info) => {
  await signIn(page);
  await page.goto('/account');
  await page.getByRole('radio', { name: 'Dark' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-light', 'dark');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-light', 'dark');
  await page.goto(`/${CLIENT}/people`);
  await page.getByRole('button', { name: 'Client: Saltmarsh Ferries. Change' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Northgate Climbing/ })
    .click();
  await expect(page).toHaveURL('/northgate-climbing/people');
  if (info.project.name === 'phone') return;
  await expect(page.getByRole('button', { name: 'Client: Northgate Climbing. Change' })).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('c');
  await page.getByRole('textbox', { name: 'Find a client' }).fill('nobody of that name');
  await expect(page.getByText('No client’s name has “nobody of that name” in it.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Find a client' }).fill('orrery');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL('/orrery-picture-house/people');
});
