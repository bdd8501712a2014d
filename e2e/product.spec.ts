import { expect, type Page, test } from '@playwright/test';
import { noSeriousTrouble, post, signIn, testState } from './state.ts';

const { address, world } = testState();

async function changeRule(page: Page, name: string, values: Record<string, string>): Promise<void> {
  await page.goto(`${address}/rules`);
  await page.getByRole('link', { name, exact: true }).click();
  await page.getByRole('button', { name: 'change it' }).click();
  const form = page.getByRole('form', { name: 'change the rule' });
  for (const [label, value] of Object.entries(values)) await form.getByLabel(label).fill(value);
  await form.getByRole('button', { name: 'Save' }).click();
  await expect(form).toHaveCount(0);
}

test('sign in: the page lists the demo’s people, refuses a wrong password, and leads where the link points', async ({
  page,
}) => {
  await page.goto(`${address}/sources?in=seaward`);
  await expect(page.getByRole('button', { name: 'sign in as tove' })).toBeVisible();
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('alert').first()).toHaveText('who are you?');
  await page.getByLabel('Name').fill('maren');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('do not fit together');
  await expect(page.getByLabel('Name')).toHaveValue('maren');
  await page.getByLabel('Password').fill(testState().password);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Clusters' })).toBeVisible();
  expect(page.url()).toContain('/sources?in=seaward');
  await page.getByRole('button', { name: 'maren' }).click();
  await page.getByRole('menuitem', { name: 'sign out' }).click();
  await expect(page.getByRole('button', { name: 'Sign in', exact: true })).toBeVisible();
});

test('drill by keyboard from cluster to container, with the sheet', async ({ page }) => {
  await signIn(page, 'tove', '/now');
  await page.getByRole('heading', { name: 'Needs you' }).waitFor();
  await page.keyboard.press('2');
  await expect(page.getByRole('listbox', { name: 'Clusters' })).toBeVisible();
  await page.keyboard.press('j');
  const clusters = page.getByRole('listbox', { name: 'Clusters' }).getByRole('option');
  await expect(clusters.first()).toHaveAttribute('aria-selected', 'true');
  const cluster = await clusters.first().getAttribute('title');
  await page.getByRole('listbox', { name: 'Namespaces' }).getByRole('option').first().waitFor();
  await page.keyboard.press('ArrowRight');
  const namespaces = page.getByRole('listbox', { name: 'Namespaces' }).getByRole('option');
  await expect(namespaces.first()).toHaveAttribute('aria-selected', 'true');
  const second = await namespaces.nth(1).getAttribute('title');
  await page.keyboard.press('j');
  await expect(namespaces.nth(1)).toHaveAttribute('aria-selected', 'true');
  for (const column of ['Workloads', 'Pods', 'Containers']) {
    await page.getByRole('listbox', { name: column }).getByRole('option').first().waitFor();
    await page.keyboard.press('l');
    await expect(page.getByRole('listbox', { name: column }).getByRole('option', { selected: true })).toHaveCount(1);
  }
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toContainText('container');
  expect(page.url()).toContain(`in=${cluster}/${second}/`);
  await page.keyboard.press('m');
  await expect(page.getByRole('combobox', { name: 'resource' })).toHaveValue('memory');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toHaveCount(0);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toBeVisible();
  await page.keyboard.press('h');
  await expect(page.getByRole('listbox', { name: 'Pods' }).getByRole('option', { selected: true })).toBeFocused();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
});

test('a new pod appears without reload, and its use is read', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/pilotage/deployment:pilot-roster');
  const pods = page.getByRole('listbox', { name: 'Pods' }).getByRole('option');
  await expect(pods).toHaveCount(2);
  await post(`${world.control}/scale?namespace=pilotage&name=pilot-roster&replicas=3`);
  await expect(pods).toHaveCount(3);
  await expect(page.getByRole('option', { name: /^pilot-roster\. CPU.*3 of 3 ready/ })).toBeVisible();
  await expect(pods.filter({ hasText: /not read/ })).toHaveCount(0);
  await post(`${world.control}/scale?namespace=pilotage&name=pilot-roster&replicas=2`);
  await expect(page.getByRole('option', { name: /^pilot-roster-.*gone, last there \d\d:\d\d/ })).toBeVisible();
});

test('the rollout that fails stands on Now with its reason, and the link leads to the cause', async ({ page }) => {
  await signIn(page, 'maren', '/rules');
  await changeRule(page, 'a workload has fewer ready pods than desired', {
    'warning holds for': '2 s',
    'critical holds for': '2 s',
    'clear after': '2 s',
  });
  await page.getByRole('link', { name: 'Now' }).click();
  const alert = page.getByRole('listitem').filter({ hasText: 'declaration-checker: 2 of 5 pods not ready' });
  await expect(alert).toContainText(
    'declaration-checker:2.9.l of container declaration-checker cannot be pulled: the registry does not know it. The 3 old pods still serve.',
  );
  await expect(alert).toContainText('2.9.0 → 2.9.l');
  await expect(alert).toContainText('told customs@skerrivale.test');
  await noSeriousTrouble(page);
  await alert.getByRole('link').click();
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toContainText('Failed to pull image');
  await expect(page.getByRole('listbox', { name: 'Pods' }).getByRole('option', { name: /warning: Image/ })).toHaveCount(
    2,
  );
  await noSeriousTrouble(page);
});

