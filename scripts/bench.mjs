// npm run bench [-- NAME]: each benchmark prints a ratio against a baseline measured in the same run.
import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureDependencies, root } from './machine.mjs';

ensureDependencies();
ensureBuild();
const all = readdirSync(join(root, 'bench'))
  .filter(
    (file) =>
      ![
        'measure.mjs',
        'database.mjs',
        'mixed.mjs',
        'outside.mjs',
        'product.mjs',
        'pushAll.mjs',
        'loopWatch.mjs',
        'mapWorld.mjs',
      ].includes(file),
  )
  .map((file) => file.replace('.mjs', ''));
const wanted = process.argv[2];
if (wanted !== undefined && !all.includes(wanted)) {
  console.error(`no benchmark ${wanted}; there are ${all.join(', ')}`);
  process.exit(2);
}
for (const name of wanted === undefined ? all : [wanted])
  spawnSync(process.execPath, [join(root, 'bench', `${name}.mjs`), ...process.argv.slice(3)], { stdio: 'inherit' });
