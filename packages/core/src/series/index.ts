export { LabelIndex, type LabelMatch } from './labelIndex.ts';
export { type Labels, seriesKey } from './seriesKey.ts';
