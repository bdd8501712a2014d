export { DamagedBytes } from './byteCursor.ts';
export { decodeChunk, encodeChunk, type Samples } from './chunk.ts';
export { EdgeBuffer } from './edgeBuffer.ts';
export { END_MARKER, isEndMarker } from './endMarker.ts';
export { decodeFrame, encodeFrame, type Frame } from './frame.ts';
export { grownWithin } from './grownWithin.ts';
export { type EdgeReading, Layout, LiveEdge, type Sample } from './liveEdge.ts';
export { type Merged, mergeSamples } from './merge.ts';
export {
  AGGREGATES,
  type Aggregate,
  columnsFor,
  grown,
  joinRollUps,
  type PackedRollUp,
  packRollUp,
  type RollUp,
  rollUp,
  samplesOfRollUp,
  sliceRollUp,
  unpackRollUp,
} from './rollUp.ts';
export { roomFor } from './room.ts';
export { joinedAt, type RolledSamples, type RolledSeam, rolledOn } from './seam.ts';
export {
  BESIDE,
  type Beside,
  type BesideColumns,
  columnsOfRows,
  type PackedRow,
  type SeriesRead,
  SeriesReader,
} from './seriesReader.ts';
export { HOLDS_AT_MOST, holdOf, stalenessOf, widerAt } from './spacing.ts';
