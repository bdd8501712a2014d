// node scripts/built.mjs FILE [ARGUMENTS]: sets the machine up and builds, then runs what needs both before its first line.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuild, ensureDependencies, ensurePostgres, root } from './machine.mjs';

ensurePostgres();
ensureDependencies();
ensureBuild();
const [file, ...given] = process.argv.slice(2);
process.exit(spawnSync(process.execPath, [join(root, file), ...given], { stdio: 'inherit' }).status ?? 1);
