export { type Restart, type Rollout, restartsOf, rolloutsOf } from './changes.ts';
export {
  type Amounts,
  type ClusterEvent,
  type Condition,
  type ContainerEnd,
  type ContainerObject,
  type ContainerRole,
  type ContainerState,
  INVENTORY_KINDS,
  type InventoryKind,
  type InventoryObject,
  type NamespaceObject,
  type NodeObject,
  type PodObject,
  type WorkloadKind,
  type WorkloadObject,
} from './objects.ts';
export { isWorkload, type WorkloadRef, workloadKey, workloadOf } from './ownerChain.ts';
export { type Nano, parseQuantity, quantityNumber } from './quantity.ts';
export { readEvent, readObject } from './readObject.ts';
export { type ObjectVersion, type StateAt, sameState, stateAt } from './versions.ts';
