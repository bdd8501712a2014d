interface FindingKind {
  /** What it is found on. */
  readonly of: 'pod' | 'workload' | 'job' | 'node' | 'bound' | 'cluster' | 'endpoint';
  /** A node with it does not run pods as it should. */
  readonly unfit?: true;
  /** What has it works, and has little room left or more than it needs. */
  readonly works?: true;
  /** A workload with it has fewer pods than it is to have: what a rule about ready pods tells. */
  readonly short?: true;
}

/**
 * Everything that can be found wrong. A new one stands here and in the file of what it is found on; what it says is written
 * there, once, and shown alike in columns, tables, sheets, on Now and in alerts.
 */
export const FINDINGS = {
  imageNotPulled: { of: 'pod' },
  keepsRestarting: { of: 'pod' },
  outOfMemory: { of: 'pod' },
  cannotStart: { of: 'pod' },
  startUpFailed: { of: 'pod' },
  notReady: { of: 'pod' },
  cannotBePlaced: { of: 'pod' },
  evicted: { of: 'pod' },
  preempted: { of: 'pod' },
  killedByCheck: { of: 'pod' },
  cannotMount: { of: 'pod' },
  cannotSetUp: { of: 'pod' },
  failed: { of: 'pod' },
  cpuAtLimit: { of: 'pod', works: true },
  memoryNearLimit: { of: 'pod', works: true },
  rolloutStuck: { of: 'workload', short: true },
  fewerReady: { of: 'workload', short: true },
  failsMore: { of: 'workload' },
  slower: { of: 'workload', works: true },
  unevenSpread: { of: 'workload', works: true },
  linkRefused: { of: 'workload' },
  linkSilent: { of: 'workload' },
  linkFailing: { of: 'workload' },
  linkSlow: { of: 'workload', works: true },
  linkFlooded: { of: 'workload', works: true },
  cannotCreate: { of: 'workload', short: true },
  jobFailed: { of: 'job' },
  runsFail: { of: 'job' },
  runsMissed: { of: 'job' },
  runsOverlap: { of: 'job' },
  quotaSpent: { of: 'bound' },
  volumeFilling: { of: 'bound' },
  volumeEntries: { of: 'bound' },
  claimNotBound: { of: 'bound' },
  deletionStuck: { of: 'bound' },
  figureNotRead: { of: 'bound' },
  atMost: { of: 'bound' },
  budgetBlocks: { of: 'bound' },
  nodeNotReady: { of: 'node', unfit: true },
  nodePressure: { of: 'node' },
  nodeProblem: { of: 'node' },
  nodeEntries: { of: 'node' },
  clockSkew: { of: 'node' },
  unknown: { of: 'node', unfit: true },
  overAsking: { of: 'workload', works: true },
  nameServiceDown: { of: 'cluster' },
  apiSlow: { of: 'cluster' },
  notRead: { of: 'endpoint' },
} as const satisfies Record<string, FindingKind>;
export type FindingCode = keyof typeof FINDINGS;
export const FINDING_CODES = Object.keys(FINDINGS) as [FindingCode, ...FindingCode[]]; // its own keys
/** Whether a node with it does not run pods as it should. */
export const isUnfit = (code: FindingCode): boolean => (FINDINGS[code] as FindingKind).unfit === true;
/** Whether a workload with it has fewer pods than it is to have. */
export const isShort = (code: FindingCode): boolean => (FINDINGS[code] as FindingKind).short === true;
/** Whether what has it works all the same. */
export const works = (code: FindingCode): boolean => (FINDINGS[code] as FindingKind).works === true;
