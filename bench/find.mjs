// Finding series by metric and two labels in the in-memory index against looking at every series.
import { LabelIndex } from '../packages/core/dist/series/index.js';
import { medianOf, report } from './measure.mjs';

const COUNT = 200_000;
const index = new LabelIndex();
const all = [];
for (let id = 1; id <= COUNT; id++) {
  const labels = [
    ['container', `c${id % 5}`],
    ['namespace', `team-${id % 200}`],
    ['pod', `pod-${id % 30_000}`],
  ];
  const metric = `metric_${id % 20}`;
  index.add(id, metric, labels);
  all.push({ id, metric, labels: Object.fromEntries(labels) });
}
const matches = [
  { label: 'namespace', is: 'team-40' },
  { label: 'container', is: 'c0' },
];
const [found, looked] = medianOf(
  15,
  () => index.select('metric_0', matches),
  () =>
    all
      .filter(
        ({ metric, labels }) => metric === 'metric_0' && labels.namespace === 'team-40' && labels.container === 'c0',
      )
      .map(({ id }) => id),
);
report(
  'find among 200,000 series',
  'looking at every series',
  `${(looked / found).toFixed(0)} × faster`,
  `${found.toFixed(2)} ms`,
);
