import { seriesKey } from '../series/index.ts';
import { type Family, familyOf, isCumulative, METRIC_TYPES, type MetricType } from './families.ts';
import { DEFAULT_PAGE_LIMITS, type PageLimits } from './limits.ts';
import { LineCursor, LineError, parseSample, readName, type Sample } from './parseSample.ts';
import type { LineProblem, PageRefusal } from './problems.ts';

export interface PageSample extends Sample {
  /** Name and labels in one canonical text: the series' identity within its endpoint. */
  readonly key: string;
  readonly cumulative: boolean;
}

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

  constructor(limits: PageLimits = DEFAULT_PAGE_LIMITS) {
    this.limits = limits;
  }

  /** Takes the next piece. Answers false once the page is refused: the caller may stop reading. */
  push(piece: Uint8Array): boolean {
    if (this.refused) return false;
    this.bytes += piece.length;
    if (this.bytes > this.limits.pageBytes) {
      return this.refuse('pageTooLarge', `the page is larger than ${this.limits.pageBytes} bytes`);
    }
    let start = 0;
    for (;;) {
      const end = piece.indexOf(NEWLINE, start);
      if (end < 0) break;
      const line = this.takeLine(piece.subarray(start, end));
      if (line === null || this.refused) return false;
      this.readLine(line);
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
      if (line === '# EOF') this.endSeen = true;
    }
    if (!this.refused && !this.endSeen) this.refuse('noEnd', 'the page ends without “# EOF”: it was cut off');
    return {
      samples: this.refused ? [] : this.samples,
      families: this.families,
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

  private takeLine(tail: Uint8Array): string | null {
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
    try {
      return this.decoder.decode(bytes);
    } catch {
      this.report('badText', 1, 'the line is not valid UTF-8', this.line + 1);
      return '\u0000';
    }
  }

  private report(code: LineProblem['code'], column: number, text: string, line = this.line): void {
    this.problemCount++;
    if (this.problems.length < this.limits.problemsKept) this.problems.push({ code, line, column, text });
  }

  private readLine(line: string): void {
    this.line++;
    if (line === '\u0000') return; // reported by takeLine
    if (this.endSeen) {
      if (this.problems.at(-1)?.code !== 'afterEnd') this.report('afterEnd', 1, 'text after “# EOF” is not read');
      return;
    }
    try {
      if (line === '# EOF') this.endSeen = true;
      else if (line.startsWith('#')) this.readDeclaration(line);
      else if (line === '') throw new LineError('blankLine', 1, 'a blank line stands in the page');
      else this.readSample(line);
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

  private readSample(line: string): void {
    const sample = parseSample(line, this.limits);
    const family = familyOf(this.families, sample.name);
    this.moveTo(family);
    const cumulative = isCumulative(family, sample.name);
    if (cumulative && !(sample.value >= 0) && !sample.name.endsWith('_sum')) {
      throw new LineError('counterValue', 1, `${sample.name} counts up from 0; ${sample.value} cannot be`);
    }
    const key = seriesKey(sample.name, sample.labels);
    const once = sample.at === null ? key : `${key}\u0000${sample.at}`;
    if (this.seen.has(once))
      throw new LineError('duplicateSample', 1, 'the same series stands twice; the first counts');
    this.seen.add(once);
    if (this.samples.length >= this.limits.samples) {
      this.refuse('tooManySamples', `the page holds more than ${this.limits.samples} samples`);
      return;
    }
    if (family) family.samples++;
    this.samples.push({ ...sample, key, cumulative });
  }
}

/** A whole page at once. */
export function readPage(bytes: Uint8Array, limits: PageLimits = DEFAULT_PAGE_LIMITS): Page {
  const reader = new PageReader(limits);
  reader.push(bytes);
  return reader.end();
}
