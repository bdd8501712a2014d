import { expect, test } from '@playwright/test';
import { noSeriousTrouble, post, signIn, testState } from './state.ts';

test('Endpoints: each kind of failure is told before anything counts; then added, paused, resumed, retired, restored', async ({
  page,
}) => {
  const { programs } = testState().world;
  await signIn(page, 'maren', '/sources/endpoints');
  await page.getByRole('button', { name: 'add by address' }).click();
  const form = page.getByRole('complementary', { name: 'add an endpoint' });
  const result = page.getByRole('status', { name: 'result of the try' });
  const attempt = async (address: string, says: RegExp) => {
    await form.getByLabel('Address').fill(address);
    await form.getByRole('button', { name: 'Try it' }).click();
    await expect(result).toContainText(says);
  };
  await attempt('http://127.0.0.1:9/metrics', /nothing listens on port 9/);
  await attempt('http://no-such-name.test/metrics', /no-such-name\.test cannot be resolved/);
  await form.getByLabel('Wait at most, s').fill('1');
  await attempt(`${programs.plain}/hang`, /No answer within 1 s/);
  // the others answer, however long a busy machine takes
  await form.getByLabel('Wait at most, s').fill('10');
  await attempt(`${programs.tls}/metrics`, /authority that is not known/);
  await attempt(`${programs.plain}/basic`, /\(401\)/);
  await attempt(`${programs.plain}/forbidden`, /\(403\)/);
  await attempt(`${programs.plain}/nowhere`, /\(404\)/);
  await attempt(`${programs.plain}/redirect`, /redirects elsewhere/);
  await attempt(`${programs.plain}/`, /of type text\/html.*links to \/metrics/);
  await attempt(`${programs.plain}/torn`, /refused/);
  await attempt(`${programs.plain}/some-bad-lines`, /It can be read\..*2 lines could not be understood/);
  await form.getByLabel('Attach labels, one a line').fill('quay: south');
  await attempt(`${programs.plain}/metrics`, /lamp_turns_total · quay south = \d+/);
  await noSeriousTrouble(page);

  await form.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(form.getByText('a name is 1 to 60 small letters')).toBeVisible();
  await form.getByLabel('Name', { exact: true }).fill('south-light');
  await form.getByLabel('Wait at most, s').fill('1');
  await form.getByLabel('Every, seconds').fill('1');
  await form.getByRole('button', { name: 'Add', exact: true }).click();
  const row = page.getByRole('row', { name: /^south-light/ });
  await expect(row).toContainText(/south-light\s*read/);

  await row.getByRole('button', { name: 'south-light' }).click();
  const sheet = page.getByRole('complementary', { name: 'endpoint south-light' });
  await expect(sheet.getByText('As it came')).toBeVisible();
  await sheet.getByRole('tab', { name: 'Metrics' }).click();
  await sheet.getByLabel('find a metric').fill('lamp_turns_total');
  await expect(sheet.getByText('It is read: 1 series.')).toBeVisible();
  await sheet.getByLabel('find a metric').fill('lamp_colour');
  await expect(sheet.getByText(/was ever read from here/)).toBeVisible();
  await sheet.getByRole('button', { name: 'pause' }).click();
  await expect(row).toContainText('paused');
  await sheet.getByRole('tab', { name: 'Readings' }).click();
  await expect(sheet.getByText(/until now\s*planned: Paused\./)).toBeVisible();
  await sheet.getByRole('button', { name: 'resume' }).click();
  await expect(row).toContainText(/south-light\s*read/);
  await sheet.getByRole('button', { name: 'retire' }).click();
  await expect(page.getByRole('alertdialog')).toContainText('4 series of 3 metrics end');
  await page.getByRole('button', { name: 'Retire it' }).click();
  await expect(sheet.getByRole('button', { name: 'restore' })).toBeVisible();
  await sheet.getByRole('button', { name: 'restore' }).click();
  await expect(row).toContainText(/south-light\s*read/);
  await sheet.getByRole('tab', { name: 'Metrics' }).click();
  await sheet.getByLabel('find a metric').fill('lamp_turns_total');
  await sheet.getByRole('button', { name: 'lamp_turns_total' }).click();
  await expect(sheet.getByRole('list', { name: 'series of lamp_turns_total' })).toContainText(/quay south.*\+\d+ in/);
  // nothing of it is left for the tests after this one
  await sheet.getByRole('button', { name: 'retire' }).click();
  await page.getByRole('button', { name: 'Retire it' }).click();
  await expect(row).toHaveCount(0);
  await sheet.getByRole('button', { name: 'remove for good' }).click();
  await expect(page.getByRole('alertdialog')).toContainText('deleted with it');
  await page.getByRole('button', { name: 'Remove it and its history' }).click();
  await expect(sheet).toHaveCount(0);
  await page.getByLabel('state').selectOption('retired');
  await expect(row).toHaveCount(0);
});

