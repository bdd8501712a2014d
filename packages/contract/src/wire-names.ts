/** Where a fixture has the last lines of containers. */
export const FIXTURE_LINES = 'logTail';

/** What a cluster's API calls the kinds that are read, and where it has them. */
export const API_KINDS = {
  node: { group: '', version: 'v1', resource: 'nodes' },
  namespace: { group: '', version: 'v1', resource: 'namespaces' },
  deployment: { group: 'apps', version: 'v1', resource: 'deployments' },
  'replica set': { group: 'apps', version: 'v1', resource: 'replicasets' },
  'stateful set': { group: 'apps', version: 'v1', resource: 'statefulsets' },
  'daemon set': { group: 'apps', version: 'v1', resource: 'daemonsets' },
  job: { group: 'batch', version: 'v1', resource: 'jobs' },
  'cron job': { group: 'batch', version: 'v1', resource: 'cronjobs' },
  pod: { group: '', version: 'v1', resource: 'pods' },
  service: { group: '', version: 'v1', resource: 'services' },
  'endpoint slice': { group: 'discovery.k8s.io', version: 'v1', resource: 'endpointslices' },
  'persistent volume': { group: '', version: 'v1', resource: 'persistentvolumes' },
  'volume claim': { group: '', version: 'v1', resource: 'persistentvolumeclaims' },
  quota: { group: '', version: 'v1', resource: 'resourcequotas' },
  'limit range': { group: '', version: 'v1', resource: 'limitranges' },
  autoscaler: { group: 'autoscaling', version: 'v2', resource: 'horizontalpodautoscalers' },
  'disruption budget': { group: 'policy', version: 'v1', resource: 'poddisruptionbudgets' },
  'config map': { group: '', version: 'v1', resource: 'configmaps' },
  secret: { group: '', version: 'v1', resource: 'secrets' },
  event: { group: '', version: 'v1', resource: 'events' },
} as const;
export const apiPath = ({ group, version, resource }: (typeof API_KINDS)[keyof typeof API_KINDS]): string =>
  `${group === '' ? '/api' : `/apis/${group}`}/${version}/${resource}`;

/** What the account of a cluster is granted: exactly what is asked for, in grades. */
export interface AccountGrade {
  /** Log lines of containers, and pages that are read through the cluster's API. */
  readonly proxy: boolean;
  /** When secrets change. The account could then read what they hold; Zetopsis asks for their metadata only. */
  readonly secrets: boolean;
}
export interface AccountRule {
  readonly apiGroups: readonly string[];
  readonly resources: readonly string[];
  readonly verbs: readonly ('get' | 'list' | 'watch')[];
}
export function accountRules({ proxy, secrets }: AccountGrade): AccountRule[] {
  const groups = new Map<string, string[]>();
  for (const [kind, { group, resource }] of Object.entries(API_KINDS)) {
    if (kind === 'secret' && !secrets) continue;
    groups.set(group, [...(groups.get(group) ?? []), resource]);
  }
  return [
    ...[...groups].map(([group, resources]) => ({
      apiGroups: [group],
      resources,
      verbs: ['list', 'watch'] as const,
    })),
    { apiGroups: [''], resources: ['nodes/metrics'], verbs: ['get'] },
    ...(proxy
      ? [
          {
            apiGroups: [''],
            resources: ['pods/log', 'pods/proxy', 'services/proxy', 'nodes/proxy'],
            verbs: ['get'] as const,
          },
        ]
      : []),
  ];
}
const listed = (names: readonly string[]) => `[${names.map((name) => (name === '' ? '""' : name)).join(', ')}]`;

/** Ready to be applied; what is granted stands first. */
export const accountManifest = (grade: AccountGrade): string => `apiVersion: rbac.authorization.k8s.io/v1
kind: ClusterRole
metadata: { name: zetopsis-reader }
rules:
${accountRules(grade)
  .map(
    ({ apiGroups, resources, verbs }) => `  - apiGroups: ${listed(apiGroups)}
    resources: ${listed(resources)}
    verbs: ${listed(verbs)}
`,
  )
  .join('')}---
apiVersion: v1
kind: Namespace
metadata: { name: zetopsis }
---
apiVersion: v1
kind: ServiceAccount
metadata: { name: reader, namespace: zetopsis }
---
apiVersion: v1
kind: Secret
type: kubernetes.io/service-account-token
metadata:
  name: reader-token
  namespace: zetopsis
  annotations: { kubernetes.io/service-account.name: reader }
---
apiVersion: rbac.authorization.k8s.io/v1
kind: ClusterRoleBinding
metadata: { name: zetopsis-reader }
roleRef: { apiGroup: rbac.authorization.k8s.io, kind: ClusterRole, name: zetopsis-reader }
subjects:
  - { kind: ServiceAccount, name: reader, namespace: zetopsis }
`;
