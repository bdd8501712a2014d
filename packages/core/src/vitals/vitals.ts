import { VITAL_METRICS } from './wire-names.ts';

/** What a vital is read of. */
export type VitalOf = 'container' | 'pod' | 'volume' | 'node';

export interface VitalDefinition {
  readonly of: VitalOf;
  /** It only grows, and its rate is what one looks at; else it is a level. */
  readonly counts: boolean;
  readonly unit: 'seconds' | 'bytes' | 'entries' | 'errors';
  /** There is one series for what is received and one for what is sent. */
  readonly directed?: boolean;
  /** Words that a metric's name must have to be proposed for it, each one of a few; and words that speak against it. */
  readonly words: { readonly all: readonly RegExp[]; readonly none: RegExp };
}

const CPU_TIME = [/cpu/, /time|usage|used|seconds|ns|nano/];
const NETWORK = { all: [/net/, /io|bytes|octets/], none: /error|drop|packet/ };
const MEMORY = { all: [/mem/, /work/], none: /limit|request|max|fail/ };
const FILES = { all: [/fs|file|disk/, /us(age|ed)/], none: /inode|limit|capacity|size|free|io/ };
const ENTRIES = { all: [/inode/, /count|total|max|cap/], none: /vol|free|us(age|ed)/ };

/**
 * Every vital there is: what the built-in figures are read from. A new one stands here and, with the name that it has by the
 * semantic conventions, in wire-names.ts; the compiler asks for the other when one of the two is there.
 */
const VITALS = {
  'container.cpu.time': {
    of: 'container',
    counts: true,
    unit: 'seconds',
    words: { all: CPU_TIME, none: /throttl|limit|request|period|system|user/ },
  },
  'container.cpu.throttled': {
    of: 'container',
    counts: true,
    unit: 'seconds',
    words: { all: [/cpu/, /throttl/], none: /periods$|count/ },
  },
  'container.memory.working_set': { of: 'container', counts: false, unit: 'bytes', words: MEMORY },
  'container.filesystem.usage': { of: 'container', counts: false, unit: 'bytes', words: FILES },
  'pod.network.io': { of: 'pod', counts: true, unit: 'bytes', directed: true, words: NETWORK },
  'volume.usage': {
    of: 'volume',
    counts: false,
    unit: 'bytes',
    words: { all: [/vol/, /us(age|ed)/], none: /inode|capacity|size|free/ },
  },
  'volume.capacity': {
    of: 'volume',
    counts: false,
    unit: 'bytes',
    words: { all: [/vol/, /cap|size|total/], none: /inode|used|usage|free/ },
  },
  'volume.inodes.used': {
    of: 'volume',
    counts: false,
    unit: 'entries',
    words: { all: [/vol/, /inode/, /us(age|ed)/], none: /free/ },
  },
  'volume.inodes.count': {
    of: 'volume',
    counts: false,
    unit: 'entries',
    words: { all: [/vol/, ...ENTRIES.all], none: /free|us(age|ed)/ },
  },
  'node.cpu.time': {
    of: 'node',
    counts: true,
    unit: 'seconds',
    words: { all: CPU_TIME, none: /throttl|limit|request|period|idle|system|user/ },
  },
  'node.memory.working_set': { of: 'node', counts: false, unit: 'bytes', words: MEMORY },
  'node.network.io': { of: 'node', counts: true, unit: 'bytes', directed: true, words: NETWORK },
  'node.network.errors': {
    of: 'node',
    counts: true,
    unit: 'errors',
    directed: true,
    words: { all: [/net/, /err/], none: /drop|bytes|octets/ },
  },
  'node.device.errors': {
    of: 'node',
    counts: true,
    unit: 'errors',
    words: { all: [/hw|hard|device|disk|fs|file/, /err/], none: /net|space|inode/ },
  },
  'node.filesystem.usage': { of: 'node', counts: false, unit: 'bytes', words: FILES },
  'node.filesystem.capacity': {
    of: 'node',
    counts: false,
    unit: 'bytes',
    words: { all: [/fs|file|disk/, /cap|size|total/], none: /inode|used|usage|free|io/ },
  },
  'node.inodes.used': {
    of: 'node',
    counts: false,
    unit: 'entries',
    words: { all: [/inode/, /us(age|ed)/], none: /vol|free/ },
  },
  'node.uptime': {
    of: 'node',
    counts: false,
    unit: 'seconds',
    words: { all: [/up_?time|running_?for/], none: /start|since|process/ },
  },
  'node.inodes.count': { of: 'node', counts: false, unit: 'entries', words: ENTRIES },
} as const satisfies Record<keyof typeof VITAL_METRICS, VitalDefinition>;

export type Vital = keyof typeof VITALS;
/** Those that are read of one kind of thing. */
export type VitalsOf<Of extends VitalOf> = { [V in Vital]: (typeof VITALS)[V]['of'] extends Of ? V : never }[Vital];
export const VITAL_NAMES = Object.keys(VITALS) as readonly Vital[]; // its own keys
export const vitalOf = (vital: Vital): VitalDefinition => VITALS[vital];
/** Its name by the conventions: that is read without being mapped. */
export const metricOf = (vital: Vital): string => VITAL_METRICS[vital];
