import { seriesKey } from '../series/index.ts';
import { type Family, familyOf, isCumulative, METRIC_TYPES, type MetricType } from './families.ts';
import { DEFAULT_PAGE_LIMITS, type PageLimits } from './limits.ts';
import { type PageMemory, PageRecorder, type RememberedPage } from './pageMemory.ts';
import { LineCursor, LineError, type PageSample, parseSample, readName } from './parseSample.ts';
import type { LineProblem, PageRefusal } from './problems.ts';
import { scanNumber } from './scanNumber.ts';

export interface Page {
  readonly samples: readonly PageSample[];
  readonly families: ReadonlyMap<string, Family>;
  readonly problems: readonly LineProblem[];
  readonly problemCount: number;
  readonly bytes: number;
  readonly lines: number;
  /** Set when the page as a whole counts for nothing. */
  readonly refused: PageRefusal | null;
}

const NEWLINE = 10;

/**
 * Reads an OpenMetrics 1.0 text page piece by piece, whatever the pieces' borders. A bad line costs that line and is
 * reported; a page without `# EOF`, or past a limit, counts for nothing. Source: OpenMetrics 1.0, "Text format".
 *
 * With a memory of the endpoint's last page it is read warm: as long as each line begins like the line at its place
 * there, only its value is read. From the first line that does not, the page is read in full. Either way the answer is
 * the same.
 */
export class PageReader {
  private readonly limits: PageLimits;
  private readonly decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
  /** Bytes after the last line break seen, kept in pieces so that a line sent byte by byte is not copied each time. */
  private rest: Uint8Array[] = [];
  private restBytes = 0;
  private samples: PageSample[] = [];
  private readonly families = new Map<string, Family>();
  private readonly seen = new Set<string>();
  private readonly finished = new Set<Family>();
  private current: Family | undefined;
  private problems: LineProblem[] = [];
  private problemCount = 0;
  private bytes = 0;
  private line = 0;
  private endSeen = false;
  private refused: PageRefusal | null = null;

  private readonly memory: PageMemory | null;
  /** Set while every line was like the one at its place in it. */
  private warm: RememberedPage | null;
  /** Takes lines that are read in full, when there is a memory; null while warm. */
  private recorder: PageRecorder | null;
  private timed = false;

  constructor(limits: PageLimits = DEFAULT_PAGE_LIMITS, memory: PageMemory | null = null) {
    this.limits = limits;
    this.memory = memory;
    this.warm = memory?.last ?? null;
    this.recorder = memory && !this.warm ? new PageRecorder(null, 0) : null;
  }

  /** Takes the next piece. Answers false once the page is refused: the caller may stop reading. */
  push(given: Uint8Array): boolean {
    if (this.refused) return false;
    // whatever kind of byte list it is: lines are compared fastest as plain ones
    const piece = new Uint8Array(given.buffer, given.byteOffset, given.length);
    this.bytes += piece.length;
    if (this.bytes > this.limits.pageBytes) {
      return this.refuse('pageTooLarge', `the page is larger than ${this.limits.pageBytes} bytes`);
    }
    let start = 0;
    for (;;) {
      if (this.warm && this.restBytes === 0) start = this.readWarmLines(this.warm, piece, start);
      const end = piece.indexOf(NEWLINE, start);
      if (end < 0) break;
      const line = this.takeLine(piece.subarray(start, end));
      if (line === null) return false;
      if (!this.warm || !this.readWarmWhole(this.warm, line)) this.readLine(line);
      if (this.refused) return false;
      start = end + 1;
    }
    if (start < piece.length) {
      // the caller may reuse its buffer, so the rest is copied
      this.rest.push(piece.slice(start));
      this.restBytes += piece.length - start;
      if (this.restBytes > this.limits.lineBytes) return this.refuseLine();
    }
    return true;
  }

  end(): Page {
    if (!this.refused && !this.endSeen && this.restBytes > 0) {
      const line = this.takeLine(new Uint8Array(0));
      // the line break after the end mark may be missing; any other unfinished line is torn and cannot be trusted
      if (line !== null && this.textOf(line) === '# EOF') this.endSeen = true;
    }
    if (!this.refused && !this.endSeen) this.refuse('noEnd', 'the page ends without “# EOF”: it was cut off');
    if (this.warm && (this.refused || this.line < this.warm.samples.length)) this.cool(this.warm);
    if (this.memory && this.recorder && !this.refused && this.problemCount === 0 && !this.timed)
      this.memory.last = this.recorder.finish(this.families);
    return {
      samples: this.refused ? [] : this.samples,
      families: this.warm?.families ?? this.families,
      problems: this.problems,
      problemCount: this.problemCount,
      bytes: this.bytes,
      lines: this.line,
      refused: this.refused,
    };
  }

  private refuse(code: PageRefusal['code'], text: string): false {
    this.refused = { code, text };
    this.rest = [];
    this.restBytes = 0;
    return false;
  }

