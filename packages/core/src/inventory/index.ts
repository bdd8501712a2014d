export { type Restart, type Rollout, restartsOf, rolloutsOf, tagOf } from './changes.ts';
export { ClusterInventory, type VersionWrite } from './clusterInventory.ts';
export type { ContainerHints } from './containerHints.ts';
export { EventLog } from './eventLog.ts';
export { ACCESSORY_KINDS, type AccessoryKind, INVENTORY_KINDS } from './kinds.ts';
export { CHANGING_KINDS, changeWords, type ObjectChange, objectChanges } from './objectChanges.ts';
export {
  type Amounts,
  type AutoscalerObject,
  type ClaimObject,
  type ClusterEvent,
  type Condition,
  type ConfigMapObject,
  type ContainerEnd,
  type ContainerObject,
  type ContainerRole,
  type ContainerState,
  type CronJobObject,
  type DisruptionBudgetObject,
  type EndpointSliceObject,
  type Followed,
  type InventoryKind,
  type InventoryObject,
  type JobObject,
  type LastChange,
  type LimitRangeObject,
  type NamespaceObject,
  type NodeObject,
  type PodObject,
  type QuotaObject,
  type SecretObject,
  type ServiceObject,
  type Taint,
  type Toleration,
  type Uses,
  type VolumeObject,
  WORKLOAD_KINDS,
  type WorkloadKind,
  type WorkloadObject,
} from './objects.ts';
export {
  type AnyWorkload,
  isKeeper,
  isWorkload,
  type WorkloadName,
  type WorkloadRef,
  workloadKey,
  workloadOf,
} from './ownerChain.ts';
export { amountsOf, podAmounts } from './podAmounts.ts';
export { conditionOf, hasEnded, isReady, notReadySince } from './podState.ts';
export { type Nano, parseQuantity, quantityNumber } from './quantity.ts';
export { type Fingerprint, readEvent, readObject } from './readObject.ts';
export { type ObjectVersion, type StateAt, sameState, stateAt, type VersionOf, versionsOf } from './versions.ts';
export { WIRE_KINDS } from './wire-names.ts';
export { kindNamed } from './wireKinds.ts';
