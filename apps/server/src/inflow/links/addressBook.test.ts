import { ClusterInventory, readObject } from '@zetopsis/core/inventory';
import { describe, expect, it, vi } from 'vitest';
import { AddressBook } from './addressBook.ts';

const inventory = (() => {
  const made = new ClusterInventory('c', () => undefined);
  const put = (kind: 'pod' | 'service', wire: object) => {
    const object = readObject(kind, wire);
    if (object) made.changed(object, 1, 1);
  };
  const meta = (name: string, labels = {}) => ({ name, namespace: 'quay', uid: `uid-${name}`, labels });
  put('pod', {
    metadata: meta('crane-0', { app: 'crane' }),
    spec: { containers: [{ name: 'crane' }] },
    status: { phase: 'Running', podIP: '10.1.0.7' },
  });
  put('pod', {
    metadata: meta('gone-0', { app: 'gone' }),
    spec: { containers: [{ name: 'gone' }] },
    status: { phase: 'Succeeded', podIP: '10.1.0.8' },
  });
  put('service', { metadata: meta('cranes'), spec: { clusterIP: '10.9.0.1', selector: { app: 'crane' }, ports: [] } });
  put('service', { metadata: meta('nobody'), spec: { clusterIP: '10.9.0.2', selector: { app: 'none' }, ports: [] } });
  return made;
})();
const CRANE = { cluster: 'seaward', namespace: 'quay', workload: 'lone-pod:crane-0' };

describe('who answers at an address', () => {
  it.each([
    ['of a pod', '10.1.0.7', CRANE],
    ['of a pod that ended', '10.1.0.8', null],
    ['of a service', '10.9.0.1', CRANE],
    ['of a service with nobody behind it', '10.9.0.2', { ...CRANE, workload: 'service:nobody' }],
    ['by a short name', 'cranes', CRANE],
    ['by a whole name', 'cranes.quay.svc.cluster.local', CRANE],
    ['in another namespace', 'cranes.mole', null],
    ['of nobody', '192.0.2.1', null],
    ['that is none', '', null],
  ])('%s', (_, address, end) => {
    expect(new AddressBook(inventory, 'seaward').find(address, 'quay')).toEqual(end);
  });
  it('is found without walking over the inventory again, whatever is asked', () => {
    const book = new AddressBook(inventory, 'seaward');
    const list = vi.spyOn(inventory, 'list');
    for (let i = 0; i < 500; i++) book.find(i % 2 === 0 ? `10.2.${i % 250}.1` : `cranes.quay.x${i}`, 'quay');
    expect(list).not.toHaveBeenCalled();
    list.mockRestore();
  });
});
