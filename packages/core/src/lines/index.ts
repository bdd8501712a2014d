export { type BlockLine, decodeLines, encodeLines } from './block.ts';
export { ENTRY_LIMITS, Entries, type Entry, givenLine, momentOf, Resumed, type UpTo } from './entries.ts';
export { flattened, withMessage } from './fields.ts';
export { levelOfWord } from './level.ts';
export { type Field, LINE_LEVELS, LINE_LIMITS, type Line, type LineLevel, type SentLine } from './line.ts';
export {
  MASKED_KINDS,
  type MaskedCounts,
  type MaskedKind,
  masked,
  maskedAttributes,
  maskedField,
  nothingMasked,
  type OwnPattern,
  ownPattern,
} from './masking.ts';
export { type PartedLine, partLine } from './partLine.ts';
export { spanId, traceId } from './traceOf.ts';
export { mayHold, searchWords, wordFilter } from './wordFilter.ts';
export { type KeptWording, MOST_WORDINGS, OTHER, Wordings, wordsOf } from './wording.ts';
