import { expect, test } from '@playwright/test';
import { noSeriousTrouble, signIn } from './state.ts';

test('the map tells which links are in trouble, and one of them leads to its cause by keyboard', async ({ page }) => {
  // the last hour is told first
  await signIn(page, 'maren', '/map');
  const list = page.getByRole('navigation', { name: 'links in trouble' });
  const refused = list.getByRole('button', { name: /document-store → archive/ });
  await expect(refused).toContainText('refused', { timeout: 240_000 });
  await noSeriousTrouble(page);
  await refused.press('Enter');
  const sheet = page.getByRole('complementary', { name: 'link' });
  await expect(sheet).toContainText('attempts reached nobody');
  const over = sheet.getByRole('region', { name: 'over the window' });
  await expect(over.getByRole('img', { name: /^requests: caller .* per s, answerer .* at the end/ })).toBeVisible();
  await expect(over.getByRole('img', { name: /^failed: caller \d+ %/ })).toBeVisible();
  await expect(over.getByRole('link', { name: 'tell me when: a rule about requests of this link' })).toBeVisible();
  const traced = sheet.getByRole('region', { name: 'what goes over it' });
  await expect(traced.getByRole('row', { name: /keep a page/ }).first()).toBeVisible();
  await traced.getByRole('list', { name: 'requests: failed, newest first' }).getByRole('button').first().press('Enter');
  await expect(traced.getByRole('list', { name: 'steps of the trace' })).toContainText('call keep a page');
  await noSeriousTrouble(page);
  const drawing = page.getByRole('group', { name: 'drawing of links' });
  const call = drawing.getByRole('button', { name: /^document-store calls archive: refused/ });
  await expect(call).toHaveAttribute('aria-pressed', 'true');
  await drawing.getByRole('button', { name: /^registry, / }).press('Enter');
  await expect(sheet).toHaveCount(0);
  // its pods, in place
  await drawing.getByRole('button', { name: /^\d+ pods? of archive$/ }).press('Enter');
  await expect(drawing.getByRole('link', { name: /^archive-/ }).first()).toBeVisible();
  await noSeriousTrouble(page);
  await drawing.getByRole('button', { name: /^seaward \/ pier-data: / }).press('Enter');
  await expect(drawing.getByRole('button', { name: /^seaward \/ pier-data, folded/ })).toBeVisible();
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'table', exact: true }).click();
  await expect(page.getByRole('table', { name: 'table of links' }).getByRole('row').nth(1)).toBeVisible();
  await page.goBack();
  await expect(drawing).toBeVisible();
  // beside an hour ago, when nothing was the matter
  await page.goto(new URL('/map?window=15m&against=40m', page.url()).href);
  await expect(page.getByRole('region', { name: 'changed' }).getByRole('button').first()).toBeVisible();
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'compare no more' }).click();
  await expect(page.getByRole('region', { name: 'changed' })).toHaveCount(0);
  // it is found where it comes from, too
  await page.goto(new URL('/now', page.url()).href);
  const found = page.getByRole('listitem').filter({ hasText: 'document-store cannot reach it' });
  await found.getByRole('link').first().click();
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toContainText(
    'document-store cannot reach it',
  );
});

test('a developer’s map names nothing of others; a sheet tells who calls a workload and what hangs on it', async ({
  page,
}) => {
  await signIn(page, 'tove', '/map?whose=all');
  const drawing = page.getByRole('group', { name: 'drawing of links' });
  await expect(drawing.getByRole('button', { name: /^booking-front, / })).toBeVisible({ timeout: 240_000 });
  await expect(drawing.getByRole('button', { name: 'not yours', exact: true })).toBeVisible();
  expect(await page.locator('main').textContent()).not.toMatch(/archive|vessel|manifest|ingress/);
  await page.goto(new URL('/usage?in=seaward/ticketing/deployment:seat-ledger', page.url()).href);
  const links = page.getByRole('complementary', { name: 'object sheet' }).getByRole('region', { name: 'Links' });
  await expect(links).toContainText('booking-front');
  await expect(links).toContainText('would be hit if it went');
  const operations = page.getByRole('region', { name: 'Operations' });
  await expect(operations.getByRole('list', { name: 'operations' }).getByRole('listitem').first()).toContainText(
    'per s',
  );
  await operations.getByLabel('order of operations').selectOption('slowest first');
  await operations.getByLabel(/satisfied within/).selectOption({ label: '1.00 s' });
  await expect(operations).toContainText(/satisfied within.*: \d+(\.\d)? %/);
  await noSeriousTrouble(page);
  await links.getByRole('link', { name: 'on the map' }).click();
  await expect(drawing.getByRole('button', { name: /^seat-ledger, / })).toHaveAttribute('aria-pressed', 'true');
});
