import type { Page } from '@playwright/test';
import { expect, expectAccessible, signIn, test } from './stage';

const CLIENT = 'bramble-row-nursery';

/** The plant finder of the nursery, as it is typed. */
const PLANT_FINDER = [
  'Let us find a plant that will like it at your place. How much light is there?',
  '- Sun most of the day -> Place',
  '- Half shade -> Place',
  '- I do not know -> Measure it',
  'retry 1: Pick the one that comes closest.',
  'could not read -> The gardener',
  'no reply 5h -> Nudge',
  '## Measure it',
  'Hold your hand over a sheet of paper at noon. A sharp shadow is sun, a soft one is shade.',
  'go Place',
  '## Place',
  'ask Where will it stand? Balcony / Garden / Window sill',
  'no reply 5h -> Nudge',
  'ask number: What would you spend on it, in pounds?',
  'if spend pounds > 80 -> Grand',
  'otherwise -> Modest',
  '## Modest',
  'Hardy cranesbill, or a fern. They stand in row four.',
  'go News',
  '## Grand',
  'There is a witch hazel that flowers in January. Come and see it before you choose.',
  'go News',
  '## News',
  'Shall we write once a season, when it is time to plant, feed or cut?',
  '- Yes please -> Joined',
  '- No thanks -> end',
  'no reply 12h -> end',
  '## Joined',
  'join Seasonal letter',
  'You are on the list. The first letter is about bulbs.',
  'end',
  '## Nudge',
  'Two questions are left, then there is a plant. Go on?',
  '- Go on -> Place',
  '- Stop here -> end',
  'no reply 1d -> end',
  '## The gardener',
  'hand over to the gardeners: A gardener writes to you in a moment.',
];

/** By keyboard alone: on with Tab until what is wanted has the focus. */
async function tabTo(page: Page, name: RegExp, role = 'button'): Promise<void> {
  for (let count = 0; count < 250; count++) {
    const here = await page.evaluate(() => {
      const focus = document.activeElement as HTMLElement | null;
      return focus
        ? {
            role: focus.getAttribute('role') ?? focus.tagName.toLowerCase(),
            name: focus.getAttribute('aria-label') ?? focus.innerText,
          }
        : null;
    });
    if (
      here &&
      name.test(here.name) &&
      (here.role === role || here.role === 'input' || here.role === 'textarea')
    )
      return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`Tab never comes to ${String(name)}`);
}

const doers = {
  'by pointer and touch': {
    press: (page: Page, name: RegExp) => page.getByRole('button', { name }).first().click(),
    write: async (page: Page, label: RegExp, text: string) => {
      await page.getByRole('textbox', { name: label }).fill(text);
    },
  },
  'by keyboard alone': {
    press: async (page: Page, name: RegExp) => {
      await tabTo(page, name);
      await page.keyboard.press('Enter');
    },
    write: async (page: Page, label: RegExp, text: string) => {
      await tabTo(page, label, 'textbox');
      await page.keyboard.press('Control+A');
      await page.keyboard.type(text);
    },
  },
};

for (const [how, { press, write }] of Object.entries(doers))
  test(`the plant finder is written from an empty page ${how}, published, and played on the test phone`, async ({
    page,
  }, info) => {
    test.setTimeout(180_000);
    await signIn(page);
    const keyword =
      `${how.includes('keyboard') ? 'KEY' : 'TAP'}FERN${info.project.name}${Date.now().toString(36)}`.toUpperCase();
    const name = `Plant finder ${how} ${info.project.name}`;
    await page.goto(`/${CLIENT}/loops`);
    await expect(page.getByText('Plant finder', { exact: true })).toBeVisible();
    await press(page, /^Add loop$/);
    await expect(page.getByRole('dialog')).toBeVisible();
    await write(page, /^Name$/, name);
    await page.keyboard.press('Enter');
    await expect(page.getByText('Nothing starts this loop yet', { exact: false }).first()).toBeVisible();

    await press(page, /^Add a step to Welcome$/);
    const adder = page.getByRole('textbox', { name: 'What comes next?' });
    await expect(adder).toBeFocused();
    if (how.includes('keyboard'))
      for (const line of PLANT_FINDER) {
        await page.keyboard.type(line);
        await page.keyboard.press('Enter');
      }
    else {
      // Half of it typed, half of it pasted as it came in a letter.
      for (const line of PLANT_FINDER.slice(0, 8)) {
        await adder.fill(line);
        await adder.press('Enter');
      }
      await adder.fill(PLANT_FINDER.slice(8).join('\n'));
      await adder.press('Enter');
    }
    await page.keyboard.press('Escape');
    await expect(page.getByRole('region', { name: /^Scene \d, / })).toHaveCount(9);

    await press(page, /^Add a cue$/);
    await press(page, /^A keyword/);
    await write(page, /^Keywords, comma-separated$/, keyword);
    await expect(page.getByText('Nothing else starts on this.')).toBeVisible();
    await press(page, /^Done$/);
    await expect(page.getByRole('dialog')).toHaveCount(0);
    await expect(page.getByText('saved', { exact: false }).first()).toBeVisible();
    await expect(page.getByText('to fix before you can publish', { exact: false })).toHaveCount(0);
    if (!how.includes('keyboard')) await expectAccessible(page);

    if (how.includes('keyboard')) {
      await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
      await page.keyboard.press('p');
    } else await press(page, /^Publish$/);
    await expect(page.getByText('The loop has not been published before.')).toBeVisible();
    await press(page, /^Publish now$/);
    await expect(page.getByText('live, version 1', { exact: false })).toBeVisible();

    await page.goto(`/${CLIENT}/test-phone`);
    const phone = page.getByRole('log');
    const say = async (words: string) => {
      await write(page, /^Write as the customer$/, words);
      await page.keyboard.press('Enter');
    };
    await say(keyword);
    await expect(phone.getByText('How much light is there?', { exact: false })).toBeVisible();
    await press(page, /^Half shade$/);
    await expect(phone.getByText('Where will it stand?')).toBeVisible();
    await press(page, /^Balcony$/);
    await expect(phone.getByText('What would you spend on it, in pounds?')).toBeVisible();
    await say('a hundred');
    await expect(phone.getByText('witch hazel', { exact: false })).toBeVisible();
    await press(page, /^Yes please$/);
    await expect(phone.getByText('You are on the list.', { exact: false })).toBeVisible();
  });
