interface FindingKind {
  /** What it is found on. */
  readonly of: 'pod' | 'workload' | 'job' | 'node' | 'bound' | 'namespace' | 'cluster' | 'endpoint';
  /** A node with it does not run pods as it should. */
  readonly unfit?: true;
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
  rolloutStuck: { of: 'workload' },
  fewerReady: { of: 'workload' },
  cannotCreate: { of: 'workload' },
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
  overAsking: { of: 'namespace' },
  nameServiceDown: { of: 'cluster' },
  apiSlow: { of: 'cluster' },
  notRead: { of: 'endpoint' },
} as const satisfies Record<string, FindingKind>;
export type FindingCode = keyof typeof FINDINGS;
export const FINDING_CODES = Object.keys(FINDINGS) as [FindingCode, ...FindingCode[]]; // its own keys
/** Whether a node with it does not run pods as it should. */
export const isUnfit = (code: FindingCode): boolean => (FINDINGS[code] as FindingKind).unfit === true;
