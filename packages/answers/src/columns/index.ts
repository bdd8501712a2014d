export type { Owners } from './clusterRows.ts';
export { ClusterColumns } from './columns.ts';
export { countedFigures, type OtherFigures, type OtherRead, ReadFigures, volumesRead } from './otherFigures.ts';
export type { PodFlows } from './podFlows.ts';
export { rowOf } from './rows.ts';
export { type OwnFlows, tableOf, tableRows, withFlows } from './table.ts';
export { columnsBelow, loadedPath, nodeAt, uidsOf } from './walkPath.ts';
