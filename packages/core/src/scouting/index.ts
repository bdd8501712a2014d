export {
  type Candidate,
  candidatesOf,
  type Merge,
  merging,
  type Scout,
  type ScoutView,
  type Target,
} from './candidates.ts';
export { type Dress, type DropRule, dresser, PLAIN } from './dress.ts';
export { type Finder, holderOf } from './precedence.ts';
export { readServes, type Served } from './serves.ts';
export { fillTemplate, TEMPLATE_NAMES, templateProblem } from './template.ts';
export { wildcard } from './wildcard.ts';
export { OBJECT_LABELS } from './wire-names.ts';
