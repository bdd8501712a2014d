import { expect, test } from '@playwright/test';
import { signIn } from '../state.ts';

test('Admin: a limit is set, what is past it is said at the endpoint, and is kept again once the limit is raised', async ({
  page,
}) => {
  await signIn(page, 'maren', '/admin/retention');
  const limit = page.getByLabel('Series of an endpoint');
  await expect(limit).toHaveValue('200000');
  await limit.fill('0');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('alert')).toHaveText('at least 1');
  await limit.fill('1');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('saved')).toBeVisible();
  // a metric that is new for the endpoint is past the limit at once
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByRole('button', { name: 'import a file' }).click();
  await page.getByLabel('Cluster', { exact: true }).selectOption('seaward');
  await page.getByLabel('Endpoint of the node').selectOption('seaward-05');
  const at = Math.floor(Date.now() / 1000) - 86_400;
  const text = `# TYPE cranes_up gauge\ncranes_up 1 ${at}\n# EOF\n`;
  const file = { name: 'past.txt', mimeType: 'text/plain', buffer: Buffer.from(text) };
  await page.getByLabel('File', { exact: true }).setInputFiles(file);
  await page.getByRole('button', { name: 'import', exact: true }).click();
  const imports = page.getByRole('region', { name: 'history imports' });
  await expect(imports.getByRole('row', { name: /seaward-05 .* done 0 samples, 1 left out/ })).toBeVisible();

  await page.getByRole('link', { name: 'Admin' }).click();
  await page.getByRole('link', { name: 'Retention and limits' }).click();
  await page.getByLabel('Series of an endpoint').fill('200000');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('saved')).toBeVisible();
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByRole('button', { name: 'import a file' }).click();
  await page.getByLabel('Cluster', { exact: true }).selectOption('seaward');
  await page.getByLabel('Endpoint of the node').selectOption('seaward-05');
  await page.getByLabel('File', { exact: true }).setInputFiles(file);
  await page.getByRole('button', { name: 'import', exact: true }).click();
  await expect(imports.getByRole('row', { name: /seaward-05 .* done 1 sample/ })).toBeVisible();
});
