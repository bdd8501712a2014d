export {
  nodeNamedBy,
  type Origin,
  originOf,
  type PodThen,
  podNamedBy,
  resourceOf,
  type SpeaksFor,
  type Stream,
  streamOf,
  UNTIED,
  type Untied,
} from './origin.ts';
