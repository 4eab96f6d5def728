import { expect, expectAccessible, signIn, takeIn, test } from './stage';

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
    // What is asked once more stands there twice.
    await expect(group.first()).toBeVisible();
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

const SCHOOL = 'kestrel-language-school';

test('a loop answers from the sources: rehearsed, asked on the test phone, and what it did not know is answered once', async ({
  page,
}, info) => {
  await signIn(page);
  const mark = info.project.name;
  const keyword = `wonder${mark}`;
  const loop = await takeIn(
    page,
    SCHOOL,
    `
format: dart-loop/1
name: Wonder ${mark} ${Date.now().toString(36)}
cues: [{ kind: keyword, words: [${keyword}], match: first word }]
scenes:
  - id: one
    name: Questions
    steps:
      - { kind: answer, text: What do you wonder?, notKnown: { times: 3, to: team }, noReply: { after: 1d, to: end } }
      - { kind: say, text: That was it. }
  - id: team
    name: Team
    steps: [{ kind: say, text: Somebody will write. }]
`,
    true,
  );

  // In the rehearsal the sources answer as they are.
  await page.goto(`/${SCHOOL}/loops/${loop}`);
  await expect(page.getByText('from the sources, at most 10 answers')).toBeVisible();
  if (mark === 'phone') await page.getByRole('tab', { name: 'Rehearse' }).click();
  const rehearse = page.getByRole('region', { name: 'Rehearse' });
  const writes = async (text: string) => {
    await rehearse.getByRole('textbox', { name: 'Write as the customer' }).fill(text);
    await rehearse.getByRole('textbox', { name: 'Write as the customer' }).press('Enter');
  };
  await writes(`${keyword} are books included?`);
  await expect(rehearse.getByText(/^Books are not included in evening courses/)).toBeVisible();
  await expect(rehearse.getByText(/Answered from “Enrolling and paying, Books”/)).toBeVisible();
  await writes('thanks');
  await expect(rehearse.getByText('That was it.')).toBeVisible();
  await expectAccessible(page);

  // On a line it is the same; what is not known is said to be, and collected.
  const unknown = mark === 'phone' ? 'who painted the blue door' : 'is the chapel of saint orrin near';
  const said = mark === 'phone' ? 'Nobody knows who painted it.' : 'The chapel is in Harwick.';
  await page.goto(`/${SCHOOL}/test-phone`);
  await page.getByRole('radio', { name: 'Telegram' }).click();
  const phone = page.getByRole('log');
  const writesOnPhone = async (text: string, answer: string | RegExp) => {
    await page.getByLabel('Write as the customer').fill(text);
    await page.getByLabel('Write as the customer').press('Enter');
    await expect(phone.getByText(answer).last()).toBeVisible();
  };
  await writesOnPhone(keyword, 'What do you wonder?');
  await writesOnPhone(unknown, 'I do not know that.');
  await page.goto('/');
  await expect(page.getByText(/The sources do not answer \d+ questions?\./).first()).toBeVisible();
  await page.goto(`/${SCHOOL}/answers/open`);
  const group = page.getByRole('listitem', { name: unknown });
  await expect(group.getByText(/not in the sources/)).toBeVisible();
  await expectAccessible(page);
  await group.getByRole('link').first().click();
  await expect(page.getByText(/The sources do not say/)).toBeVisible();
  await page.goto(`/${SCHOOL}/answers/open`);

  // One tap writes the pair, by keyboard alone, and the question leaves.
  await group.getByRole('button', { name: `Write the answer: ${unknown}` }).focus();
  await page.keyboard.press('Enter');
  await page.getByLabel('Answer', { exact: true }).fill(said);
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save answer' }).focus();
  await page.keyboard.press('Enter');
  await expect(group).toHaveCount(0);
  await page.goto(`/${SCHOOL}/test-phone`);
  await page.getByRole('radio', { name: 'Telegram' }).click();
  await writesOnPhone(`${keyword} ${unknown}`, said);
});

