// What the machine needs before anything can run: Debian's packages, the npm packages, the build. Plain Node.js only.
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { HEADLESS, WHOLE } from './chromium.mjs';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));
export const stateDir = join(root, '.zetopsis');

export function say(text) {
  console.log(`· ${text}`);
}

function run(command, args, options = {}) {
  const done = spawnSync(command, args, { cwd: root, stdio: ['ignore', 'inherit', 'inherit'], ...options });
  if (done.error) throw done.error;
  if (done.status !== 0) throw new Error(`${command} ${args.join(' ')} ended with code ${done.status}`);
}

export function postgresBin() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base)
    ? readdirSync(base).filter((name) => existsSync(join(base, name, 'bin', 'initdb')))
    : [];
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0];
  return newest === undefined ? null : join(base, newest, 'bin');
}

function installPackages(names, what) {
  const isRoot = process.getuid?.() === 0;
  const prefix = isRoot ? [] : ['sudo', '-n'];
  if (!isRoot && spawnSync('sudo', ['-n', 'true'], { stdio: 'ignore' }).status !== 0) {
    throw new Error(
      `${what} is missing and this account may not install it. Run once as root: apt-get install ${names.join(' ')}`,
    );
  }
  say(`installing ${what} from Debian's packages`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const quiet = { env, stdio: ['ignore', 'ignore', 'inherit'] };
  const call = (...args) => run([...prefix, ...args][0], [...prefix, ...args].slice(1), quiet);
  call('apt-get', 'update', '-q');
  call('apt-get', 'install', '-y', '-q', '--no-install-recommends', '-o', 'Dpkg::Options::=--force-confold', ...names);
}

export function ensurePostgres() {
  if (postgresBin() !== null) return;
  // a server of our own is started in the project's folder; Debian's ready-made one is not wanted
  const settings = '/etc/postgresql-common/createcluster.conf';
  if (process.getuid?.() === 0 && !existsSync(settings)) {
    mkdirSync(dirname(settings), { recursive: true });
    writeFileSync(settings, 'create_main_cluster = false\n');
  }
  installPackages(['postgresql'], 'PostgreSQL');
  if (postgresBin() === null)
    throw new Error('PostgreSQL was installed but its programs are not under /usr/lib/postgresql');
}

export function ensureChromium() {
  if (existsSync(HEADLESS)) return;
  try {
    installPackages(['chromium-headless-shell'], 'Chromium');
  } catch (error) {
    // the whole browser does it too, slower
    if (!existsSync(WHOLE)) installPackages(['chromium'], 'Chromium');
    else say(`${error.message}: going on with ${WHOLE}`);
  }
}

const digestOf = (text) => createHash('sha256').update(text).digest('hex');

export function ensureDependencies() {
  const lock = digestOf(readFileSync(join(root, 'package-lock.json')));
  const stamp = join(root, 'node_modules', '.zetopsis-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  say('installing npm packages (about two minutes the first time)');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(stamp, lock);
}

function* filesUnder(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', 'dist-types', 'dist-test'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesUnder(path);
    else yield path;
  }
}

/** Builds what changed since the last build; answers whether anything had to be done. */
export function ensureBuild() {
  const files = ['packages', 'apps'].flatMap((folder) => [...filesUnder(join(root, folder))]);
  const seen = files.map((file) => `${file} ${statSync(file).mtimeMs} ${statSync(file).size}`).join('\n');
  const stamp = join(root, 'apps', 'web', 'dist', '.built');
  const digest = digestOf(seen);
  const outputs = ['apps/server/dist/main.js', 'apps/standin/dist/main.js', 'apps/web/dist/index.html'];
  if (
    outputs.every((file) => existsSync(join(root, file))) &&
    existsSync(stamp) &&
    readFileSync(stamp, 'utf8') === digest
  )
    return false;
  say('building');
  const projects = ['packages/core', 'packages/contract', 'apps/server', 'apps/standin', 'apps/web'];
  execFileSync(process.execPath, ['node_modules/typescript7/bin/tsc', '-b', ...projects], {
    cwd: root,
    stdio: 'inherit',
  });
  run('npm', ['run', '--silent', 'build', '-w', 'apps/web', '--', '--logLevel', 'warn']);
  writeFileSync(stamp, digest);
  return true;
}
