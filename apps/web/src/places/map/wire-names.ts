/** The measure of one link: requests a second, by who saw them. Ends are "cluster/namespace/workload". */
export function measureOf(from: string, to: string): string {
  const parts = (side: 'from' | 'to', key: string) => {
    const [cluster = '', namespace = '', ...rest] = key.split('/');
    return [
      ...(cluster === '' ? [] : [`${side}_cluster is ${JSON.stringify(cluster)}`]),
      ...(namespace === '' ? [] : [`${side}_namespace is ${JSON.stringify(namespace)}`]),
      `${side}_workload is ${JSON.stringify(rest.join('/'))}`,
    ];
  };
  return `read link_requests_total\n  where ${[...parts('from', from), ...parts('to', to)].join(' and ')}\n  per second over 5m\n  total for each seen_by\n`;
}
