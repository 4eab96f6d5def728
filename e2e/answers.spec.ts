import { expect, expectAccessible, signIn, test } from './stage';

test('a client’s sources are set up from nothing, asked, corrected, and their questions kept', async ({
  page,
  meant,
}, info) => {
  // What is refused is told to the browser's console, too.
  meant.push(/status of (422|400)/);
  await signIn(page, 'owner');
  const mark = info.project.name;
  const isPhone = mark === 'phone';
  const { slug } = (await (
    await page.request.post('/api/clients', {
      data: { name: `Tidemark Baths ${mark}`, country: 'GB', timeZone: 'Europe/London', language: 'en' },
    })
  ).json()) as { slug: string };
  await page.goto(`/${slug}/answers`);
  await expect(page.getByText('0 sources, 0 pairs and 0 facts of the brief')).toBeVisible();
  await expectAccessible(page);

  // A document that cannot be read is refused, one that can is read.
  const add = (name: string, text: string) =>
    page
      .getByLabel('Add a document')
      .last()
      .setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await add('empty.txt', ' ');
  await expect(page.getByText('There is no text in it.')).toBeVisible();
  await add(
    'baths.md',
    '# Baths\n\n## Towels\n\nA towel is lent for £2.\n\n## Lockers\n\nA locker takes a coin of £1.\n\n## Diving\n\nDiving is not allowed.\n',
  );
  await page.getByRole('link', { name: /^baths\.md/ }).click();
  await expect(page.getByRole('heading', { name: 'baths.md' })).toBeVisible();
  await expectAccessible(page);

  // What it was understood to say is corrected, and a passage left out.
  await page.getByRole('button', { name: 'Correct Towels' }).click();
  await page.getByLabel('What Towels says').fill('A towel is lent for £2.50.');
  await page.getByRole('button', { name: 'Save text' }).click();
  await expect(page.getByText('Corrected here. It was read as: “A towel is lent for £2.”')).toBeVisible();
  await page.getByRole('button', { name: 'Leave out: Diving' }).click();
  await expect(page.getByText('Left out: nothing is answered from it.')).toBeVisible();
  await page.getByRole('link', { name: 'Answers', exact: true }).last().click();

  // A website is read as it stands.
  await page.getByRole('button', { name: 'Add a website' }).click();
  await page.getByLabel('Address').fill('https://10.0.0.1/');
  await page.getByRole('button', { name: 'Read pages' }).click();
  await expect(page.getByText(/is a private address/)).toBeVisible();
  await page.getByLabel('Address').fill('https://northgateclimbing.example/');
  await page.getByRole('radio', { name: 'By hand' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Read pages' }).click();
  await expect(page.getByRole('listitem', { name: 'northgateclimbing.example' })).toContainText(
    /\d pages, /,
    {
      timeout: 30_000,
    },
  );
  await page.getByRole('link', { name: /^northgateclimbing\.example/ }).click();
  await expect(page.getByRole('button', { name: 'Read again', exact: true })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('link', { name: 'Answers', exact: true }).last().click();
  await page.getByRole('button', { name: 'Remove northgateclimbing.example' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove northgateclimbing.example' }).click();
  await expect(page.getByRole('listitem', { name: 'northgateclimbing.example' })).toHaveCount(0);

  // An answer of one's own.
  await page.getByRole('button', { name: 'Add answer' }).click();
  await page.getByRole('button', { name: 'Save answer' }).click();
  await expect(page.getByText('Write a question.')).toBeVisible();
  await page.getByLabel('Question', { exact: true }).fill('Is there a sauna?');
  await page.getByLabel('Answer', { exact: true }).fill('There is a sauna on the upper floor.');
  await page.getByRole('button', { name: 'Save answer' }).click();
  await expect(page.getByRole('listitem', { name: 'Is there a sauna?' })).toBeVisible();
  await expect(page.getByText('1 source, 1 pair and 0 facts of the brief')).toBeVisible();

  // Asked as a customer, by keyboard alone.
  if (isPhone) await page.getByRole('link', { name: 'Try it' }).click();
  const asked = async (question: string) => {
    await page.getByLabel('Ask as a customer').fill(question);
    await page.keyboard.press('Enter');
    const group = page.getByRole('group', { name: question });
    await expect(group).toBeVisible();
    return group;
  };
  const towel = await asked('how much is a towel');
  await expect(towel.getByText('A towel is lent for £2.50.').first()).toBeVisible();
  await towel
    .getByRole('button', { name: /^Right|is right$/ })
    .first()
    .focus();
  await page.keyboard.press('Enter');
  await expect(towel.getByText(/from now on, and kept on the question sheet/)).toBeVisible();
  await expectAccessible(page);
  const again = await asked('how much is a towel');
  await expect(again.first().getByRole('button', { name: 'Wrong: how much is a towel' })).toBeVisible();

  // What is not known is answered from then on.
  const umbrellas = await asked('do you sell umbrellas');
  await expect(umbrellas.getByText('This is not known.')).toBeVisible();
  await umbrellas.getByRole('button', { name: /^Write the answer/ }).click();
  await page.getByLabel('Answer', { exact: true }).fill('Umbrellas are sold at the till.');
  await page.getByRole('button', { name: 'Save answer' }).click();
  await expect(umbrellas.getByText(/Your answer is said from now on/)).toBeVisible();

  // Both stand on the sheet, which is asked by itself.
  await page.getByRole('link', { name: 'Question sheet' }).click();
  await expect(page.getByText('2 of 2 questions as expected', { exact: true })).toBeVisible({
    timeout: 20_000,
  });
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Add question' }).click();
  await page.getByLabel('Question', { exact: true }).fill('what coin do i need for the locker');
  await page.getByLabel('A right answer has in it').fill('£1');
  await page.getByRole('button', { name: 'Save question' }).click();
  await expect(page.getByText('3 of 3 questions as expected', { exact: true })).toBeVisible({
    timeout: 20_000,
  });

  // A source goes, and the sheet says what that did.
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByRole('button', { name: 'Remove baths.md' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove baths.md' }).click();
  await expect(page.getByRole('listitem', { name: 'baths.md' })).toHaveCount(0);
  await page.getByRole('link', { name: 'Question sheet' }).click();
  await expect(page.getByText(/baths\.md was removed: 2 worse/)).toBeVisible({ timeout: 20_000 });
});