test('who waits for a person is answered from what the sources say', async ({ page }) => {
  await signIn(page);
  await page.goto(`/${SCHOOL}/test-phone`);
  await page.getByRole('radio', { name: 'Telegram' }).click();
  const who = (await page.getByText(/^Mira, \d+$/).innerText()).replace('Mira, ', '');
  await page.getByLabel('Write as the customer').fill('are books included?');
  await page.getByLabel('Write as the customer').press('Enter');
  await expect(page.getByRole('log').getByText('are books included?')).toBeVisible();
  const person = async () =>
    (
      (await (await page.request.get(`/api/clients/${SCHOOL}/people?q=${who}`)).json()) as {
        rows: { id: string }[];
      }
    ).rows[0]?.id;
  await expect.poll(person).toBeTruthy();
  const { identities } = (await (
    await page.request.get(`/api/clients/${SCHOOL}/people/${await person()}`)
  ).json()) as { identities: { id: string }[] };

  await signIn(page, 'operator');
  await page.goto(`/inbox/${SCHOOL}/${identities[0]!.id}`);
  await expect(page.getByText('The sources answer it')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Use: Enrolling and paying, Books' }).focus();
  await page.keyboard.press('Enter');
  const field = page.getByRole('textbox', { name: /^Write to / });
  await expect(field).toHaveValue(/^Books are not included in evening courses/);
  await field.press('Control+Enter');
  await expect(page.getByRole('log').getByText(/^Books are not included/)).toBeVisible();
  await expect(page.getByText('The sources answer it')).toHaveCount(0);
});

test('a client has a hosted model of its own: set up, tried, and what it cost and was refused is shown', async ({
  page,
  meant,
}, info) => {
  meant.push(/status of (422|400)/);
  await signIn(page, 'owner');
  const { slug } = (await (
    await page.request.post('/api/clients', {
      data: {
        name: `Tarn Saunas ${info.project.name}`,
        country: 'GB',
        timeZone: 'Europe/London',
        language: 'en',
      },
    })
  ).json()) as { slug: string };
  await page.request.post(`/api/clients/${slug}/sources/documents?name=sauna.md`, {
    data: Buffer.from(
      '# Sauna\n\n## Towels\n\nA towel is lent for £2.\n\n## Silence\n\nWe ask for silence after eight.\n',
    ),
    headers: { 'content-type': 'application/octet-stream' },
  });
  await page.goto(`/${slug}/answers/model`);
  await expect(page.getByText('Not used: the sources answer alone.')).toBeVisible();
  await page.getByRole('radio', { name: 'One of this client’s own' }).click();
  await expectAccessible(page);
  const fill = async (values: Record<string, string>) => {
    for (const [label, value] of Object.entries(values))
      await page.getByLabel(label, { exact: true }).fill(value);
  };
  await fill({
    ...{ Address: 'https://10.0.0.1/v1/chat/completions', Model: 'obeys', Key: 'model-demo-key' },
    ...{ 'Price for a million tokens sent': '0,6', 'Price for a million tokens back': 'much' },
  });
  await page.getByRole('button', { name: 'Use it' }).click();
  await expect(page.getByText(/is a private address/)).toBeVisible();
  await expect(page.getByText('Write a number.')).toBeVisible();
  await fill({
    ...{ Address: 'https://model.example/v1/chat/completions', 'Price for a million tokens back': '1.8' },
  });
  await page.getByRole('button', { name: 'Use it' }).click();
  await expect(page.getByText('Used: obeys.')).toBeVisible();
  await expectAccessible(page);

  const tryIt = async () => {
    await page.goto(`/${slug}/answers/try`);
    await page.getByRole('checkbox', { name: 'Ask the model too' }).click();
    await page.getByLabel('Ask as a customer').fill('is the silence broken by towels at night');
    await page.keyboard.press('Enter');
    await expect(page.getByText('The model', { exact: true })).toBeVisible();
  };
  await tryIt();
  await expectAccessible(page);
  await page.goto(`/${slug}/answers/model`);
  await expect(page.getByRole('list', { name: 'Asked last' })).toContainText('obeys: said');

  // One that lies says nothing.
  await page.getByLabel('Model', { exact: true }).fill('garbage');
  await page.getByRole('button', { name: 'Save the model' }).click();
  await expect(page.getByText('Used: garbage.')).toBeVisible();
  await tryIt();
  await expect(page.getByText('Nothing it says may be said.')).toBeVisible();
  await page.goto(`/${slug}/answers/model`);
  await page.getByRole('radio', { name: 'None' }).click();
  await expect(page.getByText('Not used: the sources answer alone.')).toBeVisible();
  await page.goto('/model');
  await expect(page.getByRole('button', { name: /Set it up|Save/ })).toBeVisible();
  await expectAccessible(page);
});
