/** Attributes of resources by the semantic conventions of the open telemetry protocol. */
export const RESOURCE = {
  namespace: 'k8s.namespace.name',
  pod: 'k8s.pod.name',
  podUid: 'k8s.pod.uid',
  container: 'k8s.container.name',
  node: 'k8s.node.name',
  service: 'service.name',
  host: 'host.name',
} as const;
