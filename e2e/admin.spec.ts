import { AxeBuilder } from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { signIn, testState } from './state.ts';

test('Admin: a new person signs in; the audit log tells who did what, refused tries too', async ({ page, browser }) => {
  await signIn(page, 'maren', '/now');
  await page.getByRole('heading', { name: 'Needs you' }).waitFor();
  await page.keyboard.press('5');
  await page.getByRole('button', { name: 'add a person' }).click();
  const form = page.getByRole('form', { name: 'add a person' });
  await form.getByLabel('Name').fill('newcomer');
  await form.getByLabel(/^First password/).fill('a first password');
  await form.getByRole('button', { name: 'Add' }).click();
  await expect(page.getByRole('button', { name: 'remove newcomer' })).toBeVisible();
  const other = await (await browser.newContext()).newPage();
  await other.goto(testState().address);
  await other.getByLabel('Name').fill('newcomer');
  await other.getByLabel('Password').fill('wrong');
  await other.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(other.getByRole('alert')).toBeVisible();
  await other.getByLabel('Password').fill('a first password');
  await other.getByRole('button', { name: 'Sign in', exact: true }).click();
  await other.getByRole('link', { name: 'Admin' }).click();
  await expect(other.getByText('for administrators: ask one of them')).toBeVisible();
  await page.getByRole('link', { name: 'Audit' }).click();
  await page.getByLabel('search the audit log').fill('newcomer');
  await expect(page.getByRole('row', { name: /maren add a person newcomer done/ })).toBeVisible();
  await page.reload();
  await page.getByLabel('search the audit log').fill('newcomer');
  await expect(page.getByRole('row', { name: /a stranger sign in newcomer refused/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /newcomer sign in newcomer done/ })).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical').map(({ id }) => id)).toEqual(
    [],
  );
  await page.getByRole('link', { name: 'People' }).click();
  await page.getByRole('button', { name: 'remove newcomer' }).click();
  await page.getByRole('button', { name: 'really remove newcomer' }).click();
  await expect(page.getByRole('button', { name: 'remove newcomer' })).toHaveCount(0);
  await other.reload();
  await expect(other.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
});
