/** Addresses and media types that the cluster API forces on us. */
export const API_PATHS = {
  node: '/api/v1/nodes',
  namespace: '/api/v1/namespaces',
  deployment: '/apis/apps/v1/deployments',
  'replica set': '/apis/apps/v1/replicasets',
  'stateful set': '/apis/apps/v1/statefulsets',
  'daemon set': '/apis/apps/v1/daemonsets',
  job: '/apis/batch/v1/jobs',
  'cron job': '/apis/batch/v1/cronjobs',
  pod: '/api/v1/pods',
  service: '/api/v1/services',
  'endpoint slice': '/apis/discovery.k8s.io/v1/endpointslices',
  'persistent volume': '/api/v1/persistentvolumes',
  'volume claim': '/api/v1/persistentvolumeclaims',
  quota: '/api/v1/resourcequotas',
  'limit range': '/api/v1/limitranges',
  autoscaler: '/apis/autoscaling/v2/horizontalpodautoscalers',
  'disruption budget': '/apis/policy/v1/poddisruptionbudgets',
  'config map': '/api/v1/configmaps',
  secret: '/api/v1/secrets',
  event: '/api/v1/events',
} as const;

/** Asks for names and versions only: what a secret holds never leaves the cluster. */
export const METADATA_LIST = 'application/json;as=PartialObjectMetadataList;g=meta.k8s.io;v=v1';
export const METADATA_ONE = 'application/json;as=PartialObjectMetadata;g=meta.k8s.io;v=v1';

/** The place in a cluster's API that hands requests on to an object's port. */
export const PROXY = (kind: string, namespace: string, target: string): string =>
  kind === 'node' ? `/api/v1/nodes/${target}/proxy` : `/api/v1/namespaces/${namespace}/${kind}s/${target}/proxy`;
