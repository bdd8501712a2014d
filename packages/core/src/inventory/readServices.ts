import type { EndpointSliceObject, ServiceObject } from './objects.ts';
import { annotations, common } from './readCommon.ts';
import { SERVICE_LABEL } from './wire-names.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

const numberOrName = (object: Wire, field: string): string => {
  const value = object[field];
  return typeof value === 'number' ? String(value) : wire.text(object, field);
};

export function readService(object: Wire): ServiceObject {
  const spec = wire.child(object, 'spec');
  const address = wire.host(spec, 'clusterIP');
  return {
    kind: 'service',
    ...common(object),
    type: wire.text(spec, 'type', 'ClusterIP'),
    selector: wire.texts(spec, 'selector'),
    ports: wire.list(spec, 'ports').map((port) => ({
      name: wire.text(port, 'name'),
      port: wire.count(port, 'port'),
      target: numberOrName(port, 'targetPort'),
      protocol: wire.text(port, 'protocol', 'TCP'),
      nodePort: wire.optionalCount(port, 'nodePort'),
    })),
    outside: outsideOf(spec, wire.child(wire.child(object, 'status'), 'loadBalancer')),
    address: address === 'None' ? null : address,
    annotations: annotations(object),
  };
}

const MOST_OUTSIDE = 20;
/** Addresses of hosts only: they stand on screens. */
function outsideOf(spec: Wire, balancer: Wire): string[] {
  const given: unknown = spec['externalIPs'];
  const told = wire
    .list(balancer, 'ingress')
    .map((entry) => wire.optionalText(entry, 'hostname') ?? wire.optionalText(entry, 'ip'));
  return [...(Array.isArray(given) ? (given as unknown[]) : []), ...told, wire.optionalText(spec, 'externalName')]
    .filter((one): one is string => typeof one === 'string' && wire.isHost(one))
    .slice(0, MOST_OUTSIDE);
}

export function readEndpointSlice(object: Wire): EndpointSliceObject {
  const own = common(object);
  return {
    kind: 'endpoint slice',
    ...own,
    service: own.labels[SERVICE_LABEL] ?? null,
    ports: wire
      .list(object, 'ports')
      .map((port) => ({ name: wire.text(port, 'name'), port: wire.optionalCount(port, 'port') })),
    endpoints: wire.list(object, 'endpoints').map((endpoint) => {
      const addresses = endpoint['addresses'];
      const [first] = Array.isArray(addresses) ? (addresses as unknown[]) : [];
      const target = wire.child(endpoint, 'targetRef');
      return {
        address: typeof first === 'string' && wire.isHost(first) ? first : '',
        // unknown counts as ready, as the API says
        ready: wire.child(endpoint, 'conditions')['ready'] !== false,
        pod: wire.text(target, 'kind') === 'Pod' ? wire.optionalText(target, 'name') : null,
        node: wire.optionalText(endpoint, 'nodeName'),
      };
    }),
  };
}
