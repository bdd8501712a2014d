// The map of 2,000 boxes and 6,000 links: the server's work (judging, causes, narrowing), laying out the whole in lanes, against a plain pass
// over the same links that only adds up their minutes. Spans that are put into links, a second of processor. npm run bench -- map [boxes] [links]
import { mapBySteps } from '../packages/answers/dist/map/index.js';
import { inLanes, LinkFolder, LinkTotals } from '../packages/core/dist/links/index.js';
import { mapWorld } from './mapWorld.mjs';
import { medianOf, report } from './measure.mjs';

const [BOXES = 2000, LINKS = 6000] = process.argv.slice(2).map(Number);
const RUNS = 5;
const { at: AT, end, pairs, read, known } = mapWorld(BOXES, LINKS);
const sum = () => {
  let all = 0;
  for (const what of [read.requests, read.failures, read.refused])
    for (const { values } of what) for (const value of values) all += value;
  return all;
};
let longest = 0;
const mapOf = () => {
  const steps = mapBySteps(read, known);
  for (;;) {
    const began = performance.now();
    const next = steps.next();
    longest = Math.max(longest, performance.now() - began);
    if (next.done) return next.value;
  }
};
const answer = mapOf();
const boxes = answer.boxes.map(({ key, namespace }) => ({ key, lane: namespace }));
const [plain, worked, laid] = medianOf(RUNS, sum, mapOf, () => inLanes(boxes, answer.links));
report(
  'map: judged, causes found, narrowed',
  `adding up the same minutes ${plain.toFixed(0)} ms`,
  `${(worked / plain).toFixed(1)} ×`,
  `${worked.toFixed(0)} ms for ${answer.links.length} links of ${answer.boxes.length} boxes, ${answer.trouble.length} entries, longest stop ${longest.toFixed(0)} ms`,
);
report(
  'map: laid out whole',
  `the same`,
  `${(laid / plain).toFixed(1)} ×`,
  `${laid.toFixed(0)} ms for ${boxes.length} boxes in lanes; aim: the first picture within 1 s, no stop over 50 ms`,
);

// ---- spans into links -------------------------------------------------------------------------------------------------
const SPANS = 200_000;
const start = AT - 600_000;
const span = (trace, id, parentId, kind, at) => ({
  traceId: `${trace}`.padStart(32, '0'),
  spanId: `${id}`,
  parentId,
  name: 'x',
  kind,
  at,
  took: 5,
  failed: false,
  message: '',
  fields: [['http.request.method', 'GET']],
  events: [],
  links: [],
});
const batches = Array.from({ length: SPANS / 2 }, (_, i) => {
  const [from, to] = pairs[i % pairs.length];
  return [
    [end(from), [span(i, `c${i}`, '', 'client', start + i)]],
    [end(to), [span(i, `s${i}`, `c${i}`, 'server', start + i + 1)]],
  ];
}).flat();
const began = process.cpuUsage();
const folder = new LinkFolder({ named: () => end(0) });
const totals = new LinkTotals();
let folded = 0;
for (const [at, spans] of batches) folder.add(at, spans, start);
for (const request of folder.fold(AT, AT)) {
  totals.add(request);
  folded++;
}
const { user, system } = process.cpuUsage(began);
report(
  'spans put into links',
  'of one processor',
  `${Math.round(SPANS / ((user + system) / 1e6))} /s`,
  `${folded} requests of ${totals.size} links by side`,
);
