// A made-up map: so many boxes in 120 lanes, so many links between them, some of them in trouble, as a server reads it.
import { fivesOfDay, fivesUpTo, minutesUpTo, NO_USUAL, wholeHour } from '../packages/answers/dist/map/index.js';

export function mapWorld(BOXES, LINKS) {
  let state = 7;
  const below = (n) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 2 ** 32) * n);
  };
  const end = (i) => ({ cluster: 'harbour', namespace: `quay-${i % 120}`, workload: `deployment:box-${i}` });
  const at = Math.floor(Date.now() / 60_000) * 60_000;
  const upTo = wholeHour(at);
  const length = minutesUpTo(at).length;
  const fives = fivesUpTo(at).length;
  const labels = (from, to, seenBy) => ({
    from_cluster: 'harbour',
    from_namespace: end(from).namespace,
    from_workload: end(from).workload,
    to_cluster: 'harbour',
    to_namespace: end(to).namespace,
    to_workload: end(to).workload,
    protocol: 'http',
    seen_by: seenBy,
  });
  const pairs = Array.from({ length: LINKS }, () => {
    const from = below(BOXES);
    return [from, Math.min(BOXES - 1, from + 1 + below(BOXES / 8))];
  }).filter(([from, to]) => from !== to);
  const lines = (of) =>
    pairs.flatMap(([from, to]) =>
      ['caller', 'answerer'].map((seenBy) => ({ labels: labels(from, to, seenBy), values: of() })),
    );
  const minutes = (most) => {
    let sum = 0;
    return Float64Array.from({ length }, () => (sum += below(most)));
  };
  const read = {
    at,
    requests: lines(() => minutes(60)),
    failures: lines(() => minutes(below(20) === 0 ? 30 : 1)),
    refused: lines(() => minutes(1)),
    p95: lines(() => Float64Array.from({ length: fives }, () => 0.02 + below(100) / 1000)),
    own: [],
    spent: [],
    seen: [],
    bytes: [],
    connections: [],
    uncertain: [],
    usual: NO_USUAL,
    day: { upTo, requests: lines(() => fivesOfDay(upTo).map(() => below(300))), bytes: [], hours: new Map() },
  };
  return { at, below, end, pairs, read, known: { sees: () => true, teamOf: () => 'Ferries' } };
}
