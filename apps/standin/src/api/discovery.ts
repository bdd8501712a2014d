import { groupVersionOf, KIND_INFO, KINDS, type Kind } from '../world/objects.ts';

export interface Target {
  readonly kind: Kind;
  readonly namespace: string | undefined;
  readonly name: string | undefined;
}

/** /api/v1/pods · /api/v1/namespaces/NS/pods[/NAME] · /apis/GROUP/VERSION/… */
export function resourceAt(path: string): Target | null {
  const match =
    /^\/(?:api|apis\/([a-z0-9.]+))\/(v[0-9]+)\/(?:namespaces\/([^/]+)\/([^/]+)|([^/]+))(?:\/([^/]+))?$/.exec(path);
  if (!match) return null;
  const [, group = '', version, namespace, inNamespace, alone, name] = match;
  const plural = inNamespace ?? alone ?? '';
  const kind = KINDS.find(
    (candidate) =>
      candidate === plural && KIND_INFO[candidate].group === group && KIND_INFO[candidate].version === version,
  );
  if (!kind || (namespace !== undefined && !KIND_INFO[kind].namespaced)) return null;
  const decode = (text: string | undefined) => (text === undefined ? undefined : decodeURIComponent(text));
  return { kind, namespace: decode(namespace), name: decode(name) };
}
export const status = (code: number, reason: string, message: string) => ({
  kind: 'Status',
  apiVersion: 'v1',
  metadata: {},
  status: 'Failure',
  message,
  reason,
  code,
});
const GROUP_VERSIONS = [...new Set(KINDS.map(groupVersionOf))];

function resourceList(groupVersion: string) {
  return {
    kind: 'APIResourceList',
    apiVersion: 'v1',
    groupVersion,
    resources: KINDS.filter((kind) => groupVersionOf(kind) === groupVersion).map((kind) => ({
      name: kind,
      singularName: KIND_INFO[kind].singular,
      namespaced: KIND_INFO[kind].namespaced,
      kind: KIND_INFO[kind].kind,
      verbs: ['get', 'list', 'watch'],
      shortNames: KIND_INFO[kind].short,
    })),
  };
}
function groupOf(groupVersion: string) {
  const [name = '', version = ''] = groupVersion.split('/');
  const one = { groupVersion, version };
  return { name, versions: [one], preferredVersion: one };
}

export function discovery(path: string): unknown {
  if (path === '/version')
    return {
      major: '1',
      minor: '31',
      gitVersion: 'v1.31.0',
      gitCommit: '',
      gitTreeState: 'clean',
      buildDate: '2026-01-01T00:00:00Z',
      goVersion: '',
      compiler: '',
      platform: 'linux/amd64',
    };
  if (path === '/api') return { kind: 'APIVersions', versions: ['v1'], serverAddressByClientCIDRs: [] };
  if (path === '/api/v1') return resourceList('v1');
  const groups = GROUP_VERSIONS.filter((groupVersion) => groupVersion !== 'v1');
  if (path === '/apis') return { kind: 'APIGroupList', apiVersion: 'v1', groups: groups.map(groupOf) };
  for (const groupVersion of groups) {
    if (path === `/apis/${groupVersion}`) return resourceList(groupVersion);
    if (path === `/apis/${groupVersion.split('/')[0]}`)
      return { kind: 'APIGroup', apiVersion: 'v1', ...groupOf(groupVersion) };
  }
  return null;
}
