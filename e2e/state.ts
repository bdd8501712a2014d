import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import type { RunningDemo } from '../scripts/demo.mjs';

export const STATE = join(process.cwd(), '.zetopsis', 'browser-tests.json');
export interface TestState extends Pick<RunningDemo, 'address' | 'password' | 'world'> {
  readonly helper: string;
}
export const testState = (): TestState => JSON.parse(readFileSync(STATE, 'utf8')) as TestState; // written by globalSetup

export async function post(address: string): Promise<void> {
  const response = await fetch(address, { method: 'POST' });
  if (!response.ok) throw new Error(`${address} answered ${response.status}: ${await response.text()}`);
}

/** As the page does it; the page itself is tried in its own test. */
export async function signIn(page: Page, name: string, path = '/'): Promise<void> {
  const { address, password } = testState();
  const answer = await page.request.post(`${address}/api/session`, {
    data: { name, password },
    headers: { origin: address },
  });
  expect(answer.ok(), `signing in as ${name}: ${answer.status()}`).toBe(true);
  await page.goto(`${address}${path}`);
  await page.getByRole('navigation', { name: 'places' }).waitFor();
}

/** Nothing on the page that keeps somebody from using it. */
export async function noSeriousTrouble(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page })
    // there are no frames, and what is fine is not of interest: a third of the work
    .setLegacyMode()
    .options({ resultTypes: ['violations'] })
    .analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  expect(serious.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
}
