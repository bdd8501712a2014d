// npm run shots: pictures of the main views for docs/screenshots, made from the demo data that `npm start` serves.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { chromiumOptions } from './chromium.mjs';
import { root, stateDir } from './machine.mjs';

const { address } = JSON.parse(readFileSync(join(stateDir, 'running.json'), 'utf8'));
const folder = join(root, 'docs', 'screenshots');
const browser = await chromium.launch(chromiumOptions());

const contexts = new Map();
/** One sign-in for a person and a look: more than a few a minute would be refused. */
async function contextOf({ who = 'maren', night = false }) {
  const key = `${who} ${night}`;
  const known = contexts.get(key);
  if (known) return known;
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    colorScheme: night ? 'dark' : 'light',
  });
  contexts.set(key, context);
  const page = await context.newPage();
  await page.goto(address);
  await page.getByRole('button', { name: `sign in as ${who}` }).click();
  await page.getByRole('navigation', { name: 'places' }).waitFor();
  await page.close();
  return context;
}

async function open(path, options = {}) {
  const page = await (await contextOf(options)).newPage();
  await page.goto(`${address}${path}`);
  // only what has a time has an age
  if (/^\/(now|usage|measures)/.test(path))
    await page.getByTestId('data-age').filter({ hasText: 'newest reading' }).waitFor();
  await page.waitForLoadState('networkidle', { timeout: 5000 }).catch(() => undefined); // the stream of news stays open
  return page;
}
const drawn = (page) => page.getByRole('region', { name: 'CPU' }).locator('svg.recharts-surface').first().waitFor();

async function shot(page, name) {
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(name);
  await page.close();
}

await shot(await open('/now'), 'now');
const usage = await open('/usage?in=seaward/ticketing/deployment:booking-front&window=6h');
await drawn(usage);
await shot(usage, 'usage');
const sheet = await open('/usage?in=seaward/manifests/deployment:declaration-checker');
await drawn(sheet);
await shot(sheet, 'object-sheet');
const night = await open('/usage?in=seaward/tides/deployment:tide-model&window=12h&of=memory', { night: true });
await drawn(night);
await shot(night, 'usage-night');
const sources = await open('/sources/endpoints');
await sources.getByRole('button', { name: 'seaward › seaward-03', exact: true }).click();
await sources.getByText('As it came').waitFor();
await shot(sources, 'sources');
const scout = await open('/sources/scouts');
await scout.getByRole('button', { name: 'look or change' }).click();
await scout.getByRole('button', { name: 'Preview' }).click();
await scout.getByRole('status', { name: 'preview' }).waitFor();
await shot(scout, 'scout');
const coverage = await open('/sources/coverage');
await coverage.getByRole('region', { name: 'share read' }).waitFor();
await shot(coverage, 'coverage');
const census = await open('/sources/census');
await census.getByRole('region', { name: 'by metric' }).waitFor();
await shot(census, 'census');
await shot(await open('/rules'), 'rules');
const draft = await open('/rules/new');
await draft.getByLabel('begin with').selectOption('memory of a container near its limit, two levels');
await draft.getByLabel('rehearsed over').selectOption('the last 7 days');
await draft.getByRole('button', { name: 'See what it would have done' }).click();
await draft.getByRole('figure', { name: 'alerts a week by threshold' }).waitFor({ timeout: 60_000 });
await shot(draft, 'rehearsal');
const grants = await open('/admin/grants#tove');
await grants.getByRole('row', { name: /^ticketing in every cluster/ }).waitFor();
await shot(grants, 'admin-grants');
const compared = await open('/usage?in=seaward/ticketing/deployment:booking-front&against=3h');
await drawn(compared);
await shot(compared, 'comparison');
const node = await open('/usage?in=seaward/node:seaward-03&of=memory');
await drawn(node);
await shot(node, 'nodes');
const developer = await open('/usage?in=seaward/node:seaward-07', { who: 'tove' });
await drawn(developer);
await shot(developer, 'developer');
const table = await open('/usage?in=seaward&as=table&sheet=closed');
await table.getByRole('link', { name: 'booking-front' }).waitFor();
await shot(table, 'table');
const map = await open('/map');
await map.getByRole('navigation', { name: 'links in trouble' }).getByRole('button').first().click();
await map.getByRole('complementary', { name: 'link' }).waitFor();
for (const course of ['requests', 'failed', '95 of 100 within'])
  await map.getByRole('img', { name: new RegExp(`^${course}: `) }).waitFor();
await map.getByLabel('links away').selectOption('0');
// drawn whole, the picked link is brought into sight again
const paper = '[aria-label="drawing of links"]';
await map.waitForFunction((at) => document.querySelector(at).parentElement.scrollTop > 0, paper);
await shot(map, 'map');
const records = await open('/usage?in=seaward/ticketing/deployment:booking-front&window=15m');
const told = records.getByRole('region', { name: 'Traces' });
await told.getByRole('list', { name: 'traces: slowest' }).getByRole('button').first().click();
await told.getByRole('list', { name: 'steps of the trace' }).waitFor();
await records.getByRole('region', { name: 'Log lines' }).getByRole('list', { name: 'log lines' }).waitFor();
await records
  .getByRole('region', { name: 'Log lines' })
  .evaluate((section) => section.scrollIntoView({ block: 'center' }));
await shot(records, 'records');
const pods = await open('/usage?in=seaward/tides/deployment:tide-model');
await pods.getByRole('listbox', { name: 'Pods' }).getByRole('option').first().click();
await pods.getByRole('region', { name: /^Its node .*: memory/ }).scrollIntoViewIfNeeded();
await shot(pods, 'pod');
const measure = encodeURIComponent(
  'read vital container.memory.working_set\n  total for each k8s_namespace_name\n  top 6\n',
);
const measures = await open(`/measures?in=seaward&window=6h&measure=${measure}`);
await measures.getByRole('table', { name: 'last values' }).waitFor();
await shot(measures, 'measures');
await browser.close();
