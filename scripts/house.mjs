// What the rules of the house say that no other tool looks at: no file is too long, and pages name only files that exist.
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { root } from './machine.mjs';

const LONGEST = 350; // lines, outside tests
const files = execFileSync('git', ['ls-files', '--cached', '--others', '--exclude-standard'], {
  cwd: root,
  encoding: 'utf8',
})
  .split('\n')
  .filter((file) => file !== '' && existsSync(join(root, file)));
const wrong = [];
for (const file of files.filter((name) => /^(apps|packages)\/.*\.tsx?$/.test(name) && !/\.test\.|\/test/.test(name))) {
  const lines = readFileSync(join(root, file), 'utf8').split('\n').length - 1;
  if (lines > LONGEST) wrong.push(`${file} has ${lines} lines: part it at ${LONGEST}`);
}
const names = new Set(files.flatMap((file) => [file, basename(file)]));
const folders = new Set(
  files.flatMap((file) =>
    dirname(file)
      .split('/')
      .map((_, i, parts) => parts.slice(0, i + 1).join('/')),
  ),
);
for (const page of files.filter((name) => name.endsWith('.md'))) {
  const text = readFileSync(join(root, page), 'utf8');
  // a path in code marks, or what a link leads to
  for (const [, code, link] of text.matchAll(/`([\w./-]+\.(?:tsx?|mjs|md|json|css))`|\]\(([^)#\s]+)[^)]*\)/g)) {
    const cited = (code ?? link).replace(/^\.\//, '');
    if (/^[a-z]+:/.test(cited) || cited === '') continue;
    const known =
      names.has(cited) ||
      [...names].some((name) => name.endsWith(`/${cited}`)) ||
      existsSync(join(root, dirname(page), cited)) ||
      folders.has(cited.replace(/\/$/, ''));
    if (!known) wrong.push(`${page} names ${cited}, which does not exist`);
  }
}
for (const line of wrong) console.error(line);
process.exit(wrong.length === 0 ? 0 : 1);