  private refuseLine(): false {
    return this.refuse('lineTooLong', `line ${this.line + 1} is longer than ${this.limits.lineBytes} bytes`);
  }

  private takeLine(tail: Uint8Array): Uint8Array | null {
    const length = this.restBytes + tail.length;
    if (length > this.limits.lineBytes) {
      this.refuseLine();
      return null;
    }
    let bytes = tail;
    if (this.restBytes > 0) {
      bytes = new Uint8Array(length);
      let at = 0;
      for (const piece of this.rest) {
        bytes.set(piece, at);
        at += piece.length;
      }
      bytes.set(tail, at);
      this.rest = [];
      this.restBytes = 0;
    }
    return bytes;
  }

  /** Null when it is no text, which is reported. */
  private textOf(bytes: Uint8Array): string | null {
    try {
      return this.decoder.decode(bytes);
    } catch {
      this.report('badText', 1, 'the line is not valid UTF-8', this.line + 1);
      return null;
    }
  }

  // ---- warm -------------------------------------------------------------------------------------------------------

  /**
   * Reads whole lines of a piece as long as they are as they were, and answers where the first other one begins. The end
   * of a line is looked for only after the part that is known.
   */
  private readWarmLines(warm: RememberedPage, piece: Uint8Array, start: number): number {
    let from = start;
    while (this.line < warm.samples.length && beginsAs(warm, this.line, piece, from, piece.length)) {
      let to = from + warm.prefixes[this.line]! - warm.starts[this.line]!;
      while (to < piece.length && piece[to] !== NEWLINE) to++;
      if (to === piece.length || !this.readWarm(warm, piece, from, to)) break;
      from = to + 1;
    }
    return from;
  }

  /** A line that came in pieces, or that is not as it was: then the page is read in full from it on. */
  private readWarmWhole(warm: RememberedPage, line: Uint8Array): boolean {
    if (this.line < warm.samples.length && beginsAs(warm, this.line, line, 0, line.length))
      return this.readWarm(warm, line, 0, line.length);
    this.cool(warm);
    return false;
  }
  /** Takes the line between `from` and `to`, which begins as it did; false when the rest of it is not of the known kind. */
  private readWarm(warm: RememberedPage, bytes: Uint8Array, from: number, to: number): boolean {
    const i = this.line;
    const sample = warm.samples[i];
    const value =
      sample === undefined || to - from > this.limits.lineBytes ? null : this.valueOf(warm, i, sample, bytes, from, to);
    if (value === null) {
      this.cool(warm);
      return false;
    }
    this.line++;
    if (sample) {
      const { name, labels, key, cumulative } = sample;
      this.samples.push({ name, labels, value, at: null, key, cumulative });
    } else if (isEnd(bytes, from, to)) this.endSeen = true;
    return true;
  }

  /** The value of a line that begins as it did; 0 of a declaration. Null when it is one to be read in full. */
  private valueOf(
    warm: RememberedPage,
    i: number,
    sample: PageSample | null,
    bytes: Uint8Array,
    from: number,
    to: number,
  ): number | null {
    const prefix = warm.prefixes[i]! - warm.starts[i]!;
    if (sample === null) return to - from === prefix ? 0 : null;
    if (this.samples.length >= this.limits.samples) return null;
    const value = scanNumber(bytes, from + prefix, to) ?? this.valueInFull(bytes.subarray(from, to));
    return value === null || (sample.cumulative && uncountable(sample.name, value)) ? null : value;
  }
  /** Infinities, NaN, and what has an exemplar; not what has a time or is wrong. */
  private valueInFull(line: Uint8Array): number | null {
    try {
      const { sample } = parseSample(this.decoder.decode(line), this.limits);
      return sample.at === null ? sample.value : null;
    } catch {
      return null; // it is read again, and reported
    }
  }

  /** Makes everything as if the lines so far had been read in full. */
  private cool(warm: RememberedPage): void {
    this.warm = null;
    this.recorder = new PageRecorder(warm, this.line);
    for (let i = 0; i < this.line; i++) {
      const sample = warm.samples[i]!;
      if (sample) this.enterSample(familyOf(this.families, sample.name), sample.key);
      else {
        const text = this.decoder.decode(warm.bytes.subarray(warm.starts[i], warm.starts[i + 1]));
        if (text !== '# EOF') this.readDeclaration(text);
      }
    }
  }

  private report(code: LineProblem['code'], column: number, text: string, line = this.line): void {
    this.problemCount++;
    if (this.problems.length < this.limits.problemsKept) this.problems.push({ code, line, column, text });
  }

