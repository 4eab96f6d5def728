import { expect, expectAccessible, publish, signIn, takeIn, test } from './stage';

const CLIENT = 'bramble-row-nursery';

test('one message answers several fields, and a scene is played for each of what was named', async ({
  page,
}, info) => {
  await signIn(page);
  const word = `POTS${info.project.name}`;
  const id = await takeIn(
    page,
    CLIENT,
    `
format: dart-loop/1
name: Pots ${info.project.name}
cues: [{ kind: keyword, words: [${word}], match: exactly }]
scenes:
  - id: one
    name: One
    steps:
      - { id: q, kind: ask, text: How many plants and when?, reply: number, field: plants, noReply: { after: 1d, to: end } }
      - { id: g, kind: go, to: pot }
      - { id: e, kind: say, text: All noted. }
  - id: pot
    name: Pot
    steps:
      - { id: p, kind: ask, text: Which pot?, reply: text, field: pot, noReply: { after: 1d, to: end } }
`,
    false,
  );
  await page.goto(`/${CLIENT}/loops/${id}`);

  // The question asks for a day as well.
  await page.getByRole('button', { name: 'More for this ask' }).first().click();
  await page.getByRole('button', { name: /^Settings/ }).click();
  await page.getByRole('button', { name: 'Add an answer' }).click();
  await page.getByLabel('Question 2, if it is missing').fill('Which day, for [plants] plants?');
  await page.getByLabel('Field of answer 2').fill('pot day');
  const second = page.getByRole('group', { name: 'Answer 2' });
  await expect(second.getByRole('button', { name: 'The answer is: a date. Change' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText('and a date, saved in pot_day')).toBeVisible();

  // The scene is played for each, and comes back.
  await page.getByRole('button', { name: 'More for this go' }).click();
  await page.getByRole('button', { name: /^Settings/ }).click();
  await page.getByRole('checkbox', { name: 'Return here after the last step of the scene' }).click();
  await page.getByLabel('Repeat the scene for each item of the field').fill('plants');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText('for each of plants, and back')).toBeVisible();
  await page.getByRole('button', { name: /^Question: Which pot/ }).click();
  await page.getByRole('textbox', { name: 'Question' }).fill('Which pot for plant [item]?');
  await page.getByRole('textbox', { name: 'Question' }).press('Control+Enter');
  await expect(page.getByText('saved', { exact: false }).first()).toBeVisible();
  await publish(page);
  await expect(page.getByText('live, version 1', { exact: false })).toBeVisible();

  await page.goto(`/${CLIENT}/test-phone`);
  const phone = page.getByRole('log');
  const say = async (words: string) => {
    await page.getByRole('textbox', { name: 'Write as the customer' }).fill(words);
    await page.keyboard.press('Enter');
  };
  await say(word);
  await expect(phone.getByText('How many plants and when?')).toBeVisible();
  // What is missing is asked for.
  await say('two');
  await expect(phone.getByText('Which day, for 2 plants?')).toBeVisible();
  await say('tomorrow');
  await expect(phone.getByText('Which pot for plant 1?')).toBeVisible();
  await say('the blue one');
  await expect(phone.getByText('Which pot for plant 2?')).toBeVisible();
  await say('the same');
  await expect(phone.getByText('All noted.')).toBeVisible();
  // What the message says already is not.
  await say(word);
  await expect(phone.getByText('How many plants and when?')).toHaveCount(2);
  await say('one, on Friday the 18th of December');
  await expect(phone.getByText('Which pot for plant 1?')).toHaveCount(2);
  await expect(phone.getByText('Which day, for', { exact: false })).toHaveCount(1);
});
