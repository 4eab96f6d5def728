import type { Page } from '@playwright/test';
import pg from 'pg';
import { remains } from '../apps/server/test/support/remains';
import { shownName } from '../packages/core/src/people/shownName';
import { expect, expectAccessible, signIn, takeIn, test } from './stage';

const CLIENT = 'northgate-climbing';

async function openPhone(page: Page, channel: string): Promise<void> {
  await page.goto(`/${CLIENT}/test-phone`);
  await page.getByRole('radiogroup', { name: 'Line' }).getByRole('radio', { name: channel }).click();
  await expect(page.getByLabel('Write as the customer')).toBeVisible();
}
/** Undoes a task: once to ask for it, once to be sure. */
async function undo(page: Page, title: string): Promise<void> {
  const button = page.getByRole('button', { name: `Undo ${title}` });
  await button.click();
  await expect(page.getByRole('button', { name: 'Cancel' })).toBeVisible();
  await button.click();
  await expect(page.getByRole('button', { name: 'Cancel' })).toBeHidden();
}
async function write(page: Page, text: string): Promise<void> {
  await page.getByLabel('Write as the customer').fill(text);
  await page.getByRole('button', { name: 'Send', exact: true }).click();
}

test('a file with errors is brought in: looked at, mended, and taken back', async ({ page }, info) => {
  await signIn(page);
  const mark = `${info.project.name}${Date.now().toString(36)}`;
  await page.goto(`/${CLIENT}/people`);
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  const csv = [
    'Vorname;Nachname;E-Mail;Harness size',
    `Öde;${mark};one.${mark}@example.org;12`,
    `"Ada; ""A""";${mark};not an address;14`,
    `Kai;${mark};three.${mark}@example.org;9`,
  ].join('\r\n');
  await page
    .getByLabel('The file')
    .setInputFiles({ name: `${mark}.csv`, mimeType: 'text/csv', buffer: Buffer.from(csv, 'latin1') });
  await expect(page.getByText('windows-1252, separated by “;”')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Vorname: first name' })).toBeVisible();
  await expectAccessible(page);
  await page.getByLabel('Add a tag to all of them').fill(mark);
  await page.getByRole('button', { name: 'Preview' }).click();
  await expect(page.getByText('This would add 2, skip 1.')).toBeVisible();
  await expect(page.getByText('Row 3, column E-Mail: “not an address”')).toBeVisible();
  await page.getByLabel('Row 3, E-Mail, corrected').fill(`two.${mark}@example.org`);
  await page.getByRole('button', { name: 'Preview again' }).click();
  await expect(page.getByText('This would add 3.')).toBeVisible();
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByText(/^added 3\. You can undo the import/)).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Open People' }).click();
  await page.getByLabel('Search').fill(mark);
  await expect(page.getByRole('button', { name: 'Change 3 people …' })).toBeVisible();
  await expect(page.getByRole('link', { name: `Ada; "A" ${mark}` })).toBeVisible();
  await undo(page, `${mark}.csv`);
  await expect(page.getByText('No matches')).toBeVisible();
});