test('the leak is told by email before the end, with a link that shows it, and told again when it is over', async ({
  page,
}) => {
  await signIn(page, 'maren', '/rules');
  await changeRule(page, 'memory of a container near its limit', {
    'warning holds for': '1 s',
    'clear after': '1 s',
  });
  await noSeriousTrouble(page);
  const mail = await page.context().newPage();
  await expect(async () => {
    await mail.goto(world.mailPage);
    await expect(mail.getByRole('link', { name: /^Clear again: tide-model/ }).first()).toBeVisible({ timeout: 500 });
  }).toPass({ timeout: 240_000 });
  await mail
    .getByRole('link', { name: /^Warning: tide-model uses (9\d|100) % of its memory limit/ })
    .first()
    .click();
  await expect(mail.locator('pre').last()).toContainText('├█');
  const link = /See it at that moment: (\S+)/.exec((await mail.locator('pre').last().textContent()) ?? '')?.[1] ?? '';
  await page.goto(link);
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toContainText('tide-model');
  await expect(page.getByTestId('window')).not.toContainText('now');
  await expect(page.getByRole('region', { name: 'Memory, working set' })).toContainText('limit');
});

test('connecting: tested before it is saved, pasted blanks said, bad input kept and explained, removed again', async ({
  page,
}) => {
  await signIn(page, 'maren', '/sources');
  await page.getByRole('button', { name: 'connect a cluster' }).click();
  const form = page.getByRole('complementary', { name: 'connect a cluster' });
  await form.getByLabel('Name').fill('Not Good');
  await form.getByLabel('Address of its API').fill(`  ${world.clusters[0]!.address}`);
  await form.getByLabel('Token', { exact: true }).fill(`${world.clusters[0]!.narrowToken}\n`);
  await form.getByLabel(/^Certificate authority/).fill(world.clusters[0]!.authority);
  await form.getByRole('button', { name: 'Connect', exact: true }).click();
  await expect(form.getByRole('alert')).toContainText('small letters, digits and dashes');
  await expect(form.getByLabel('Name')).toHaveValue('Not Good');
  await form.getByLabel('Name').fill('quayside');
  await form.getByRole('button', { name: 'Test' }).click();
  const result = form.getByRole('status', { name: 'result of the test' });
  await expect(result).toContainText('It can be read in part');
  await expect(result.getByRole('row', { name: /^events not allowed/ })).toContainText('forbidden');
  await expect(form).toContainText('Blanks around or inside the address and the token were left out.');
  await form.getByRole('button', { name: 'Connect', exact: true }).click();
  const cluster = page.getByRole('article', { name: 'quayside' });
  await expect(cluster).toContainText('partly reading');
  await expect(cluster).toContainText('Not read: daemon sets, events');
  await cluster.getByRole('button', { name: 'change or remove' }).click();
  await page.getByRole('button', { name: 'remove', exact: true }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove with everything read' }).click();
  await expect(cluster).toHaveCount(0);
});

test('the window: presets, steps, dragging, and a past that stands still; scope by type-ahead', async ({ page }) => {
  await signIn(page, 'lund', '/usage?in=seaward');
  await page.getByLabel('length of the window').selectOption({ label: '1 h' });
  await expect(page.getByTestId('window')).toContainText('now, 1 h');
  await page.keyboard.press('[');
  await expect(page.getByTestId('window')).not.toContainText('now');
  expect(page.url()).toMatch(/from=\d+&to=\d+/);
  await page.keyboard.press('0');
  await expect(page.getByTestId('window')).toContainText('now');
  const tape = page.getByRole('img', { name: /^CPU use of/ });
  const box = (await tape.boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + 420, box.y + 40, { steps: 4 });
  await page.mouse.up();
  await expect(page).toHaveURL(/from=\d+&to=\d+/);
  await page.getByRole('button', { name: 'now', exact: true }).click();
  await page.getByRole('button', { name: 'namespace: any namespace' }).click();
  await page.getByRole('combobox', { name: 'choose a namespace' }).fill('crew');
  await expect(page.getByRole('dialog').getByRole('option', { name: 'crew-rota' })).toHaveAttribute(
    'data-selected',
    'true',
  );
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/in=seaward\/crew-rota/);
  await expect(page.getByRole('option', { name: /^rota-service\./ })).toBeVisible();
});

test('a reader sees what an administrator may change, and is told so', async ({ page }) => {
  await signIn(page, 'lund', '/rules');
  await expect(page.getByText('Rules are written by administrators, and by members of a team')).toBeVisible();
  await page.getByRole('link', { name: 'memory of a container near its limit', exact: true }).click();
  await expect(page.getByRole('region', { name: 'what it looks at' })).toBeVisible();
  await expect(page.getByRole('button', { name: /change it|remove|judge/ })).toHaveCount(0);
  await page.getByRole('link', { name: 'Sources' }).click();
  await expect(page.getByText('Connecting clusters is for administrators')).toBeVisible();
  await page.goto(`${address}/usage?in=seaward/no-such-thing`);
  await expect(page.getByRole('complementary', { name: 'object sheet' })).toContainText(
    'Nothing of this name was there',
  );
  await page.goto(`${address}/nowhere`);
  await expect(page.getByText('There is no such place')).toBeVisible();
});
