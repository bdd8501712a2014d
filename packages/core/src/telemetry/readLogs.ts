import { asWire, child, type Wire } from '../inventory/wireReader.ts';
import { flattened, LINE_LIMITS, levelOfWord, type SentLine, spanId, traceId, withMessage } from '../lines/index.ts';
import { toTheEnd } from '../steps/index.ts';
import { BadPart, hexOf, items, number, plainValue, resourceAttributes } from './requestParts.ts';
import { FIELD } from './wire-names.ts';

/** Lines of one sender. */
export interface PushedLines {
  readonly attributes: ReadonlyMap<string, string>;
  readonly lines: readonly SentLine[];
}
export interface PushedLogs {
  readonly resources: readonly PushedLines[];
  readonly refused: number;
  /** Why the first of those was refused. */
  readonly problem: string | null;
}
interface LogLimits {
  readonly lines: number;
  readonly resources: number;
  /** How far ahead of us a clock may be, ms. */
  readonly ahead: number;
  /** How old a line may be, ms. */
  readonly old: number;
}
const DEFAULT_LIMITS: LogLimits = { lines: 50_000, resources: 500, ahead: 10 * 60_000, old: 7 * 86_400_000 };

/** Lines of a logs request of the open telemetry protocol. A bad record costs that record. `now` in ms. */
export function readLogs(request: unknown, now: number, limits: Partial<LogLimits> = {}): PushedLogs {
  return toTheEnd(readLogsBySteps(request, now, limits));
}
/** The same, record by record. */
export function* readLogsBySteps(
  request: unknown,
  now: number,
  given: Partial<LogLimits> = {},
): Generator<void, PushedLogs> {
  const limits = { ...DEFAULT_LIMITS, ...given };
  const resources: PushedLines[] = [];
  let refused = 0;
  let problem: string | null = null;
  let taken = 0;
  const guarded = <T>(work: () => T): T | undefined => {
    try {
      return work();
    } catch (error) {
      if (!(error instanceof BadPart)) throw error;
      refused++;
      problem ??= error.message;
      return undefined;
    }
  };
  for (const foreign of guarded(() => items(asWire(request), FIELD.logs, limits.resources)) ?? []) {
    const wire = asWire(foreign);
    const attributes = guarded(() => resourceAttributes(wire)) ?? new Map<string, string>();
    const lines: SentLine[] = [];
    for (const scope of guarded(() => items(wire, FIELD.scopeLogs, 1000)) ?? [])
      for (const record of guarded(() => items(asWire(scope), FIELD.records, limits.lines)) ?? []) {
        const line = guarded(() => {
          if (++taken > limits.lines) throw new BadPart(`more than ${limits.lines} lines at once`);
          return lineOf(asWire(record), now, limits);
        });
        if (line) lines.push(line);
        yield;
      }
    if (lines.length > 0) resources.push({ attributes, lines });
  }
  return { resources, refused, problem };
}

/** A time that was not set is 0, and is when it was observed, else now. */
function timeOf(wire: Wire, now: number, { ahead, old }: LogLimits): number {
  const nanos = number(wire, FIELD.time) || number(wire, FIELD.observed) || 0;
  const at = nanos === 0 ? now : Math.round(nanos / 1000) / 1000;
  if (!Number.isFinite(at) || at > now + ahead) throw new BadPart('the time of a line lies in the future');
  if (at < now - old) throw new BadPart('a line is older than is taken');
  return at;
}
function lineOf(wire: Wire, now: number, limits: LogLimits): SentLine {
  const at = timeOf(wire, now, limits);
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
  return level === null ? 0 : SEVERITIES[level];
}
const SEVERITIES = { trace: 1, debug: 5, info: 9, warning: 13, error: 17, fatal: 21 } as const;