  private readLine(bytes: Uint8Array): void {
    const line = this.textOf(bytes);
    this.line++;
    if (line === null) return;
    if (this.endSeen) {
      if (this.problems.at(-1)?.code !== 'afterEnd') this.report('afterEnd', 1, 'text after “# EOF” is not read');
      return;
    }
    try {
      if (line === '# EOF') this.endSeen = true;
      else if (line.startsWith('#')) this.readDeclaration(line);
      else if (line === '') throw new LineError('blankLine', 1, 'a blank line stands in the page');
      else {
        this.readSample(line, bytes);
        return;
      }
      this.recorder?.add(bytes, bytes.length, null);
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      this.report(error.code, error.column, error.message);
    }
  }

  /** # TYPE name type · # UNIT name unit · # HELP name text */
  private readDeclaration(line: string): void {
    const cursor = new LineCursor(line, this.limits);
    const word = line.slice(2, 6);
    if (line[1] !== ' ' || line[6] !== ' ' || !['TYPE', 'UNIT', 'HELP'].includes(word)) {
      throw new LineError('badComment', 1, 'after # stands TYPE, UNIT, HELP or EOF');
    }
    cursor.at = 7;
    const name = readName(cursor, true);
    if (!cursor.ended && cursor.peek() !== 32) cursor.fail('badComment', 'expected one blank after the metric name');
    const text = line.slice(cursor.at + 1);
    const family = this.enter(name);
    if (family.samples > 0) throw new LineError('lateDeclaration', 1, `${word} of ${name} comes after its samples`);
    if (word === 'TYPE') {
      if (!(METRIC_TYPES as readonly string[]).includes(text)) {
        throw new LineError('badComment', cursor.at + 2, `“${text.slice(0, 40)}” is not a type of metric`);
      }
      family.type = text as MetricType; // checked on the line above
    } else if (word === 'UNIT') family.unit = text.slice(0, this.limits.nameLength);
    else family.help = text.slice(0, this.limits.labelValueLength);
  }

  private enter(name: string): Family {
    let family = this.families.get(name);
    if (!family) {
      family = { name, type: 'unknown', unit: '', help: '', samples: 0 };
      this.families.set(name, family);
    }
    this.moveTo(family);
    return family;
  }

  private moveTo(family: Family | undefined): void {
    if (family === this.current) return;
    if (this.current) this.finished.add(this.current);
    this.current = family;
    if (family && this.finished.has(family)) {
      this.finished.delete(family);
      this.report('interleaved', 1, `lines of ${family.name} stand in more than one place of the page`);
    }
  }

  private readSample(line: string, bytes: Uint8Array): void {
    const { sample, valueAt } = parseSample(line, this.limits);
    const family = familyOf(this.families, sample.name);
    this.moveTo(family);
    const cumulative = isCumulative(family, sample.name);
    if (cumulative && uncountable(sample.name, sample.value)) {
      throw new LineError('counterValue', 1, `${sample.name} counts up from 0; ${sample.value} cannot be`);
    }
    const key = seriesKey(sample.name, sample.labels);
    const once = sample.at === null ? key : `${key}\u0000${sample.at}`;
    if (this.seen.has(once))
      throw new LineError('duplicateSample', 1, 'the same series stands twice; the first counts');
    if (this.samples.length >= this.limits.samples) {
      this.refuse('tooManySamples', `the page holds more than ${this.limits.samples} samples`);
      return;
    }
    this.enterSample(family, once);
    if (sample.at !== null) this.timed = true;
    const read = { ...sample, key, cumulative };
    this.samples.push(read);
    this.recorder?.add(bytes, bytes.length === line.length ? valueAt : utf8Length(line.slice(0, valueAt)), read);
  }

  private enterSample(family: Family | undefined, once: string): void {
    this.moveTo(family);
    this.seen.add(once);
    if (family) family.samples++;
  }
}

const encoder = new TextEncoder();
const utf8Length = (text: string): number => encoder.encode(text).length;

/** What counts up from 0 is never below it; sums of what may be negative are. */
const uncountable = (name: string, value: number): boolean => !(value >= 0) && !name.endsWith('_sum');

const END = encoder.encode('# EOF');
const isEnd = (bytes: Uint8Array, from: number, to: number): boolean =>
  to - from === END.length && END.every((octet, i) => octet === bytes[from + i]);

/** Whether a line begins with the bytes that stood before the value at this place. */
function beginsAs(warm: RememberedPage, i: number, bytes: Uint8Array, from: number, to: number): boolean {
  const before = warm.bytes;
  const start = warm.starts[i]!;
  const length = warm.prefixes[i]! - start;
  if (to - from < length) return false;
  // from its end: lines differ in their last labels mostly
  for (let at = length - 1; at >= 0; at--) if (bytes[from + at] !== before[start + at]) return false;
  return true;
}

/** A whole page at once. */
export function readPage(
  bytes: Uint8Array,
  limits: PageLimits = DEFAULT_PAGE_LIMITS,
  memory: PageMemory | null = null,
): Page {
  const reader = new PageReader(limits, memory);
  reader.push(bytes);
  return reader.end();
}
