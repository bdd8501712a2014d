/** Both ends of a link as its series bear them. Ends are "cluster/namespace/workload". */
function between(from: string, to: string): string {
  const parts = (side: 'from' | 'to', key: string) => {
    const [cluster = '', namespace = '', ...rest] = key.split('/');
    return [
      ...(cluster === '' ? [] : [`${side}_cluster is ${JSON.stringify(cluster)}`]),
      ...(namespace === '' ? [] : [`${side}_namespace is ${JSON.stringify(namespace)}`]),
      `${side}_workload is ${JSON.stringify(rest.join('/'))}`,
    ];
  };
  return [...parts('from', from), ...parts('to', to)].join(' and ');
}
/** Who saw it: a line each. */
export const SEEN_BY_LABEL = 'seen_by';
const rateOf = (metric: string, ends: string) =>
  `read ${metric}\n  where ${ends}\n  per second over 5m\n  total for each seen_by\n`;
/** Requests a second, by who saw them. */
export const requestsOf = (from: string, to: string): string => rateOf('link_requests_total', between(from, to));
/** Of those, the share that failed. */
export function failuresOf(from: string, to: string): string {
  const ends = between(from, to);
  return `failed = ${rateOf('link_failures_total', ends)}all = ${rateOf('link_requests_total', ends)}show failed / all as percent\n`;
}
/** What 95 of 100 stay below, by either clock. */
export const lengthsOf = (from: string, to: string): string =>
  `read link_p95_seconds\n  where ${between(from, to)}\n  highest for each seen_by\n`;
