import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { noSeriousTrouble, signIn, testState } from './state.ts';

const { address } = testState();

const sheet = (page: Page) => page.getByRole('complementary', { name: 'object sheet' });

test('go to anything by keyboard: a name with a wrong letter, a place, a moment, and back to now with one key', async ({
  page,
}) => {
  await signIn(page, 'maren', '/now');
  await page.getByRole('heading', { name: 'Needs you' }).waitFor();
  await page.keyboard.press('/');
  const finder = page.getByRole('dialog', { name: 'Go to anything' });
  await expect(finder.getByRole('combobox')).toBeFocused();
  await page.keyboard.type('tide modle');
  await expect(finder.getByRole('option').first()).toContainText('tide-model');
  await noSeriousTrouble(page);
  await page.keyboard.press('Enter');
  await expect(sheet(page).getByRole('heading', { name: 'tide-model' })).toBeVisible();

  await page.keyboard.press('Control+k');
  await page.keyboard.type('2 h ago');
  await expect(finder.getByRole('option', { name: /^look at/ })).toBeVisible();
  await page.keyboard.press('Enter');
  const sign = page.getByRole('status').filter({ hasText: 'the past' });
  await expect(sign).toContainText('2 h ago');
  await expect(page.getByRole('heading', { name: 'Needs you' })).toBeVisible();
  await noSeriousTrouble(page);
  await page.keyboard.press('2');
  await expect(sign).toBeVisible();
  await page.keyboard.press('0');
  await expect(sign).toHaveCount(0);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('go to anything');
  await page.keyboard.press('Escape');
});

test('the table: sorted, filtered, its columns chosen, taken away as CSV, two of its rows side by side', async ({
  page,
}) => {
  await signIn(page, 'maren', '/usage?in=seaward&sheet=closed');
  await page.getByRole('listbox', { name: 'Namespaces' }).waitFor();
  await page.keyboard.press('t');
  const table = page.getByRole('table', { name: 'table of usage' });
  await expect(table.getByRole('link', { name: 'booking-front' })).toBeVisible();
  await noSeriousTrouble(page);
  await table.getByRole('button', { name: 'memory limit' }).click();
  await expect(table.locator('th[aria-sort="descending"]')).toContainText('memory limit');
  await page.getByLabel('a part of the name or the place').fill('ticketing');
  await expect(table.getByRole('link', { name: 'tide-model' })).toHaveCount(0);
  await page.getByRole('button', { name: 'columns', exact: true }).click();
  await page.getByRole('checkbox', { name: 'received' }).click();
  await page.keyboard.press('Escape');
  await expect(table.getByRole('button', { name: 'received' })).toBeVisible();
  const downloading = page.waitForEvent('download');
  await page.getByRole('button', { name: 'CSV' }).click();
  const file = readFileSync(await (await downloading).path(), 'utf8');
  expect(file.split('\r\n')[0]).toMatch(/^name,where,state,pods \(pods\),CPU \(cores\)/);
  expect(file).toContain('booking-front,seaward › ticketing');
  // kept as a view, found again, and removed
  await page.getByRole('button', { name: 'views' }).click();
  await page.getByLabel('keep what is on screen as').fill('ferries by limit');
  await page.getByRole('button', { name: 'keep', exact: true }).click();
  await expect(page.getByRole('link', { name: 'ferries by limit' })).toHaveAttribute('href', /sort=memoryLimit/);
  await page.getByRole('button', { name: 'remove view ferries by limit' }).click();
  await expect(page.getByRole('link', { name: 'ferries by limit' })).toHaveCount(0);
  await page.keyboard.press('Escape');
  await table.getByRole('checkbox', { name: 'mark booking-front' }).check();
  await table.getByRole('checkbox', { name: 'mark seat-ledger' }).check();
  await page.getByRole('link', { name: 'side by side' }).click();
  for (const name of ['booking-front', 'seat-ledger'])
    await expect(page.getByRole('article', { name }).getByRole('region', { name: 'CPU' })).toBeVisible();
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'back to the columns' }).click();
  await expect(page.getByRole('listbox', { name: 'Clusters' })).toBeVisible();
});