test('a segment is built as a sentence, saved, and what is done with it is taken back', async ({
  page,
}, info) => {
  await signIn(page);
  const mark = `often ${info.project.name} ${Date.now().toString(36)}`;
  // The two sizes run beside each other, each with a rule of its own.
  const sentence = `visits is at least ${info.project.name === 'phone' ? 20 : 18} and town is Northgate`;
  await page.goto(`/${CLIENT}/people`);
  await page.getByLabel('Only those who').fill('vis');
  await page.getByRole('button', { name: 'visits is', exact: true }).click();
  await page.getByRole('button', { name: 'visits is at least 1', exact: true }).click();
  await page.getByLabel('Only those who').fill(sentence);
  await expect(page.getByText(/^Such as /)).toBeVisible();
  await expectAccessible(page);
  const { total } = (await (
    await page.request.get(`/api/clients/${CLIENT}/people/count?where=${encodeURIComponent(sentence)}`)
  ).json()) as { total: number };
  expect(total).toBeGreaterThan(5);
  await expect(page.getByRole('heading', { name: 'People' })).toBeVisible();
  await expect(page.getByText(total === 1 ? '1 person' : `${total} people`, { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Save as segment' }).click();
  await page.getByLabel('Name').fill(mark);
  await page.getByRole('button', { name: 'Save segment' }).click();
  // Its address brings the same people back.
  await page.reload();
  await expect(page.getByRole('button', { name: mark, pressed: true })).toBeVisible();
  await page.getByRole('button', { name: `Change ${total} people …` }).click();
  await page.getByLabel('The tag').fill(mark);
  await page.getByRole('button', { name: 'Preview' }).click();
  await expect(page.getByText('0 people have it already.')).toBeVisible();
  await page.getByRole('button', { name: `Add tag for ${total} people` }).click();
  await expect(page.getByText(new RegExp(`changed ${total}`))).toBeVisible();
  await page.getByLabel('Only those who').fill(`tagged "${mark}"`);
  await expect(page.getByText(total === 1 ? '1 person' : `${total} people`, { exact: true })).toBeVisible();
  await undo(page, `Tag ${mark}`);
  await expect(page.getByText('No matches').first()).toBeVisible();
});

test('two who are one are made one, parted again, and one of them erased', async ({ page }, info) => {
  await signIn(page);
  const mark = `${info.project.name}${Date.now().toString(36)}`;
  const make = async (firstName: string) => {
    const { id } = (await (
      await page.request.post(`/api/clients/${CLIENT}/people`, { data: { firstName, lastName: mark } })
    ).json()) as {
      id: string;
    };
    expect(
      (
        await page.request.put(`/api/clients/${CLIENT}/people/${id}`, {
          data: { fields: { email: `${mark}@example.org`, town: firstName } },
        })
      ).status(),
    ).toBe(200);
    return id;
  };
  const one = await make('Anna');
  await make('Anja');
  await page.goto(`/${CLIENT}/people/${one}`);
  await expect(
    page.getByText(`Anja ${mark} may be the same person: both have ${mark}@example.org.`),
  ).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Review merge' }).click();
  await page.getByRole('radiogroup', { name: 'town' }).getByRole('radio', { name: 'Anja' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: `Merge Anja ${mark} into Anna ${mark}` }).click();
  await expect(page.getByText('Merged.')).toBeVisible();
  await expect(page.getByText('town = Anja, before: Anna')).toBeVisible();
  await page.getByRole('button', { name: 'Undo merge' }).click();
  await expect(page.getByText(`Anja ${mark} is a person of their own again, as before.`)).toBeVisible();
  await expect(page.getByText('town = Anna, before: Anja')).toBeVisible();

  await page.getByRole('button', { name: 'Change town' }).click();
  await page.getByLabel('town', { exact: true }).fill('Stonebeck');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('set by Bram Tansy').first()).toBeVisible();

  await page.getByRole('button', { name: 'More about this person' }).click();
  await page.getByRole('button', { name: /^Delete/ }).click();
  await page.getByLabel('Reason').fill('asked for it');
  await page.getByRole('button', { name: `Delete Anna ${mark} permanently` }).click();
  await expect(page).toHaveURL(new RegExp(`/${CLIENT}/people`));
  await expect(async () => {
    expect((await page.request.get(`/api/clients/${CLIENT}/people/${one}`)).status()).toBe(404);
  }).toPass();
});

test('a list is confirmed on the test phone, proven, and left', async ({ page }, info) => {
  await signIn(page);
  const mark = `${info.project.name}${Date.now().toString(36)}`;
  const list = `Wall news ${mark}`;
  await page.goto(`/${CLIENT}/lists`);
  await page.getByRole('button', { name: 'Add list' }).click();
  await page.getByLabel('Name').fill(list);
  await page.getByLabel('Wording people agree to').fill('New routes, once a week.');
  await page.getByRole('checkbox', { name: 'Ask each person to confirm' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Add list' }).click();
  await expect(page.getByText(/Wording 1: “New routes, once a week.”/).first()).toBeVisible();
  await expectAccessible(page);
  await takeIn(
    page,
    CLIENT,
    `format: dart-loop/1\nname: Join ${mark}\ncues: [{ kind: keyword, words: [${mark}], match: exactly }]\nscenes:\n  - { id: one, name: One, steps: [{ kind: set, changes: [{ do: join list, list: ${list} }] }] }\n`,
    true,
  );
  await openPhone(page, 'SMS');
  const phone = page.getByRole('log');
  const who = await page.getByText(/^\+447700900\d{3}$/).innerText();
  await write(page, mark);
  await expect(phone.getByText(/New routes, once a week\. Write YES to agree\./)).toBeVisible();
  await write(page, 'yes');
  await expect(phone.getByText(new RegExp(`You are on the list “${list}”`))).toBeVisible();
  await page.goto(`/${CLIENT}/people?q=${encodeURIComponent(who)}`);
  await page.getByRole('link', { name: shownName(who) }).click();
  await expect(page.getByText(list, { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'More about this person' }).click();
  await page.getByRole('button', { name: /^Proof of consent/ }).click();
  await expect(page.getByText(`Opted in to the list ${list}`)).toBeVisible();
  await expect(page.getByText('“New routes, once a week.”, wording 1')).toBeVisible();
  await expect(page.getByText(/confirmed by the person/)).toBeVisible();
  await expectAccessible(page);
});

test('who wrote on the test phone is erased, and no table says anything of them', async ({ page }, info) => {
  await signIn(page);
  const mark = `wren${info.project.name}${Date.now().toString(36)}`;
  await takeIn(
    page,
    CLIENT,
    `format: dart-loop/1\nname: Ask ${mark}\ncues: [{ kind: keyword, words: [${mark}], match: exactly }]\nscenes:\n  - { id: one, name: One, steps: [{ id: q, kind: ask, text: "What are you called?", reply: text, field: nickname }, { kind: say, text: "Hello {{ person.nickname }}." }] }\n`,
    true,
  );
  await openPhone(page, 'SMS');
  const phone = page.getByRole('log');
  const who = await page.getByText(/^\+447700900\d{3}$/).innerText();
  await write(page, mark);
  await expect(phone.getByText(/What are you called\?/)).toBeVisible();
  await write(page, `Quill ${mark}`);
  await expect(phone.getByText(`Hello Quill ${mark}.`)).toBeVisible();
  await page.goto(`/${CLIENT}/people?q=${encodeURIComponent(who)}`);
  await page.getByRole('link', { name: shownName(who) }).click();
  await expect(page).toHaveURL(/\/people\/[0-9a-f-]{36}/);
  const id = page.url().split('/').pop()!.slice(0, 36);
  const db = new pg.Client({ connectionString: process.env.DARTLOOP_BROWSER_DATABASE });
  await db.connect();
  try {
    expect(await remains(db, `Quill ${mark}`)).toEqual(
      expect.arrayContaining(['event', 'field_change', 'message', 'person']),
    );
    await page.getByRole('button', { name: 'More about this person' }).click();
    await page.getByRole('button', { name: /^Delete/ }).click();
    await page.getByLabel('Reason').fill('asked for it');
    await page.getByRole('button', { name: `Delete ${shownName(who)} permanently` }).click();
    await expect(page).toHaveURL(new RegExp(`/${CLIENT}/people`));
    await expect(async () => expect(await remains(db, `Quill ${mark}`)).toEqual([])).toPass();
    // That they were there, by an id that leads nowhere, is all that is left: in what the team did.
    expect(['audit', 'task']).toEqual(expect.arrayContaining(await remains(db, id)));
  } finally {
    await db.end();
  }
});

test('an opt-out in Spanish in the middle of a loop stops it, and the ledger says so', async ({
  page,
}, info) => {
  await signIn(page);
  const client = 'kestrel-language-school';
  const mark = `HOLA${info.project.name}${Date.now().toString(36)}`.toUpperCase();
  await takeIn(
    page,
    client,
    `format: dart-loop/1\nname: Ask ${mark}\ncues: [{ kind: keyword, words: [${mark}], match: exactly }]\nscenes:\n  - { id: one, name: One, steps: [{ id: q, kind: ask, text: "¿Cómo se llama?", reply: text, field: nickname }, { kind: say, text: Gracias. }] }\n`,
    true,
  );
  await page.goto(`/${client}/test-phone`);
  await page.getByRole('radiogroup', { name: 'Line' }).getByRole('radio', { name: 'Telegram' }).click();
  const phone = page.getByRole('log');
  const who = (await page.getByText(/^Mira, \d+$/).innerText()).replace('Mira, ', '');
  await write(page, mark);
  await expect(phone.getByText('¿Cómo se llama?')).toBeVisible();
  await write(page, 'darme de baja');
  await expect(phone.getByText(/You will get no more messages|No recibirá más mensajes/)).toBeVisible();
  await write(page, 'Mira');
  await page.goto(`/${client}/people?q=${who}`);
  await page.getByRole('link', { name: /Mira/ }).click();
  await expect(page.getByText('◆ opted out')).toBeVisible();
  await page.getByRole('radio', { name: 'Consent' }).click();
  await expect(page.getByText('by the person, who wrote “darme de baja”')).toBeVisible();
  await expect(page.getByText('nickname')).toHaveCount(0);
});

test('fields are made, changed in type with a look at what is lost, and shared; rules of sending are kept', async ({
  page,
}, info) => {
  await signIn(page);
  const mark = `size ${info.project.name} ${Date.now().toString(36)}`;
  await page.goto(`/${CLIENT}/fields`);
  await page.getByRole('button', { name: 'Add field' }).click();
  await page.getByLabel('Name', { exact: true }).fill(mark);
  await expectAccessible(page);
  await page.getByRole('dialog').getByRole('button', { name: 'Add field' }).click();
  await expect(page.getByText(`${mark} is made.`)).toBeVisible();
  const key = mark.replaceAll(' ', '_');
  for (const [firstName, value] of [
    ['Bo', '42'],
    ['Cy', 'large'],
  ] as const) {
    const { id } = (await (
      await page.request.post(`/api/clients/${CLIENT}/people`, { data: { firstName, lastName: mark } })
    ).json()) as {
      id: string;
    };
    await page.request.put(`/api/clients/${CLIENT}/people/${id}`, { data: { fields: { [key]: value } } });
  }
  await page.getByRole('button', { name: `More about ${mark}` }).click();
  await page.getByRole('button', { name: /^Change the type/ }).click();
  await page.getByRole('button', { name: 'New type: text. Change' }).click();
  await page.getByRole('button', { name: 'number', exact: true }).click();
  await expect(page.getByText('1 values convert, 1 do not.')).toBeVisible();
  await expect(page.getByText('◆ “large”: “large” is no number')).toBeVisible();
  await page.getByRole('button', { name: 'Change it, and let 1 go' }).click();
  await expect(page.getByText(/converted 1, did not convert 1/)).toBeVisible();

  await page.goto(`/${CLIENT}/sending`);
  await page.getByRole('textbox', { name: 'WhatsApp' }).fill('half past nonsense');
  await expect(page.getByText('Write a range such as “21:00 to 08:00”, or leave it empty.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save rules' })).toBeDisabled();
  await page.getByRole('textbox', { name: 'WhatsApp' }).fill('22 to 7:30');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save rules' }).click();
  await expect(page.getByText(/^Saved\./)).toBeVisible();
  await page.reload();
  await expect(page.getByRole('textbox', { name: 'WhatsApp' })).toHaveValue('22:00 to 07:30');
});
