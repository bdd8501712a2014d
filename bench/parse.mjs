// A page read warm against the full parser with the look-up of every series' identity; target 20 ×.
import { DEFAULT_PAGE_LIMITS, PageMemory, readPage } from '../packages/core/dist/exposition/index.js';
import { SeriesTable } from '../packages/core/dist/series/index.js';
import { medianOf, report } from './measure.mjs';

const LINES = 20_000;
const lines = ['# TYPE container_memory_working_set_bytes gauge'];
for (let i = 0; i < LINES; i++)
  lines.push(
    `container_memory_working_set_bytes{container="c${i % 7}",namespace="team-${i % 40}",pod="svc-${i}-7c4f9",node="n${i % 60}"} ${1e8 + i * 4096}`,
  );
lines.push('# EOF', '');
const form = 'openmetrics';
const again = (change) =>
  Buffer.from(lines.map((line, i) => (i > 0 && i <= LINES ? change(line, i) : line)).join('\n'));
const next = again((line, i) => line.replace(/\d+$/, String(2e8 + i * 4096)));

const table = new SeriesTable();
const memory = new PageMemory();
for (const { slot, name, labels, cumulative } of readPage(next, { form, memory }).fresh) {
  table.add({ id: slot + 1, endpoint: 1, metric: name, labels, cumulative });
  memory.ids[slot] = slot + 1;
}
function inFull() {
  const own = new PageMemory();
  const page = readPage(next, { form, memory: own });
  for (const { slot, name, labels } of page.fresh) own.ids[slot] = table.find(1, name, labels);
  return Int32Array.from(page.slots, (slot) => own.ids[slot]);
}
const newlines = () => {
  let count = 0;
  for (let at = next.indexOf(10); at >= 0; at = next.indexOf(10, at + 1)) count++;
  return count;
};
const [cold, warm, bare] = medianOf(
  9,
  inFull,
  () => readPage(next, { form, memory, limits: DEFAULT_PAGE_LIMITS }),
  newlines,
);
const speed = (ms) => `${(LINES / ms / 1000).toFixed(2)} M samples/s`;
report(
  'a page read warm',
  'in full, with look-ups',
  `${(cold / warm).toFixed(1)} × faster`,
  `target 20 ×; ${speed(warm)} against ${speed(cold)}; ${(warm / bare).toFixed(0)} × the time of a bare newline scan`,
);
// one pod in a hundred came or went since
const changed = Buffer.from(
  next
    .toString()
    .split('\n')
    .flatMap((line, i) => (i % 200 === 7 ? [] : i % 200 === 107 ? [line, line.replace('pod="', 'pod="new-')] : [line]))
    .join('\n'),
);
const copyOf = () => Object.assign(new PageMemory(), { table: memory.table, ids: memory.ids, slots: memory.slots });
const [coldChange, warmChange] = medianOf(9, inFull, () => readPage(changed, { form, memory: copyOf() }));
report(
  'the same with 1 % of its lines changed',
  'in full, with look-ups',
  `${(coldChange / warmChange).toFixed(1)} × faster`,
  speed(warmChange),
);