test('Scouts: previewed with reasons and with what would change; pages of another are theirs once somebody moves them', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources/scouts');
  await page.getByRole('button', { name: 'make a scout' }).click();
  const form = page.getByRole('complementary', { name: 'make a scout' });
  await form.getByLabel('Name', { exact: true }).fill('booking');
  await form.getByLabel('in namespaces').fill('ticketing');
  await form.getByLabel('With labels, one a line').fill('app: booking-front');
  await form.getByLabel('Ports').fill('pages');
  await form.getByLabel('Read', { exact: true }).selectOption('through the cluster');
  await form.getByLabel('Attach labels, one a line').fill('app: {colour}');
  await form.getByRole('button', { name: 'Preview' }).click();
  await expect(form.getByText(/\{colour\} is not known/).first()).toBeVisible();
  await form.getByLabel('Attach labels, one a line').fill('app: {label.app}');
  await form.getByRole('button', { name: 'Preview' }).click();
  const preview = page.getByRole('status', { name: 'preview' });
  await expect(preview).toContainText(/pod ticketing\/booking-front-\S+ :9102\/metrics/);
  await expect(preview).toContainText('app booking-front');
  await expect(preview).toContainText(/its app is “seat-ledger”, not “booking-front”/);
  await expect(preview.getByRole('list', { name: 'what would change' })).toContainText(
    /pages? \(\d+ series\) (is|are) read for scout pods-that-say/,
  );
  await noSeriousTrouble(page);
  await form.getByRole('button', { name: 'Make it' }).click();
  const card = page.getByRole('article', { name: 'booking' });
  await expect(card).toContainText(/pages? found/);
  const rowBy = (scout: string) =>
    page.getByRole('row', { name: new RegExp(`booking-front\\S* :9102/metrics .*by scout ${scout}.* read`) }).first();
  const look = async (scout: string) => {
    await page.getByRole('link', { name: 'Endpoints', exact: true }).click();
    await page.getByLabel('find an endpoint').fill('booking-front');
    await expect(rowBy(scout)).toBeVisible();
    await page.getByRole('link', { name: 'Scouts' }).click();
  };
  await expect(card).toContainText(/of these (is|are) read for scout pods-that-say/);
  await look('pods-that-say');
  await card.getByRole('button', { name: 'move them here' }).click();
  await expect(page.getByRole('alertdialog')).toContainText('what was read is kept');
  await page.getByRole('button', { name: 'Move them' }).click();
  await expect(card.getByRole('button', { name: 'move them here' })).toHaveCount(0);
  await look('booking');
  await card.getByRole('button', { name: 'look or change' }).click();
  const scout = page.getByRole('complementary', { name: 'scout booking' });
  await scout.getByRole('button', { name: 'remove', exact: true }).click();
  await expect(page.getByRole('alertdialog')).toContainText(
    /pages? (is|are) found by scout pods-that-say, too, and read on/,
  );
  await page.getByRole('button', { name: 'Remove it' }).click();
  await expect(card).toHaveCount(0);
  await look('pods-that-say');
});

