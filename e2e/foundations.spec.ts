import { expect, test } from '@playwright/test';
import { noSeriousTrouble, post, signIn, testState } from './state.ts';

const { address, world } = testState();

/** Names of other teams’ namespaces and workloads that team Ferries must not learn. */
const FOREIGN = [
  'berths',
  'pilotage',
  'tides',
  'manifests',
  'crew-rota',
  'yard-cranes',
  'pier-system',
  'pier-ingress',
  'pier-data',
  'tide-model',
  'declaration-checker',
  'vessel-tracker',
  'crane-telemetry',
  'ledger-base',
  'replan-night',
  'rota-service',
];

test('a developer’s screens, completion and live news show nothing of others', async ({ page }) => {
  const answers: { from: string; text: string }[] = [];
  page.on('response', async (response) => {
    const url = new URL(response.url());
    if (!url.pathname.startsWith('/api/') || url.pathname === '/api/live') return;
    answers.push({ from: url.pathname + url.search, text: await response.text().catch(() => '') });
  });
  await signIn(page, 'tove', '/now');
  const session = page.getByRole('navigation', { name: 'looking at' });
  await expect(session.getByLabel('whose')).toHaveValue('mine');
  // the same session listens to the news on a page of its own
  const listener = await page.context().newPage();
  await listener.goto(`${address}/admin`);
  const news = listener.evaluate(
    () =>
      new Promise<string>((done) => {
        let text = '';
        const source = new EventSource('/api/live');
        source.onmessage = ({ data }) => {
          text += data;
          if (text.length > 400) {
            source.close();
            done(text);
          }
        };
      }),
  );
  await page.getByRole('region', { name: 'failing' }).waitFor();
  await post(`${world.control}/restarts?namespace=manifests&name=document-store&times=1`);
  await page.getByLabel('whose').selectOption('all');
  const visited: string[] = [];
  const look = async (path: string) => {
    await page.goto(`${address}${path}`);
    // only what has a time has an age
    if (/^\/(now|usage)/.test(path)) await page.getByTestId('data-age').filter({ hasText: 'newest reading' }).waitFor();
    else await page.getByRole('main').getByRole('heading').first().waitFor();
    await page.waitForLoadState('networkidle', { timeout: 3000 }).catch(() => undefined); // the stream stays open
    visited.push((await page.locator('body').textContent()) ?? '');
  };
  for (const path of [
    '/now?whose=all&window=12h',
    '/usage?in=seaward&whose=all',
    '/usage?in=seaward/ticketing',
    '/usage?in=seaward&by=node',
    '/usage?in=seaward/node:seaward-03&against=15m&window=15m',
    '/usage?in=seaward/ticketing/deployment:booking-front',
    '/rules',
    '/sources',
    '/admin',
  ])
    await look(path);
  // completion offers only what is the developer's own
  await page.goto(`${address}/usage?in=seaward&whose=all`);
  await page.getByRole('button', { name: 'namespace: any namespace' }).click();
  const offered = page.getByRole('dialog').getByRole('option');
  await expect(offered).toHaveText(['any namespace', 'boarding', 'ticketing']);
  await page.keyboard.press('Escape');
  // asked for outright, it is refused in words that do not tell whether it exists
  await page.goto(`${address}/usage?in=seaward/manifests/deployment:declaration-checker`);
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toContainText(
    'You may not look at manifests',
  );
  answers.push({ from: '/api/live', text: await news });
  const leaks = answers
    .filter(({ from }) => !/in=seaward\/manifests/.test(from))
    .flatMap(({ from, text }) => FOREIGN.filter((name) => text.includes(name)).map((name) => `${from} tells ${name}`));
  const shown = visited.flatMap((text) => FOREIGN.filter((name) => text.includes(name)));
  expect([...new Set(leaks)]).toEqual([]);
  expect(shown).toEqual([]);
  expect(answers.length).toBeGreaterThan(30);
  expect(answers.some(({ text }) => text.includes('~others'))).toBe(true);
});

