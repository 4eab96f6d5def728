import { expect, expectAccessible, signIn, takeIn, test } from './stage';

/** A client for each size of screen. */
const CLIENTS = { phone: 'bramble-row-nursery', wide: 'kestrel-language-school' } as const;
const LINES = { phone: 'Messenger', wide: 'Telegram' } as const;

// A calendar that is in use is not removed, and the browser says so.
test.use({ meant: [/409 \(Conflict\)/] });

test('a calendar is made, a loop books in it on the test phone, it is moved and cancelled', async ({
  page,
}, info) => {
  await signIn(page);
  const size = info.project.name as keyof typeof CLIENTS;
  const client = CLIENTS[size];
  const mark = `${size}${Date.now().toString(36)}`;
  const calendar = `Visit ${mark}`;
  await page.goto(`/${client}/bookings`);
  await page.getByRole('radio', { name: 'Calendars' }).click();
  await page.getByRole('button', { name: 'Add calendar' }).click();
  await page.getByLabel('Name').fill(calendar);
  await page.getByLabel('Length').fill('soon');
  await expect(page.getByText('A time is a number and a unit, such as “45 min”.')).toBeVisible();
  const add = page.getByRole('dialog').getByRole('button', { name: 'Add calendar' });
  await expect(add).toBeDisabled();
  await page.getByLabel('Length').fill('1 h');
  await page.getByLabel('Minimum notice').fill('1 d');
  for (const day of ['Saturday', 'Sunday']) await page.getByLabel(day, { exact: true }).fill('9-17');
  await page.getByLabel('Monday', { exact: true }).fill('9-11, 14 to 16:30');
  await expectAccessible(page);
  await add.click();
  await expect(
    page
      .getByRole('listitem')
      .filter({ hasText: calendar })
      .getByText('Monday 09:00-11:00, 14:00-16:30; Tuesday to Sunday 09:00-17:00'),
  ).toBeVisible();

  await takeIn(
    page,
    client,
    `format: dart-loop/1
name: Book ${mark}
cues: [{ kind: keyword, words: [${mark}], match: exactly }]
scenes:
  - id: when
    name: When
    steps:
      - { id: when, kind: book, calendar: ${calendar}, text: When will you come?, day: ${mark}_day, time: ${mark}_time, offer: 4, noReply: { after: 1d, to: end } }
      - { id: done, kind: say, text: "Noted for {{ person.${mark}_time }}." }
`,
    true,
  );
  await page.goto(`/${client}/test-phone`);
  await page.getByRole('radiogroup', { name: 'Line' }).getByRole('radio', { name: LINES[size] }).click();
  const phone = page.getByRole('log');
  const write = async (text: string) => {
    await page.getByLabel('Write as the customer').fill(text);
    await page.getByRole('button', { name: 'Send', exact: true }).click();
  };
  await write(mark);
  await expect(phone.getByText('When will you come?')).toBeVisible();
  await write('in four days at 10am');
  await expect(phone.getByText('Noted for 10:00.')).toBeVisible();
  await write(mark);
  await expect(phone.getByText('When will you come?')).toHaveCount(2);
  await write('in four days at 9am');
  await expect(phone.getByText('Noted for 09:00.')).toBeVisible();

  // One booking: who comes again moves.
  await page.goto(`/${client}/bookings`);
  const row = page.getByRole('listitem').filter({ hasText: calendar });
  await expect(row).toHaveCount(1);
  await expect(row.getByText('09:00-10:00')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('radio', { name: 'Calendars' }).click();
  await page.getByRole('button', { name: `Remove ${calendar}` }).click();
  await page.getByRole('button', { name: 'Remove calendar' }).click();
  await expect(page.getByText(`Book ${mark} books in “${calendar}”. Remove it there first.`)).toBeVisible();
  await page.getByRole('radio', { name: 'To come' }).click();
  await page.getByRole('button', { name: new RegExp(`^Cancel ${calendar}`) }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Cancel booking' }).click();
  await expect(row.getByText(`${calendar}, cancelled`)).toBeVisible();
  await row.getByRole('link').click();
  await page.getByRole('radio', { name: 'Loops' }).click();
  await expect(page.getByText(new RegExp(`^${calendar} cancelled:`)).first()).toBeVisible();
});

test('a book is typed, set up in its form, and rehearsed; nothing is booked by that', async ({
  page,
}, info) => {
  await signIn(page);
  const client = 'northgate-climbing';
  const mark = `talk${info.project.name}${Date.now().toString(36)}`;
  const id = await takeIn(
    page,
    client,
    `format: dart-loop/1\nname: ${mark}\ncues: [{ kind: keyword, words: [${mark}], match: exactly }]\nscenes:\n  - { id: one, name: One, steps: [{ id: hello, kind: say, text: Welcome. }] }\n`,
    false,
  );
  const before = (await (await page.request.get(`/api/clients/${client}/bookings`)).json()) as {
    rows: unknown[];
  };
  await page.goto(`/${client}/loops/${id}`);
  await page.getByRole('button', { name: 'Add a step to One' }).click();
  await page
    .getByRole('textbox', { name: 'What comes next?' })
    .fill('book in Route talks: Which Sunday suits you?');
  await page.getByRole('textbox', { name: 'What comes next?' }).press('Enter');
  await page.getByRole('button', { name: 'Done adding' }).click();
  await expect(page.getByText(/The client has no calendar “Route talks”/).first()).toBeVisible();
  await page.getByRole('button', { name: /^book: a free time in Route talks/ }).click();
  const form = page.getByRole('dialog');
  await form.getByRole('radio', { name: 'Route setting talk' }).click();
  await form.getByLabel('Number of times to offer').fill('2');
  await expectAccessible(page);
  await form.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText(/The client has no calendar/)).toHaveCount(0);
  if (info.project.name === 'phone') await page.getByRole('tab', { name: 'Rehearse' }).click();
  await page.getByRole('button', { name: new RegExp(`The person writes “${mark}”`, 'i') }).click();
  await expect(page.getByText('Offers 2 free times of Route setting talk.', { exact: false })).toBeVisible();
  await page
    .getByRole('button', { name: /^Tap Sun \d+ \w+, 11:00$/ })
    .first()
    .click();
  await expect(page.getByText(/^Would book Route setting talk, Sun/)).toBeVisible();
  const after = (await (await page.request.get(`/api/clients/${client}/bookings`)).json()) as {
    rows: unknown[];
  };
  expect(after.rows).toHaveLength(before.rows.length);
});
