export { isUnread, linesOf, listed } from './answerLines.ts';
export { containerKey } from './containerKey.ts';
export { quotaOf } from './quotas.ts';
export { selects } from './selects.ts';
export { type ClusterView, narrowView, type PodState } from './view.ts';
export { claimKey, entriesOf, readVolumes, type VolumeRead, type VolumesRead, volumesFrom } from './volumesRead.ts';
