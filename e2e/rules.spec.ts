import { expect, type Page, test } from '@playwright/test';
import { noSeriousTrouble, signIn, testState } from './state.ts';

const nameOf = (what: string) => `${what} ${test.info().workerIndex}-${test.info().repeatEachIndex}`;
async function removed(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'remove', exact: true }).click();
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByRole('table', { name: 'rules' })).toBeVisible();
}

test('from a chart to a rehearsed rule by pointer: a threshold is proposed, and it is kept', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/tides/deployment:tide-model&window=15m');
  await page.getByRole('link', { name: 'tell me when: a rule about the strip of memory' }).click();
  await expect(page.getByRole('heading', { name: 'A new rule' })).toBeVisible();
  const rehearsal = page.getByRole('region', { name: 'rehearsal' });
  const bound = page.getByLabel('warning above, %');
  await expect(async () => {
    // of a world that has only just begun nothing may be known yet
    if ((await bound.inputValue()) === '') await page.getByRole('button', { name: 'propose a threshold' }).click();
    await expect(rehearsal).toContainText('judged every', { timeout: 3000 });
  }).toPass({ timeout: 240_000 });
  await expect(bound).not.toHaveValue('');
  await noSeriousTrouble(page);
  await page.getByLabel('Name', { exact: true }).fill(nameOf('memory of the model'));
  await page.getByRole('button', { name: 'Add the rule' }).click();
  const rule = page.getByRole('article', { name: nameOf('memory of the model') });
  await expect(rule).toContainText('On trial: nobody is told yet.');
  const looked = rule.getByRole('region', { name: 'what it looks at' });
  await expect(looked.getByRole('link', { name: 'tide-model' })).toBeVisible();
  await expect(looked).toContainText('%');
  await noSeriousTrouble(page);
  await removed(page);
});

test('the same by keyboard alone', async ({ page }) => {
  await signIn(
    page,
    'maren',
    '/measures?window=15m&measure=read+vital+container.memory.working_set+total+for+each+k8s_namespace_name',
  );
  const tell = page.getByRole('link', { name: 'tell me when: a rule about this measure' });
  await tell.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'rehearsal' })).toContainText('judged every');
  await page.getByLabel('Name', { exact: true }).focus();
  await page.keyboard.type(nameOf('by key'));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('article', { name: nameOf('by key') })).toContainText('its measure is above');
  await page.getByRole('button', { name: 'remove', exact: true }).focus();
  await page.keyboard.press('Enter');
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('table', { name: 'rules' })).toBeVisible();
});

test('what is wrong with a rule is said at its field, and nothing of it is lost', async ({ page }) => {
  await signIn(page, 'maren', '/rules/new');
  await page.getByLabel('begin with').selectOption('a volume is nearly full');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('a volume is nearly full');
  await page.getByLabel('warning above, %').fill('99');
  await page.getByLabel('warning holds for').fill('a while');
  await page.getByRole('button', { name: 'Add the rule' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'write such as' })).toBeVisible();
  await page.getByLabel('warning holds for').fill('3 readings');
  await page.getByRole('button', { name: 'Add the rule' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'critical begins above where warning does' })).toBeVisible();
  await expect(page.getByLabel('warning above, %')).toHaveValue('99');
  await page.getByLabel('Measure: each of its lines is an object').fill('raed vital volume.usage');
  await page.getByRole('button', { name: 'See what it would have done' }).click();
  await expect(page.getByRole('alert').filter({ hasText: '“read”' })).toBeVisible();
});

test('a hush is planned from now on, and taken back', async ({ page }) => {
  await signIn(page, 'maren', '/rules');
  const hushes = page.getByRole('region', { name: 'hushes' });
  await hushes.getByRole('button', { name: 'plan one' }).click();
  const form = hushes.getByRole('form', { name: 'plan a hush' });
  await form.getByLabel('Reason').fill(nameOf('the lights are mended'));
  await form.getByLabel('For how long').fill('10 min');
  await form.getByLabel('In these namespaces').fill('no-such-place');
  await form.getByRole('button', { name: 'Plan the hush' }).click();
  const line = hushes.getByRole('listitem').filter({ hasText: nameOf('the lights are mended') });
  await expect(line).toContainText('quiet now');
  await noSeriousTrouble(page);
  await line.getByRole('button', { name: /^take back the hush/ }).click();
  await expect(line).toHaveCount(0);
});

test('a developer reads the platform’s rules and writes one for the own team', async ({ page }) => {
  await signIn(page, 'tove', '/rules');
  await page.getByRole('link', { name: 'memory of a container near its limit', exact: true }).click();
  await expect(page.getByRole('button', { name: 'change it' })).toHaveCount(0);
  await page.getByRole('link', { name: 'all rules' }).click();
  await page.getByRole('link', { name: 'write a rule' }).click();
  await expect(page.getByLabel('Whose rule')).toHaveValue('ferries');
  await page.getByLabel('begin with').selectOption('images, volumes or settings are missing');
  await page.getByLabel('Name', { exact: true }).fill(nameOf('ours'));
  await page.getByRole('button', { name: 'Add the rule' }).click();
  const rule = page.getByRole('article', { name: nameOf('ours') });
  await expect(rule).toContainText('of Ferries');
  await removed(page);
});

