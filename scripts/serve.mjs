// npm run serve: the product alone, without demo data, against the PostgreSQL its environment names.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuild, ensureDependencies, root } from './machine.mjs';

try {
  ensureDependencies();
  ensureBuild();
} catch (error) {
  console.error(error.message);
  process.exit(1);
}
const child = spawn(process.execPath, [join(root, 'apps/server/dist/main.js')], { stdio: 'inherit' });
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => child.kill(signal));
child.once('exit', (code) => process.exit(code ?? 1));
