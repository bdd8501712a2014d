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

test('Measures: drawn otherwise, its steps told', async ({ page }) => {
  await signIn(page, 'maren', '/measures?window=15m');
  await page.getByRole('link', { name: 'cores of each team' }).click();
  await expect(page.getByRole('figure', { name: 'stacked areas of the measure' })).toBeVisible();
  await page.getByLabel('show the steps').check();
  const steps = page.getByRole('region', { name: 'steps' });
  await expect(steps.getByRole('row', { name: /add labels team/ })).toBeVisible();
  for (const [drawn, name] of [
    ['heat map', 'heat map of the measure'],
    ['distribution at a moment', 'distribution of the measure'],
    ['ranked bars', 'ranked bars of the measure'],
    ['lines', 'lines of the measure'],
  ] as const) {
    await page.getByLabel('drawn as').selectOption({ label: drawn });
    await expect(page.getByRole('figure', { name })).toBeVisible();
  }
  await noSeriousTrouble(page);
});

test('Measures: kept with its versions, and taken away again', async ({ page }) => {
  await signIn(page, 'maren', '/measures?window=15m');
  await page.getByRole('link', { name: 'cores of each team' }).click();
  await expect(page.getByRole('figure', { name: 'stacked areas of the measure' })).toBeVisible();
  const title = `Cores of teams ${test.info().repeatEachIndex}`;
  await page.getByRole('button', { name: 'keep it' }).click();
  await page.getByLabel('Title').fill(title);
  await page.getByLabel('Whose it is').selectOption({ label: 'everybody’s' });
  await page.getByRole('button', { name: 'Keep it with the text above' }).click();
  await expect(page.getByRole('region', { name: 'saved measures' })).toContainText(title);
  await page.getByRole('button', { name: 'versions' }).click();
  await expect(page.getByRole('list', { name: 'versions of the measure' })).toContainText('added');
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'remove', exact: true }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('region', { name: 'saved measures' })).toHaveCount(0);
});

test('a chart of a sheet leads to its measure, which asks for the same', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/ticketing/deployment:booking-front&window=15m');
  const sheet = page.getByRole('complementary', { name: 'object sheet' });
  await sheet.getByRole('link', { name: 'show the measure of Memory, working set' }).click();
  const editor = page.getByRole('textbox', { name: 'text of the measure' });
  await expect(editor).toContainText('workload is "booking-front"');
  await expect(page.getByRole('table', { name: 'last values' }).getByRole('row').first()).toContainText(/GiB|MiB/);
  // completed from what occurs
  await editor.fill('read vital container.memory.working_set where cluster is "');
  await editor.press('End');
  await editor.press('Control+Space');
  // a list that has just opened takes no click yet: nobody is to choose what was not there a moment ago
  const option = page.getByRole('option', { name: 'seaward' });
  await expect(async () => {
    if (await option.isVisible()) await option.click();
    await expect(editor).toContainText('cluster is "seaward', { timeout: 1000 });
  }).toPass({ timeout: 240_000 });
});
