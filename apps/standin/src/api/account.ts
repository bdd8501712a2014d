/** What the account that reads a cluster is granted there; a test compares it with the manifest that Zetopsis hands out. */
interface Rule {
  readonly groups: readonly string[];
  readonly resources: readonly string[];
  readonly verbs: readonly string[];
}
const LOOK = ['list', 'watch'];
export const READER_RULES: readonly Rule[] = [
  {
    groups: [''],
    resources: [
      'nodes',
      'namespaces',
      'pods',
      'services',
      'persistentvolumes',
      'persistentvolumeclaims',
      'resourcequotas',
      'limitranges',
      'configmaps',
      'secrets',
      'events',
    ],
    verbs: LOOK,
  },
  { groups: ['apps'], resources: ['deployments', 'replicasets', 'statefulsets', 'daemonsets'], verbs: LOOK },
  { groups: ['batch'], resources: ['jobs', 'cronjobs'], verbs: LOOK },
  { groups: ['discovery.k8s.io'], resources: ['endpointslices'], verbs: LOOK },
  { groups: ['autoscaling'], resources: ['horizontalpodautoscalers'], verbs: LOOK },
  { groups: ['policy'], resources: ['poddisruptionbudgets'], verbs: LOOK },
  { groups: [''], resources: ['nodes/metrics'], verbs: ['get'] },
  { groups: [''], resources: ['pods/log', 'pods/proxy', 'services/proxy', 'nodes/proxy'], verbs: ['get'] },
];
/** An account that somebody granted less. */
export const NARROW_RULES: readonly Rule[] = READER_RULES.map((rule) => ({
  ...rule,
  resources: rule.resources.filter((resource) => !['events', 'daemonsets', 'secrets'].includes(resource)),
}));

export const mayDo = (rules: readonly Rule[], group: string, resource: string, verb: string): boolean =>
  rules.some((rule) => rule.groups.includes(group) && rule.resources.includes(resource) && rule.verbs.includes(verb));
