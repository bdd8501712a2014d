// npm run findings -- FOLDER: what would be found of clusters that stand as the JSON files of a folder say (docs/guide.md, "Why was
// that found?"), through the code that the server finds with. One JSON line a finding; a file that cannot be read ends with 1.
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureDependencies } from './machine.mjs';

// no database is needed for it
ensureDependencies();
ensureBuild();
const { findingsOfFixture } = await import('../packages/answers/dist/fixture/index.js');

const folder = process.argv[2];
if (!folder) {
  console.error('npm run findings -- FOLDER: which folder is missing');
  process.exit(1);
}
let failed = 0;
for (const file of readdirSync(folder)
  .filter((name) => name.endsWith('.json'))
  .sort()) {
  try {
    const fixture = JSON.parse(readFileSync(join(folder, file), 'utf8'));
    for (const finding of findingsOfFixture(fixture)) console.log(JSON.stringify({ file, ...finding }));
  } catch (error) {
    failed++;
    const issues = error?.issues?.map(({ path, message }) => `${path.join('.')}: ${message}`).join('; ');
    console.error(`${file}: ${issues ?? error.message}`);
  }
}
process.exit(failed === 0 ? 0 : 1);
