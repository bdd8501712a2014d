export { type Labels, seriesKey } from './seriesKey.ts';
export { type LabelMatch, type SeriesEntry, SeriesTable } from './seriesTable.ts';