test('a stretch is marked on the tape by dragging, found, looked at against the time before, and removed', async ({
  page,
}) => {
  const title = nameOf('spring tide');
  await signIn(page, 'maren', '/usage?in=seaward/tides&window=30m');
  const tape = page.getByRole('region', { name: 'tape' });
  const drawing = tape.getByRole('img', { name: /^CPU use of tides/ });
  const box = (await drawing.boundingBox())!;
  await page.keyboard.down('Shift');
  await page.mouse.move(box.x + box.width * 0.6, box.y + 40);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.75, box.y + 40, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  const form = page.getByRole('form', { name: 'mark a stretch' });
  await expect(form).toContainText('seaward › tides');
  await noSeriousTrouble(page);
  await form.getByLabel('Title').fill(title);
  await form.getByLabel('Title').press('Enter');
  await expect(form).toBeHidden();
  const bar = tape.getByRole('button', { name: new RegExp(`^load: ${title}`) });
  await expect(bar).toBeVisible();
  await bar.press('Enter');
  await page.getByRole('button', { name: 'against the time before' }).click();
  await expect(page).toHaveURL(/against=/);
  await expect(page.getByRole('region', { name: 'Marked stretches' })).toContainText(title);
  await page.keyboard.press('/');
  await page.getByPlaceholder('a name, a place').fill(title);
  await expect(page.getByRole('option', { name: new RegExp(title) })).toBeVisible();
  await page.keyboard.press('Escape');
  await bar.press('Enter');
  await page.getByRole('button', { name: 'remove the mark' }).click();
  await expect(bar).toBeHidden();
});

test('from a finding to a draft about it, and what it would have done', async ({ page }) => {
  await signIn(page, 'maren', '/usage?in=seaward/manifests/deployment:declaration-checker&window=15m');
  await page
    .getByRole('listitem')
    .getByRole('link', { name: /^tell me when: a rule about (?!the event)/ })
    .first()
    .click();
  await expect(page.getByLabel('When', { exact: true })).toHaveValue('finding');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue(/^declaration-checker: /);
  await page.getByLabel('rehearsed over').selectOption({ label: 'the last 6 h' });
  await page.getByRole('button', { name: 'See what it would have done' }).click();
  await expect(page.getByRole('region', { name: 'rehearsal' })).toContainText(
    'worked out anew at each of these moments',
  );
  await noSeriousTrouble(page);
});

test('a rule that was loud for nothing is made quieter from what is suggested', async ({ page }) => {
  const { address } = testState();
  await signIn(page, 'maren', '/rules');
  const name = nameOf('who is missing');
  const expecting = (...names: string[]) => ({
    name,
    when: { is: 'expected', kinds: ['deployment'], names },
    applies: { clusters: ['seaward'], namespaces: ['tides'] },
    levels: { warning: {} },
  });
  const missing = Array.from({ length: 6 }, (_, i) => `no-such-${i}`);
  const made = await page.request.post(`${address}/api/rules`, { data: expecting(...missing) });
  expect(made.status()).toBe(201);
  const { key } = await made.json();
  await page.goto(`${address}/rules/${key}`);
  const rule = page.getByRole('article', { name });
  await expect(rule.getByRole('link', { name: 'no-such-5' }).first()).toBeVisible();
  const noiseOfIt = async () => {
    const { rules } = await (await page.request.get(`${address}/api/noise`)).json();
    return rules.find((own: { key: string }) => own.key === key);
  };
  await expect.poll(async () => (await noiseOfIt())?.raised).toBe(missing.length);
  // nobody expects them any more: all of it is over within minutes
  const changed = await page.request.put(`${address}/api/rules/${key}`, { data: expecting('tide-model') });
  expect(changed.status()).toBe(204);
  await expect.poll(async () => (await noiseOfIt())?.suggestion?.is).toBe('hold longer');
  await page.goto(`${address}/rules`);
  const noise = page.getByRole('region', { name: 'noise' });
  await noise.getByRole('link', { name: new RegExp(`^draft for ${name}: held for`) }).click();
  await expect(page.getByLabel('warning holds for')).toHaveValue(/min/);
  await noSeriousTrouble(page);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('button', { name: 'change it' })).toBeVisible();
  const { rule: saved } = await (await page.request.get(`${address}/api/rules/${key}`)).json();
  expect(saved.document.levels.warning.holdsSeconds).toBeGreaterThan(0);
  await removed(page);
});
