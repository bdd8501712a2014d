import { expect, test } from '@playwright/test';
import { noSeriousTrouble, signIn } from './state.ts';

test('Measures: from a metric to its lines; what is wrong is said where it is; the address leads back', async ({
  page,
}) => {
  await signIn(page, 'maren', '/measures?window=15m');
  await page.getByLabel('find a metric').fill('working_set');
  await page.getByRole('button', { name: 'ask about container_memory_working_set_bytes' }).click();
  const values = page.getByRole('table', { name: 'last values' });
  await expect(values.getByRole('row').first()).toContainText(/GiB|MiB/);
  const editor = page.getByRole('textbox', { name: 'text of the measure' });
  await editor.fill('read vital container.memory.working_set total for each k8s_namespace_name');
  await editor.press('Control+Enter');
  await expect(values.getByRole('row', { name: /^tides / })).toBeVisible();
  await expect(page.getByRole('figure', { name: 'lines of the measure' })).toBeVisible();
  await expect(page).toHaveURL(/measure=read\+?%?/);
  await page.reload();
  await expect(values.getByRole('row', { name: /^tides / })).toBeVisible();
  await editor.fill('read vital container.memory.working_set avrage over 5m');
  await editor.press('Control+Enter');
  await expect(page.getByRole('alert')).toContainText('“average” is the nearest');
  await noSeriousTrouble(page);
});

test('Measures: a developer’s own question shows nothing of others', async ({ page }) => {
  await signIn(page, 'tove', '/measures?window=15m&whose=all');
  const editor = page.getByRole('textbox', { name: 'text of the measure' });
  await editor.fill('read vital container.memory.working_set whatever the scope total for each k8s_namespace_name');
  await editor.press('Control+Enter');
  const values = page.getByRole('table', { name: 'last values' });
  await expect(values.getByRole('row').first()).toBeVisible();
  await expect(values).not.toContainText('pier-system');
});