test('teams as a way down, and what is free stands behind those who use it', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward&sheet=closed');
  const namespaces = page.getByRole('listbox', { name: 'Namespaces' });
  await expect(namespaces.getByRole('option', { name: /^free\./ })).toHaveAttribute('aria-disabled', 'true');
  await page.keyboard.press('n');
  await page.getByRole('listbox', { name: 'Nodes' }).waitFor();
  await page.keyboard.press('n');
  const teams = page.getByRole('listbox', { name: 'Teams' });
  await teams.getByRole('option', { name: /^Ferries/ }).click();
  await expect(namespaces.getByRole('option')).toHaveCount(2);
  await namespaces.getByRole('option', { name: /^ticketing/ }).click();
  await expect(page.getByRole('listbox', { name: 'Workloads' })).toBeVisible();
  expect(page.url()).toContain('in=seaward/ticketing');
});

test('columns show other resources: network, volumes, restarts, chosen by keyboard and kept in the address', async ({
  page,
}) => {
  await signIn(page, 'maren', '/usage?in=seaward/pier-data&sheet=closed');
  const workloads = page.getByRole('listbox', { name: 'Workloads' });
  await expect(workloads.getByRole('option', { name: /^archive\. CPU: / })).toBeVisible();
  await page.getByLabel('resource').selectOption('volumes');
  await expect(workloads.getByRole('option', { name: /^archive\. volumes: .* of its size of 200 GiB/ })).toBeVisible();
  await expect(page.getByRole('option', { name: /^ticketing\. no volume/ })).toContainText('none');
  await noSeriousTrouble(page);
  await page.getByLabel('resource').focus();
  await page.keyboard.type('network r');
  await expect(page).toHaveURL(/of=received/);
  await expect(workloads.getByRole('option', { name: /^archive\. received over the network: .* per s/ })).toBeVisible();
  // against another window, the swing of what is looked at
  await page.goto(`${page.url()}&against=30m`);
  await expect(
    workloads.getByRole('option', { name: /^archive\. received .*in the window compared with/ }),
  ).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('option', { name: /^ticketing/ }).click();
  await page.keyboard.press('m');
  await expect(page).not.toHaveURL(/of=/);
});

test('a sheet tells of requests, failures and latency above CPU, of the node’s disk and of processes', async ({
  page,
}) => {
  await signIn(page, 'maren', '/usage?in=seaward/ticketing/deployment:seat-ledger&window=1h');
  const latency = sheet(page).getByRole('region', { name: 'Latency' });
  await expect(latency).toContainText(/half below \d+ ms, 95 % below \d+ ms/);
  await latency.getByRole('button', { name: 'Latency as a table' }).click();
  await expect(latency.getByRole('columnheader', { name: '95 % below' })).toBeVisible();
  const titles = await sheet(page).getByRole('heading', { level: 3 }).allTextContents();
  expect(titles.indexOf('Requests answered')).toBeGreaterThanOrEqual(0);
  expect(titles.indexOf('Requests answered')).toBeLessThan(titles.indexOf('CPU'));
  await noSeriousTrouble(page);
  // its service answers what its pods answer
  await page.goto(`${address}/usage?in=seaward/ticketing/service:seat-ledger&window=1h`);
  await expect(sheet(page).getByRole('region', { name: 'Requests answered', exact: true })).toContainText(/per s/);
  await page.goto(`${address}/usage?in=seaward/ticketing/deployment:seat-ledger&window=1h`);
  await page.getByRole('listbox', { name: 'Pods' }).getByRole('option').first().click();
  await expect(sheet(page).getByRole('region', { name: /^Its node seaward-\d\d: file system/ })).toBeVisible();
  await expect(sheet(page).getByText(/^ledger \(1\)/)).toBeVisible();
});

