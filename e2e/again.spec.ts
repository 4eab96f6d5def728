import { expect, test } from './stage';

test.use({
  meant: [/Failed to load resource|Requiring unknown module|ERR_FAILED|status of 401/],
});

test('a script that breaks off on its way is fetched anew; one that never arrives is said', async ({
  page,
}) => {
  let broken = 2;
  await page.route(/\/_expo\/static\/js\/.*__common/, (route) =>
    broken-- > 0 ? route.abort() : route.continue(),
  );
  await page.goto('/');
  await expect(page.getByRole('textbox', { name: /email/i })).toBeVisible();
  expect(broken).toBeLessThan(0);
  await page.evaluate(() => sessionStorage.clear());
  broken = Number.POSITIVE_INFINITY;
  await page.goto('/');
  await expect(page.getByText(/could not be loaded/)).toBeVisible({ timeout: 20_000 });
});