test('a grant shows its holder what it grants, says why, and is taken back', async ({ page, browser }) => {
  await signIn(page, 'maren', '/admin/grants#jonas');
  const sight = page.getByRole('region', { name: 'what a person sees, and why' });
  await expect(sight).toContainText('team Tides owns it');
  await page.getByRole('button', { name: 'grant something' }).click();
  const form = page.getByRole('form', { name: 'grant something' });
  await form.getByLabel('To').selectOption({ label: 'jonas' });
  await form.getByLabel('Cluster').selectOption('landward');
  await form.getByLabel(/^Namespace/).fill('pilotage');
  await form.getByRole('button', { name: 'Grant' }).click();
  await expect(sight.getByRole('row', { name: /^landward › pilotage read/ })).toContainText('grant jonas-read');
  await noSeriousTrouble(page);
  const jonas = await (await browser.newContext()).newPage();
  await signIn(jonas, 'jonas', '/usage?in=landward&whose=all');
  await expect(jonas.getByRole('option', { name: /^pilotage\./ })).toBeVisible();
  await page.getByRole('button', { name: /^take back: jonas may read/ }).click();
  await page.getByRole('button', { name: /^really take back: jonas/ }).click();
  await expect(sight.getByRole('row', { name: /^landward › pilotage/ })).toHaveCount(0);
  await jonas.reload();
  await expect(
    jonas
      .getByRole('option', { name: /^tides\./ })
      .or(jonas.getByRole('option', { name: /^slipway/ }))
      .first(),
  ).toBeVisible();
  await expect(jonas.getByRole('option', { name: /^pilotage\./ })).toHaveCount(0);
});

test('two windows: compared, mirrored, swapped, aligned at a mark; then by nodes', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/tides/deployment:tide-model&window=15m');
  await page.getByLabel('against', { exact: true }).selectOption({ label: 'the window before' });
  await expect(page.getByText('compared with the window before')).toBeVisible();
  await page.getByLabel('mirrored, by swing').click();
  await expect(page).toHaveURL(/show=mirror/);
  await noSeriousTrouble(page);
  await page.keyboard.press('\\');
  await expect(page).toHaveURL(/against=-15m/);
  await page.getByRole('button', { name: 'compare no more' }).click();
  await expect(page).not.toHaveURL(/against/);
  await page.keyboard.press('0');
  // the leak ends often here: its restarts are marks
  await page
    .getByRole('button', { name: /ran out of memory and was restarted/ })
    .last()
    .click();
  const entry = page.getByRole('dialog').getByRole('listitem').first();
  await entry.getByRole('button', { name: 'before and after' }).click();
  await expect(page).toHaveURL(/from=\d+&to=\d+&against=/);
  const sheet = page.getByRole('complementary', { name: 'object sheet' });
  await expect(sheet.getByRole('img', { name: /^CPU: .*; against / })).toBeVisible();
  await page.getByRole('button', { name: 'compare no more' }).click();
  await page.getByLabel('below the clusters').selectOption('Nodes');
  await page
    .getByRole('listbox', { name: 'Nodes' })
    .getByRole('option', { name: /^seaward-05\./ })
    .click();
  await page.getByRole('listbox', { name: 'Pods' }).getByRole('option').first().click();
  await expect(page.getByRole('listbox', { name: 'Containers' }).getByRole('option').first()).toBeVisible();
  await expect(page).toHaveURL(/in=seaward\/node:seaward-05\/[a-z-]+:/);
  await noSeriousTrouble(page);
});

test('volumes, quotas and runs have sheets, and lead on to what stands beside them', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/pier-data/stateful-set:archive');
  const sheet = page.getByRole('complementary', { name: 'object sheet' });
  await sheet.getByRole('region', { name: 'Volumes, used of their size' }).getByRole('link').first().click();
  await expect(sheet.getByRole('heading', { name: 'data-archive-0' })).toBeVisible();
  await expect(sheet.getByRole('img', { name: /^volume: .* of its size of 200 GiB/ })).toBeVisible();
  await sheet.getByRole('region', { name: 'Persistent volumes' }).getByRole('link').click();
  await expect(page).toHaveURL(/in=seaward\/persistent-volume:/);
  await noSeriousTrouble(page);
  await page.goto(`${address}/usage?in=slipway/boarding`);
  await expect(sheet.getByRole('region', { name: /^Quota compute/ })).toContainText(
    'requests.cpu3.84 cores of 4.00 cores96 %',
  );
  await expect(sheet).toContainText('cannot be created: the quota of boarding is spent');
  await page.goto(`${address}/usage?in=seaward/berths-batch/cron-job:replan-night&window=1d`);
  await expect(sheet.getByRole('region', { name: 'Runs in this window' })).toContainText('next due');
});
