// Backup and restore: one file with the database and the keys that its secrets are encrypted with. Plain Node.js only.
import { spawnSync } from 'node:child_process';
import {
  chmodSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { postgresBin } from './machine.mjs';

const FORMAT = 1;
const KEYS = 'secret-keys.json';
const DUMP = 'database.dump';
const MANIFEST = 'zetopsis-backup.json';

/** The password goes by the environment: a command line can be seen by everybody on the machine. */
function surroundings(databaseUrl) {
  const url = new URL(databaseUrl);
  return {
    ...process.env,
    PGHOST: decodeURIComponent(url.hostname),
    PGPORT: url.port || '5432',
    PGUSER: decodeURIComponent(url.username),
    PGPASSWORD: decodeURIComponent(url.password),
    PGDATABASE: decodeURIComponent(url.pathname.slice(1)),
  };
}
function call(program, args, options = {}) {
  const own = postgresBin();
  const path = program.startsWith('p') && own !== null && existsSync(join(own, program)) ? join(own, program) : program;
  const done = spawnSync(path, args, { encoding: 'utf8', maxBuffer: 64 * 1024 * 1024, ...options });
  if (done.error) throw new Error(`${program} cannot be started: ${done.error.message}`);
  if (done.status !== 0) throw new Error(`${program} failed: ${done.stderr.trim().slice(0, 2000)}`);
  return done.stdout;
}
async function inFolder(beside, work) {
  const folder = mkdtempSync(join(beside, '.zetopsis-backup-'));
  try {
    return await work(folder);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/**
 * Writes the backup of a running or stopped installation: one moment of the database, whatever is written meanwhile.
 * The file holds the keys, so it is readable by its owner only.
 */
export async function backUp({ databaseUrl, dataDir, file }) {
  const keys = join(dataDir, KEYS);
  if (!existsSync(keys)) throw new Error(`${dataDir} holds no ${KEYS}: it is not the data folder of Zetopsis`);
  mkdirSync(dirname(resolve(file)), { recursive: true });
  await inFolder(dirname(resolve(file)), (folder) => {
    call('pg_dump', ['--format=custom', '--no-owner', '--file', join(folder, DUMP)], {
      env: surroundings(databaseUrl),
    });
    copyFileSync(keys, join(folder, KEYS));
    writeFileSync(join(folder, MANIFEST), JSON.stringify({ format: FORMAT, at: new Date().toISOString() }));
    const whole = join(folder, 'whole');
    call('tar', ['-cf', whole, '-C', folder, MANIFEST, KEYS, DUMP]);
    chmodSync(whole, 0o600);
    renameSync(whole, file); // either all of it or nothing
  });
}

/** Puts a backup into an empty database and a folder without other keys. The server must not run on them. */
export async function restore({ databaseUrl, dataDir, file }) {
  if (!existsSync(file)) throw new Error(`there is no file ${file}`);
  await inFolder(tmpdir(), (folder) => {
    try {
      call('tar', ['-xf', file, '-C', folder, MANIFEST, KEYS, DUMP]);
    } catch {
      throw new Error(`${basename(file)} is no backup of Zetopsis, or it is damaged`);
    }
    const { format } = JSON.parse(readFileSync(join(folder, MANIFEST), 'utf8'));
    if (format !== FORMAT) throw new Error(`the backup is of format ${format}, which this version does not read`);
    const own = join(dataDir, KEYS);
    if (existsSync(own) && readFileSync(own, 'utf8') !== readFileSync(join(folder, KEYS), 'utf8'))
      throw new Error(`${dataDir} holds the keys of another installation: name an empty folder`);
    const env = surroundings(databaseUrl);
    const tables = call('psql', ['-Atc', `select count(*) from pg_tables where schemaname = 'public'`], { env });
    if (tables.trim() !== '0') throw new Error('the database is not empty: make a new one for the restore');
    call(
      'pg_restore',
      ['--no-owner', '--exit-on-error', '--single-transaction', '--dbname', env.PGDATABASE, join(folder, DUMP)],
      {
        env,
      },
    );
    mkdirSync(dataDir, { recursive: true, mode: 0o700 });
    copyFileSync(join(folder, KEYS), own);
    chmodSync(own, 0o600);
  });
}

async function command([what, file]) {
  const databaseUrl = process.env.ZETOPSIS_DATABASE_URL;
  const dataDir = process.env.ZETOPSIS_DATA_DIR;
  if (!['backup', 'restore'].includes(what) || !file || !databaseUrl || !dataDir) {
    console.error(
      'npm run backup -- FILE, or npm run restore -- FILE; ZETOPSIS_DATABASE_URL and ZETOPSIS_DATA_DIR name the installation',
    );
    process.exit(2);
  }
  try {
    if (what === 'backup') await backUp({ databaseUrl, dataDir, file });
    else await restore({ databaseUrl, dataDir, file });
    console.log(
      what === 'backup' ? `written: ${file}. It holds the keys: keep it safe.` : 'restored; Zetopsis can be started.',
    );
  } catch (error) {
    console.error(error.message);
    process.exit(1);
  }
}
if (process.argv[1] === fileURLToPath(import.meta.url)) await command(process.argv.slice(2));
