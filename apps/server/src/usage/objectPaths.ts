import type { InventoryKind } from '@zetopsis/core/inventory';

/** A part of a path: "node:seaward-07", "volume-claim:archive-0". */
export const objectKey = ({ kind, name }: { kind: InventoryKind; name: string }): string =>
  `${kind.replaceAll(' ', '-')}:${name}`;

const KINDS = [
  'service',
  'volume claim',
  'quota',
  'limit range',
  'autoscaler',
  'disruption budget',
  'config map',
  'secret',
] as const;
export type ThingKind = (typeof KINDS)[number];

/** What stands in a namespace beside its workloads; null when this part names none of it. */
export function readThing(part: string): { kind: ThingKind; name: string } | null {
  const kind = KINDS.find((candidate) => part.startsWith(`${candidate.replaceAll(' ', '-')}:`));
  return kind === undefined ? null : { kind, name: part.slice(kind.length + 1) };
}

const NODE = 'node:';
const HOST = 'host:';
export const hostKey = (name: string): string => `${HOST}${name}`;
/** A machine outside all clusters stands where a cluster would. */
export const hostOf = (part: string | undefined): string | null =>
  part?.startsWith(HOST) ? part.slice(HOST.length) : null;
const TEAM = 'team:';
export const teamKey = (key: string): string => `${TEAM}${key}`;
/** What a team owns in a cluster stands where a namespace would. */
export const teamOf = (part: string | undefined): string | null =>
  part?.startsWith(TEAM) ? part.slice(TEAM.length) : null;
const VOLUME = 'persistent-volume:';
export const nodeKey = (name: string): string => `${NODE}${name}`;
export const volumeKey = (name: string): string => `${VOLUME}${name}`;
export const nodeOf = (part: string | undefined): string | null =>
  part?.startsWith(NODE) ? part.slice(NODE.length) : null;
export const volumeOf = (part: string | undefined): string | null =>
  part?.startsWith(VOLUME) ? part.slice(VOLUME.length) : null;

/** Namespace and pod of a part of the second path. */
export function readPodKey(part: string): { namespace: string; pod: string } | null {
  const colon = part.indexOf(':');
  return colon <= 0 ? null : { namespace: part.slice(0, colon), pod: part.slice(colon + 1) };
}

/** A container among those of all pods. */
export const containerKey = (podUid: string, container: string): string => `${podUid}/${container}`;
