// npm test: sets the machine up and runs every check and test; the last line counts them.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureChromium, ensureDependencies, ensurePostgres, root, say } from './machine.mjs';

const results = join(root, '.tsc', 'results');
let passed = 0;
let failed = 0;

async function step(name, command, args, env = {}, stdio = 'inherit') {
  say(name);
  const began = Date.now();
  const child = spawn(command, args, { cwd: root, stdio: ['ignore', stdio, stdio], env: { ...process.env, ...env } });
  const printed = [];
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (part) => printed.push(part));
  const [status] = await once(child, 'close');
  process.stdout.write(Buffer.concat(printed));
  console.log(`  ${status === 0 ? 'fine' : 'FAILED'}: ${name}, ${Math.round((Date.now() - began) / 1000)} s`);
  return status === 0;
}
/** A check is one test: it passes or fails as a whole. What it prints stands together, though others run beside it. */
async function check(name, command, args) {
  if (await step(name, command, args, {}, 'pipe')) passed++;
  else failed++;
}
/** A test runner tells how many passed and failed in its report; one that leaves no report has failed. */
async function tests(name, command, args, env, count) {
  const fine = await step(name, command, args, env);
  try {
    const [good, bad] = count();
    passed += good;
    failed += bad;
    if (!fine && bad === 0) failed++;
  } catch {
    failed++;
  }
}
const flakyIn = (suites) =>
  suites.flatMap(({ specs = [], suites: inner = [] }) => [
    ...specs.filter(({ tests }) => tests.some(({ status }) => status === 'flaky')).map(({ title }) => title),
    ...flakyIn(inner),
  ]);
const bin = (name) => join(root, 'node_modules', '.bin', name);
const node = process.execPath;

try {
  ensurePostgres();
  ensureChromium();
  ensureDependencies();
  rmSync(results, { recursive: true, force: true });
  mkdirSync(results, { recursive: true });

  await check('types', node, ['node_modules/typescript7/bin/tsc', '-b']);
  const places = ['packages', 'apps/server/src', 'apps/web/src', 'apps/standin/src'];
  const checks = [
    check('lint and format', bin('biome'), ['check', '.', '--error-on-warnings', '--max-diagnostics=40']),
    check('arrows between packages', bin('depcruise'), [...places, '--output-type', 'err']),
    check('nothing unused', bin('knip'), []),
    check('lengths of files, files that pages name', node, ['scripts/house.mjs']),
  ];
  ensureBuild();
  await Promise.all(checks);

  const report = join(results, 'vitest.json');
  await tests(
    'unit and integration tests',
    bin('vitest'),
    ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${report}`],
    {},
    () => {
      const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(report, 'utf8'));
      return [numPassedTests, numFailedTests];
    },
  );
  const browser = join(results, 'browser.json');
  await tests('browser tests', bin('playwright'), ['test'], { PLAYWRIGHT_JSON_OUTPUT_NAME: browser }, () => {
    const { stats, suites } = JSON.parse(readFileSync(browser, 'utf8'));
    for (const title of flakyIn(suites)) console.log(`  passed only when it was tried again: ${title}`);
    return [stats.expected + stats.flaky, stats.unexpected];
  });
} catch (error) {
  console.error(error.message);
  failed++;
}
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
