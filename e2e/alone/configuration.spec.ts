import { expect, test } from '@playwright/test';
import { noSeriousTrouble, signIn } from '../state.ts';

test('the configuration: written out, changed, tried, applied, undone; the audit tells it all', async ({ page }) => {
  await signIn(page, 'maren', '/admin/file');
  const area = page.getByLabel('text of the file');
  await expect(area).toHaveValue(/teams:/);
  const before = await area.inputValue();
  await area.fill(before.replace('name: Pilotage', 'name: ""'));
  await page.getByRole('button', { name: 'try it' }).click();
  const wrong = page.getByRole('button', { name: /^line \d+/ });
  await expect(page.getByRole('listitem').filter({ has: wrong })).toContainText('a team has a name');
  const line = before.split('\n').findIndex((text) => text.includes('name: Pilotage')) + 1;
  await expect(wrong).toHaveText(new RegExp(`^line ${line}`));
  await area.fill(before.replace('name: Pilotage', 'name: Pilots'));
  await expect(page.getByRole('button', { name: 'apply it' })).toBeDisabled();
  await page.getByRole('button', { name: 'try it' }).click();
  await expect(page.getByText('It would change 1 document:')).toBeVisible();
  await expect(page.getByText('+ name: Pilots')).toBeVisible();
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'apply it' }).click();
  await page.getByRole('link', { name: /^revision \d+/ }).click();
  await expect(page.getByRole('region', { name: /^revision \d+/ })).toContainText('− name: Pilotage');
  await page.getByRole('button', { name: 'take it back', exact: true }).click();
  await expect(page.getByRole('status', { name: 'what would change' })).toContainText('+ name: Pilotage');
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'yes, take it back' }).click();
  const list = page.getByRole('region', { name: 'revisions' });
  await expect(list.getByRole('button', { name: /took revision \d+ back/ })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('link', { name: 'Configuration as a file' }).click();
  await expect(area).toHaveValue(before);
  await page.getByRole('link', { name: 'Audit' }).click();
  await page.getByLabel('search the audit log').fill('configuration');
  await expect(page.getByRole('row', { name: /maren read a configuration file a try only/ })).toHaveCount(2);
  await expect(
    page.getByRole('row', { name: /maren turn the configuration back undo revision \d+, a try only/ }),
  ).toBeVisible();
  await expect(
    page.getByRole('row', { name: /maren turn the configuration back undo revision \d+ done/ }),
  ).toBeVisible();
});
