// Full parse of a page against the least that any parser must do: find the line breaks.
import { DEFAULT_PAGE_LIMITS, PageMemory, readPage } from '../packages/core/dist/exposition/index.js';
import { medianOf, report } from './measure.mjs';

const LINES = 20_000;
const lines = ['# TYPE container_memory_working_set_bytes gauge'];
for (let i = 0; i < LINES; i++) {
  lines.push(
    `container_memory_working_set_bytes{container="c${i % 7}",namespace="team-${i % 40}",pod="svc-${i}-7c4f9",node="n${i % 60}"} ${1e8 + i * 4096}`,
  );
}
lines.push('# EOF', '');
const page = Buffer.from(lines.join('\n'));

function newlines() {
  let count = 0;
  for (let at = page.indexOf(10); at >= 0; at = page.indexOf(10, at + 1)) count++;
  return count;
}
const [full, bare] = medianOf(7, () => readPage(page), newlines);
report(
  'parse, lines a second',
  'a bare newline scan',
  `${(full / bare).toFixed(0)} × time`,
  `${(((LINES / full) * 1000) / 1e6).toFixed(2)} M lines/s with identity of every series`,
);

// the same page again and again with other values, as endpoints serve it: only values are read
const memory = new PageMemory();
readPage(page, DEFAULT_PAGE_LIMITS, memory);
const next = Buffer.from(
  lines.map((line, i) => (i > 0 && i <= LINES ? line.replace(/\d+$/, String(2e8 + i * 4096)) : line)).join('\n'),
);
const [cold, warm] = medianOf(
  7,
  () => readPage(next),
  () => readPage(next, DEFAULT_PAGE_LIMITS, memory),
);
report(
  'parse again, lines a second',
  'the full parser on the same page',
  `${(cold / warm).toFixed(1)} × faster`,
  `${(((LINES / warm) * 1000) / 1e6).toFixed(2)} M lines/s; ${(warm / bare).toFixed(0)} × the time of a bare newline scan`,
);
