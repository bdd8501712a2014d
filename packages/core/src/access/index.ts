export {
  assignedOwner,
  inWords,
  type OwnedNamespace,
  type Owner,
  type Ownership,
  ownerOfNamespace,
} from './ownership.ts';
export { type Bound, LEVELS, type Level, type Permit, Reach } from './reach.ts';
