/** Why nothing stands where a figure or a chart would. */
const EMPTINESS = {
  notRead: () => 'Nothing was read in this window. Sources says whether the endpoint delivers.',
  nothingRan: () => 'Nothing ran here in this window, so there was nothing to read.',
  neverRan: () => 'Never read: its container has not run in this window.',
  startUp: () => 'Not read: a start-up container ends before the next reading.',
  noRun: () => 'Not read: no run was there at the time of a reading in this window.',
  nodeNotRead: () => 'Nothing of the node was read in this window. Sources says whether its endpoint delivers.',
  notMounted: () => 'Never read: the node that mounts it tells its use, and no running pod mounts it in this window.',
  notToldByHost: () =>
    'Nothing of this is read of this machine. Its page, or what it pushes, has to give it by the open telemetry names for systems, or an administrator maps its own names.',
  requestsNotRead: () =>
    'Nothing of this was read in this window. Sources says whether the endpoints of its pods deliver.',
  noRequest: () => 'No request was answered in this window.',
  failuresNotTold: (of) =>
    `${of} does not tell which requests failed: it would need a label such as a status code, an outcome or the type of error.`,
  latencyNotTold: () => 'Its programs count requests, but no histogram of theirs tells how long they took.',
} as const satisfies Record<string, (of: string) => string>;
export type EmptyCode = keyof typeof EMPTINESS;
export const EMPTY_CODES = Object.keys(EMPTINESS) as [EmptyCode, ...EmptyCode[]]; // its own keys

/** `of`: the metric that it is about, where the words name one. */
export interface Emptiness {
  readonly code: EmptyCode;
  readonly of: string | null;
}
export const emptyBecause = (code: EmptyCode, of: string | null = null): Emptiness => ({ code, of });
export const emptyWords = ({ code, of }: Emptiness): string => (EMPTINESS[code] as (of: string) => string)(of ?? '');
