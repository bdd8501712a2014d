import { asWire, child, type Wire } from '../inventory/wireReader.ts';
import { flattened, LINE_LIMITS, levelOfWord, type SentLine, spanId, traceId, withMessage } from '../lines/index.ts';
import { toTheEnd } from '../steps/index.ts';
import { BadPart, hexOf, items, itemsByResource, number, type OfResource, plainValue } from './requestParts.ts';
import { FIELD, SEVERITY } from './wire-names.ts';

export interface PushedLogs {
  readonly resources: readonly OfResource<SentLine>[];
  readonly refused: number;
  /** Why the first of those was refused. */
  readonly problem: string | null;
}
const MOST = { resources: 500, items: 50_000 };
/** How far ahead of us a clock may be, and how old a line, ms. */
const AHEAD = 10 * 60_000;
const OLD = 7 * 86_400_000;

/** Lines of a logs request of the open telemetry protocol. A bad record costs that record. `now` in ms. */
export function readLogs(request: unknown, now: number): PushedLogs {
  return toTheEnd(readLogsBySteps(request, now));
}
/** The same, record by record. */
export function readLogsBySteps(request: unknown, now: number): Generator<void, PushedLogs> {
  return itemsByResource(request, [FIELD.logs, FIELD.scopeLogs, FIELD.records], MOST, (wire) => lineOf(wire, now));
}

/** A time that was not set is 0, and is when it was observed, else now. */
function timeOf(wire: Wire, now: number): number {
  const nanos = number(wire, FIELD.time) || number(wire, FIELD.observed) || 0;
  const at = nanos === 0 ? now : Math.round(nanos / 1000) / 1000;
  if (!Number.isFinite(at) || at > now + AHEAD) throw new BadPart('the time of a line lies in the future');
  if (at < now - OLD) throw new BadPart('a line is older than is taken');
  return at;
}
function lineOf(wire: Wire, now: number): SentLine {
  const at = timeOf(wire, now);
  const body = plainValue(child(wire, FIELD.body));
  const parted = typeof body === 'object' && body !== null ? withMessage(flattened(body)) : null;
  const own = items(wire, FIELD.attributes, 1000).flatMap((one) => {
    const pair = asWire(one);
    const key = pair[FIELD.key];
    return typeof key === 'string' && key !== '' ? flattened(plainValue(child(pair, FIELD.value)), key) : [];
  });
  const fields = [...(parted?.fields ?? []), ...own].slice(0, LINE_LIMITS.fields);
  const severity = number(wire, FIELD.severity) ?? 0;
  const word = wire[FIELD.severityText];
  return {
    at,
    severity: severity > 0 || typeof word !== 'string' ? severity : severityOfWord(word),
    text: parted?.text ?? (body === null ? '' : String(body)),
    fields,
    traceId: traceId(hexOf(wire[FIELD.traceId])),
    spanId: spanId(hexOf(wire[FIELD.spanId])),
  };
}
/** Where a record has only the word that its program uses. */
function severityOfWord(word: string): number {
  const level = levelOfWord(word.trim());
  return level === null ? 0 : SEVERITY[level];
}