test('Connect: what one has is looked for; the account asks for what is read, in the grade that is chosen', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources/connect');
  await page.getByLabel('find a kind of source').fill('nightly script');
  await page.getByRole('button', { name: 'nightly job or script' }).click();
  await expect(page.getByRole('link', { name: 'make a push key' })).toBeVisible();
  await page.getByLabel('find a kind of source').fill('no such thing');
  await expect(page.getByText(/Nothing of that name/)).toBeVisible();
  await page.getByText('a cluster', { exact: true }).click();
  const manifest = page.getByRole('figure', { name: 'the account, reader.yaml' });
  await expect(manifest).toContainText('pods/log');
  await expect(manifest).not.toContainText('secrets');
  await page.getByLabel('objects, events and figures of nodes and containers').check();
  await expect(manifest).not.toContainText('pods/log');
  await page.getByLabel(/also when secrets change/).check();
  await expect(manifest).toContainText('secrets');
  await page.getByLabel('The cluster is').selectOption('managed by a provider');
  await expect(page.getByText(/in the provider’s console/)).toBeVisible();
  await noSeriousTrouble(page);
});

test('Coverage: a page that breaks is named with what is behind it, leads to the endpoint, and is gone once mended', async ({
  page,
}) => {
  const { control } = testState().world;
  await signIn(page, 'maren', '/sources/coverage?in=seaward');
  await expect(page.getByText(/running containers read \(100 %\)/)).toBeVisible();
  await post(`${control}/break?node=seaward-04&how=refuse`);
  const row = page.getByRole('article', { name: 'seaward-04' });
  await expect(row).toContainText(/containers on it cannot be seen either/);
  await row.getByRole('link', { name: 'look at the endpoint' }).click();
  await expect(page.getByRole('complementary', { name: 'endpoint seaward › seaward-04' })).toContainText(/failing/i);
  await post(`${control}/break?node=seaward-04&how=`);
  await page.getByRole('link', { name: 'Coverage' }).click();
  await expect(page.getByText(/running containers read \(100 %\)/)).toBeVisible();
  await expect(row).toHaveCount(0);
});

test('Vitals: a cluster with other names is one gap, whose step leads to a proposal that is tried, saved and mends it', async ({
  page,
}) => {
  const { control } = testState().world;
  await post(`${control}/dialect?cluster=slipway&speaks=other`);
  await signIn(page, 'maren', '/sources/coverage?in=slipway');
  const row = page.getByRole('article', { name: 'slipway', exact: true });
  try {
    // what was read under the names from before has ended by then
    await expect(row).toContainText(/nothing in them is called as container\.cpu\.time/);
    await row.getByRole('link', { name: 'map its vitals' }).click();
    await expect(page.getByLabel('whose vitals')).toHaveValue('slipway');
    await page.getByRole('button', { name: /^try all/ }).click();
    await expect(
      page.getByRole('row', { name: /container\.memory\.working_set box_mem_working_kib .*1,?024 all \d+ containers/ }),
    ).toBeVisible();
    await noSeriousTrouble(page);
    await page.getByRole('button', { name: 'Save the mapping' }).click();
    await expect(page.getByRole('button', { name: 'Save the mapping' })).toHaveCount(0);
    await page.getByRole('link', { name: 'Coverage' }).click();
    await expect(page.getByText(/running containers read \(100 %\)/)).toBeVisible();
    await expect(row).toHaveCount(0);
  } finally {
    await post(`${control}/dialect?cluster=slipway&speaks=own`);
    await page.goto(`${testState().address}/admin/revisions`);
  }
  await page
    .getByRole('region', { name: 'revisions' })
    .getByRole('button', { name: /mapped the vitals of slipway/ })
    .click();
  await page
    .getByRole('button', { name: /^take (it|this) back|undo/i })
    .first()
    .click();
});

test('a reader sees the endpoints and coverage, and nothing that would change them', async ({ page }) => {
  await signIn(page, 'idris', '/sources/endpoints');
  await expect(page.getByRole('row', { name: /seaward › seaward-01/ })).toBeVisible();
  await expect(page.getByRole('button', { name: 'add by address' })).toHaveCount(0);
  await expect(page.getByRole('link', { name: 'Scouts' })).toHaveCount(0);
  await page.getByRole('link', { name: 'Series census' }).click();
  await expect(page.getByRole('region', { name: 'by metric' })).toContainText('container_cpu_time_seconds_total');
  await expect(page.getByRole('form', { name: 'preview what to leave out' })).toHaveCount(0);
});
