import type { InventoryKind } from './objects.ts';

/**
 * Every kind, in the order in which a cluster is asked for them, and as what it stands in a path. A new one is an interface
 * above, a member of InventoryObject, and an entry here; the compiler then names every place that must answer for it: how it is
 * read (readObject), what is a change of it (objectChanges), what its sheet tells (answers/sheet), where it is asked for
 * (wire-names.ts of the server's connections).
 */
const KINDS = {
  node: { stands: 'shared' },
  namespace: { stands: 'shared' },
  deployment: { stands: 'workload' },
  'replica set': { stands: 'workload' },
  'stateful set': { stands: 'workload' },
  'daemon set': { stands: 'workload' },
  job: { stands: 'workload' },
  'cron job': { stands: 'workload' },
  pod: { stands: 'part' },
  service: { stands: 'accessory' },
  'endpoint slice': { stands: 'part' },
  'persistent volume': { stands: 'shared' },
  'volume claim': { stands: 'accessory' },
  quota: { stands: 'accessory' },
  'limit range': { stands: 'accessory' },
  autoscaler: { stands: 'accessory' },
  'disruption budget': { stands: 'accessory' },
  'config map': { stands: 'accessory' },
  secret: { stands: 'accessory' },
} as const satisfies Record<InventoryKind, { readonly stands: 'shared' | 'workload' | 'part' | 'accessory' }>;
type Stands<As> = { [K in InventoryKind]: (typeof KINDS)[K]['stands'] extends As ? K : never }[InventoryKind];

export const INVENTORY_KINDS = Object.keys(KINDS) as readonly InventoryKind[]; // its own keys
/** What stands in a namespace beside its workloads, has no parts and uses nothing itself. */
export type AccessoryKind = Stands<'accessory'>;
export const ACCESSORY_KINDS = INVENTORY_KINDS.filter(
  (kind): kind is AccessoryKind => KINDS[kind].stands === 'accessory',
);
