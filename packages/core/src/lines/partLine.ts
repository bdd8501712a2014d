import { storable } from '../inventory/wireReader.ts';
import { partBody } from './fields.ts';
import { levelInText, levelOfFields, levelOfSeverity } from './level.ts';
import { type Field, LINE_LIMITS, type Line, type SentLine } from './line.ts';
import { type MaskedCounts, masked, maskedField, type OwnPattern } from './masking.ts';
import { traceInFields } from './traceOf.ts';

/** What a line is made of, before its wording is numbered. */
export type PartedLine = Omit<Line, 'wording'>;

const cut = (text: string, length: number): string =>
  text.length <= length ? storable(text, length) : `${storable(text, length - 1)}…`;

/**
 * In the order that counts: sizes, parts, level, trace, and last of all secrets out of everything that is left: nothing of a line is
 * kept, counted or shown before.
 */
export function partLine(sent: SentLine, counts: MaskedCounts, own: readonly OwnPattern[] = []): PartedLine {
  const body = cut(sent.text, LINE_LIMITS.text);
  const parted = partBody(body);
  const fields = [...(parted?.fields ?? []), ...sent.fields].slice(0, LINE_LIMITS.fields);
  const text = parted === null ? body : parted.text;
  return {
    at: sent.at,
    level: levelOfSeverity(sent.severity) ?? levelOfFields(fields) ?? levelInText(text),
    text: masked(text, counts, own),
    fields: fields.map((field): Field => maskedField(field, counts, own)),
    traceId: sent.traceId !== '' ? sent.traceId : traceInFields(fields),
    spanId: sent.spanId,
  };
}
