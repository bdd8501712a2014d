import { expect, test } from '@playwright/test';
import { noSeriousTrouble, signIn, testState } from '../state.ts';

const { address, helper } = testState();

test('the stand-in stops: the source turns blind with its reason and ages grow; it starts again: it recovers', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources');
  const cluster = page.getByRole('article', { name: 'seaward' });
  await expect(cluster).toContainText('reading');
  await fetch(`${helper}/stop`, { method: 'POST' });
  await expect(cluster).toContainText('blind');
  await expect(cluster).toContainText('Nothing listens at this address and port');
  await page.getByRole('link', { name: 'Endpoints' }).click();
  await expect(page.getByRole('row', { name: 'seaward › seaward-05 failing' })).toContainText(
    'nothing listens on port',
  );
  await page.getByRole('link', { name: 'Now' }).click();
  const age = page.getByTestId('data-age');
  await expect(age).toContainText(/newest reading (\d\d|[5-9]) s old/);
  await expect(page.getByRole('region', { name: 'blind spots' })).toContainText('seaward');
  await page.getByRole('link', { name: 'Usage' }).click();
  await expect(page.getByText('seaward is blind')).toBeVisible();
  await page.goto(`${address}/sources`);
  await noSeriousTrouble(page);
  await fetch(`${helper}/start`, { method: 'POST' });
  await expect(cluster).not.toContainText('blind');
  await page.getByRole('link', { name: 'Endpoints' }).click();
  await expect(page.getByRole('row', { name: /seaward › seaward-05 read/ })).toBeVisible();
  await page.getByRole('link', { name: 'Usage' }).click();
  await expect(age).toContainText(/newest reading [1-3] s old/);
});
