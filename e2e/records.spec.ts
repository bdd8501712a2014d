import { expect, test } from '@playwright/test';
import { noSeriousTrouble, signIn } from './state.ts';

test('a sheet tells the log lines and traces of its workload, down to the steps of one', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/ticketing/deployment:booking-front&window=1h');
  const sheet = page.getByRole('complementary', { name: 'object sheet' });
  const lines = sheet.getByRole('list', { name: 'log lines' });
  await expect(lines.getByRole('listitem').first()).toBeVisible();
  await expect(sheet.getByText(/of them bear a trace id/)).toBeVisible();
  const slowest = sheet.getByRole('list', { name: 'traces: slowest' });
  await slowest.getByRole('button').first().click();
  const steps = slowest.getByRole('list', { name: 'steps of the trace' });
  await expect(steps.getByText('seat-ledger').first()).toBeVisible();
  await noSeriousTrouble(page);
  await sheet.getByRole('button', { name: /^show all/ }).press('Enter');
  await expect(lines.getByRole('listitem').nth(12)).toBeVisible();
});

test('what a program should not say is masked, and counted at its key', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/ticketing/deployment:payment-relay&window=3h');
  const sheet = page.getByRole('complementary', { name: 'object sheet' });
  const more = sheet.getByRole('button', { name: /^show all/ });
  await more.click();
  const lines = sheet.getByRole('list', { name: 'log lines' });
  await expect(lines.getByText('charge refused for card ‹card›').first()).toBeVisible();
  await expect(lines.getByText('‹token›').first()).toBeVisible();
  expect(await lines.textContent()).not.toMatch(/4539|eyJ/);
  await page.goto(new URL('/sources/push', page.url()).href);
  const key = page.getByRole('article', { name: 'harbour-programs' });
  await expect(key).toContainText(/masked in them: \d+ card numbers?, \d+ tokens? (and|or) passwords?/);
  await noSeriousTrouble(page);
});

test('a member of a team masks something in its lines, having seen what it would do', async ({ page }) => {
  await signIn(page, 'tove', '/sources/masking');
  await page.getByRole('button', { name: 'add a pattern' }).click();
  const form = page.getByRole('complementary', { name: 'mask' });
  await expect(form.getByLabel('In whose lines').getByRole('option')).toHaveText(['Ferries']);
  const title = `seats ${test.info().repeatEachIndex}`;
  await form.getByLabel('What it is').fill(title);
  await form.getByLabel('Pattern').fill('seat held for [A-Z');
  await form.getByRole('button', { name: 'See what it would mask' }).click();
  await expect(form.getByRole('alert')).toContainText(/missing/i);
  await form.getByLabel('Pattern').fill('nobody says this [0-9]+|seat held for [A-Z][a-z]+');
  await form.getByRole('button', { name: 'See what it would mask' }).click();
  await expect(form.getByRole('region', { name: 'what it would mask' })).toContainText('‹masked›');
  await noSeriousTrouble(page);
  await form.getByLabel('Pattern').fill('nobody says this [0-9]+');
  await form.getByRole('button', { name: 'Mask it from now on' }).click();
  const own = page.getByRole('article', { name: title });
  await expect(own).toContainText('in lines of Ferries');
  await own.getByRole('button', { name: 'remove' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(own).toHaveCount(0);
});

test('a push key: what is kept of traces, pages that may push, and two tokens that are valid together', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources/push');
  await page.getByRole('button', { name: 'make a push key' }).click();
  const name = `pier-${test.info().repeatEachIndex}`;
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByLabel('Of traces keep one in').fill('20');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText('Invalid input').or(page.getByText('at least 0.001 s')).first()).toBeVisible();
  await page.getByLabel('and all that took, seconds').fill('0.5');
  await page.getByLabel('From pages in browsers of, one address a line').fill('ferries');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText('an origin is like https://ferries.example')).toBeVisible();
  await page.getByLabel('From pages in browsers of, one address a line').fill('https://ferries.example');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByRole('region', { name: 'the new token' })).toContainText('kind: Secret');
  const key = page.getByRole('article', { name });
  await expect(key).toContainText('of traces all that failed or took 0.5 s are kept, and one in 20 of the rest');
  await key.getByRole('button', { name: 'new token' }).click();
  await expect(key).toContainText(/The token before is valid until .*; nobody used it/);
  await noSeriousTrouble(page);
  await key.getByRole('button', { name: 'end it now' }).click();
  await expect(key).not.toContainText('The token before');
  await key.getByRole('button', { name: 'look or change' }).click();
  await page.getByRole('button', { name: 'remove; what came is kept' }).click();
  await expect(key).toHaveCount(0);
});

test('log lines are read from the cluster where programs push none, chosen by who owns the namespace', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources/following');
  const own = page.getByRole('article', { name: 'seaward / pier-data' });
  await expect(own).toContainText(/[1-9]\d* containers followed now, \d+ lines since the start/);
  await noSeriousTrouble(page);
  await own.getByRole('button', { name: 'change it' }).press('Enter');
  const form = page.getByRole('complementary', { name: 'follow' });
  await expect(form.getByRole('checkbox', { name: 'archive' })).toBeVisible();
  await form.getByRole('button', { name: 'cancel' }).click();
  await page.goto(new URL('/usage?in=seaward/pier-data/stateful-set:archive&window=1h', page.url()).href);
  const lines = page.getByRole('complementary', { name: 'object sheet' }).getByRole('list', { name: 'log lines' });
  await expect(lines.getByText('SegmentError: check sum differs').first()).toBeVisible();
  await expect(lines.getByText('‹mail›').first()).toBeVisible();
});

test('a receiver is added, says why it does not take anything, and is removed', async ({ page }) => {
  await signIn(page, 'maren', '/sources/forwarding');
  await page.getByRole('button', { name: 'add a receiver' }).click();
  const form = page.getByRole('complementary', { name: 'receiver' });
  await form.getByLabel('What it is').fill('long store');
  await form.getByLabel('Address, before /v1/…').fill('http://169.254.169.254');
  await form.getByRole('checkbox', { name: 'metrics', exact: true }).uncheck();
  await form.getByRole('button', { name: 'Let it go on' }).click();
  const own = page.getByRole('article', { name: 'long store' });
  await expect(own).toContainText('log lines, spans of all clusters');
  await own.getByRole('button', { name: 'test it' }).click();
  await expect(own.getByRole('list', { name: 'what it answered' })).toContainText(
    /logs: .*not allowed|logs: .*denied/i,
  );
  await noSeriousTrouble(page);
  await own.getByRole('button', { name: 'remove' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(own).toHaveCount(0);
});

test('Zetopsis itself: its figures of the last hour, each with its measure', async ({ page }) => {
  await signIn(page, 'maren', '/sources/state');
  const figures = page.getByRole('list', { name: 'own figures' });
  await expect(figures.getByRole('listitem').filter({ hasText: 'memory of the process' })).toContainText(/\d MiB|GiB/);
  await noSeriousTrouble(page);
  await figures.getByRole('button', { name: /memory of the process/ }).press('Enter');
  await expect(page.getByRole('region', { name: 'result of the measure' })).toBeVisible();
});