test('a failing workload’s sheet leads to the cause: rollout, last lines, versions', async ({ page }) => {
  await signIn(page, 'maren', '/now');
  await page
    .locator('main')
    .getByRole('link', { name: /declaration-checker/ })
    .first()
    .click();
  const rollout = sheet(page).getByRole('region', { name: 'Rollout' });
  await expect(rollout).toContainText('2.9.0 → 2.9.l');
  await expect(rollout).toContainText('It does not go on.');
  await expect(rollout.getByRole('row', { name: /^new/ })).toContainText('0 of 2');
  await expect(rollout.getByRole('row', { name: /^old/ })).toContainText('3 of 3');
  const logs = sheet(page).getByRole('region', { name: 'Last lines' });
  await logs.getByRole('button', { name: 'last 50 lines' }).first().click();
  await expect(logs.getByRole('alert')).toContainText('waiting to start');
  await sheet(page).getByRole('button', { name: 'every state that is kept' }).click();
  await expect(sheet(page).getByRole('region', { name: 'Versions' }).getByRole('listitem').first()).toBeVisible();
  await noSeriousTrouble(page);

  await page.goto(page.url().replace('declaration-checker', 'manifest-intake'));
  const pods = page.getByRole('listbox', { name: 'Pods' }).getByRole('option');
  await pods.first().click();
  await expect(sheet(page).getByRole('region', { name: /^Its node .*: memory/ })).toBeVisible();
  await expect(sheet(page).getByRole('region', { name: /^Who is on/ })).toContainText('(this one)');
  await logs.getByRole('button', { name: 'last 50 lines' }).first().click();
  await expect(logs.getByRole('figure')).toContainText(/manifest received|declaration checked/);
  await noSeriousTrouble(page);
});

test('pause stops the moving screen and tells its age; drawing over a chart sets the window of all', async ({
  page,
}) => {
  await signIn(page, 'maren', '/usage?in=seaward/tides/deployment:tide-model&sheet=');
  const age = page.getByTestId('window-age');
  await page.getByRole('button', { name: 'pause' }).click();
  await expect(age).toContainText('ago');
  await page.getByRole('button', { name: 'now', exact: true }).click();
  await expect(age).toHaveCount(0);
  const chart = sheet(page).getByRole('region', { name: 'CPU', exact: true }).getByRole('img');
  await expect(chart.locator('path.recharts-line-curve').first()).toBeAttached();
  await chart.scrollIntoViewIfNeeded();
  // the sheet may grow between looking and drawing, as what comes in tells more
  await expect(async () => {
    const { x, y, width } = (await chart.boundingBox())!;
    await page.mouse.move(x + width * 0.2, y + 40);
    await page.mouse.down();
    await page.mouse.move(x + width * 0.7, y + 40, { steps: 4 });
    await page.mouse.up();
    await expect(age).toContainText('ago', { timeout: 30_000 });
  }).toPass({ timeout: 240_000 });
  await noSeriousTrouble(page);
});

test('each story leads from Now to the sheet that states its cause', async ({ page }) => {
  await signIn(page, 'maren', '/now');
  const stories: [name: string, where: string | null, link: RegExp, cause: RegExp][] = [
    ['a leak', 'tightest', /tides › tide-model\s*memory/, /memory limit|memory: in about|out of memory/],
    ['a rush', 'failing', /ticketing › booking-front/, /autoscaler would have more than/],
    ['a bad release', null, /declaration-checker/, /declaration-checker:2\.9\.l .*cannot be pulled/],
    ['a volume that fills', 'failing', /pier-data › data-archive-0/, /will be full in about \d|(9\d|100) % full/],
    ['a quota that is spent', 'failing', /boarding › compute/, /96 % of requests\.cpu is spent/],
    ['over-asking', 'failing', /^crew-rota/, /asks for 12\.\d cores of CPU and uses \d/],
  ];
  for (const [name, where, link, cause] of stories) {
    await test.step(name, async () => {
      await page.goto(`${address}/now`);
      const section = where === null ? page.locator('main') : page.getByRole('region', { name: where });
      await section.getByRole('link', { name: link }).first().click();
      await expect(sheet(page)).toContainText(cause);
    });
  }
  await test.step('node trouble that is long over: history, told where it was', async () => {
    await page.goto(`${address}/usage?in=seaward/berths/deployment:quay-board`);
    await expect(sheet(page)).toContainText('No findings');
    const pods = page.getByRole('listbox', { name: 'Pods' });
    await pods.getByRole('option', { name: /warning: Evicted from node seaward-07/ }).click();
    await expect(sheet(page)).toContainText('The node was low on resource: memory');
  });
});
