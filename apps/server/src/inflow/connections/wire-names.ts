/** Asks for names and versions only: what a secret holds never leaves the cluster. */
export const METADATA_LIST = 'application/json;as=PartialObjectMetadataList;g=meta.k8s.io;v=v1';
export const METADATA_ONE = 'application/json;as=PartialObjectMetadata;g=meta.k8s.io;v=v1';

/** The place in a cluster's API that hands requests on to an object's port. */
export const PROXY = (kind: string, namespace: string, target: string): string =>
  kind === 'node' ? `/api/v1/nodes/${target}/proxy` : `/api/v1/namespaces/${namespace}/${kind}s/${target}/proxy`;
