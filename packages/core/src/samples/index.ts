export { DamagedBytes } from './byteCursor.ts';
export { decodeChunk, encodeChunk, type Samples } from './chunk.ts';
export { END_MARKER, isEndMarker } from './endMarker.ts';
export { decodeFrame, encodeFrame, type Frame } from './frame.ts';
