export {
  nodeNamedBy,
  type Origin,
  originOf,
  type PodThen,
  podNamedBy,
  type SpeaksFor,
  type Stream,
  streamOf,
  UNTIED,
  type Untied,
} from './origin.ts';
