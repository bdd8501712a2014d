import { expect, test } from '@playwright/test';
import { signIn } from './state.ts';

// named so that it runs among the first: a day of the stand-in is 144 s here, and its next night's run succeeds
test('a job that fails leads from Now to the sheet that states its cause', async ({ page }) => {
  await signIn(page, 'maren', '/now');
  await page
    .getByRole('region', { name: 'failing' })
    .getByRole('link', { name: /berths-batch › replan-night/ })
    .click();
  const sheet = page.getByRole('complementary', { name: 'object sheet' });
  await expect(sheet).toContainText(/ended with code 3: no berth plan/);
  await expect(sheet.getByRole('region', { name: 'Runs in this window' })).toContainText('next due');
});
