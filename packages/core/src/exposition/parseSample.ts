import type { PageLimits } from './limits.ts';
import type { LineProblem } from './problems.ts';

export interface Sample {
  readonly name: string;
  /** Sorted by name; empty values are left out, since an empty label equals an absent one. */
  readonly labels: readonly (readonly [name: string, value: string])[];
  readonly value: number;
  /** Time given by the page itself, in ms; null when the reading's own time counts. */
  readonly at: number | null;
}

/** A sample as a page as a whole has it. */
export interface PageSample extends Sample {
  /** Name and labels in one canonical text: the series' identity within its endpoint. */
  readonly key: string;
  readonly cumulative: boolean;
}

/** Thrown and caught inside this folder only: ends the reading of one line. */
export class LineError extends Error {
  readonly code: LineProblem['code'];
  readonly column: number;
  constructor(code: LineProblem['code'], column: number, text: string) {
    super(text);
    this.code = code;
    this.column = column;
  }
}

const isNameStart = (c: number) => (c >= 97 && c <= 122) || (c >= 65 && c <= 90) || c === 95;
const isNamePart = (c: number) => isNameStart(c) || (c >= 48 && c <= 57);
const SPACE = 32;
const COLON = 58;

/** Owns the offset into one line; every small function below moves it. */
export class LineCursor {
  at = 0;
  readonly line: string;
  readonly limits: PageLimits;
  constructor(line: string, limits: PageLimits) {
    this.line = line;
    this.limits = limits;
  }
  peek(): number {
    return this.at < this.line.length ? this.line.charCodeAt(this.at) : -1;
  }
  get ended(): boolean {
    return this.at >= this.line.length;
  }
  fail(code: LineProblem['code'], text: string): never {
    throw new LineError(code, this.at + 1, text);
  }
}

export function readName(cursor: LineCursor, colonAllowed: boolean): string {
  const start = cursor.at;
  const allowed = (c: number, first: boolean) =>
    (first ? isNameStart(c) : isNamePart(c)) || (colonAllowed && c === COLON);
  if (!allowed(cursor.peek(), true)) cursor.fail('badName', 'a name starts with a letter or an underscore');
  while (allowed(cursor.peek(), false)) cursor.at++;
  if (cursor.at - start > cursor.limits.nameLength) {
    cursor.fail('tooLong', `a name has more than ${cursor.limits.nameLength} characters`);
  }
  return cursor.line.slice(start, cursor.at);
}

function readQuoted(cursor: LineCursor): string {
  if (cursor.peek() !== 34) cursor.fail('badLabels', 'expected a value in double quotes');
  cursor.at++;
  let start = cursor.at;
  let text = '';
  for (;;) {
    const c = cursor.peek();
    if (c === -1) cursor.fail('badLabels', 'the value in double quotes has no end');
    if (c === 34) break;
    if (c === 92) {
      text += cursor.line.slice(start, cursor.at);
      const escaped = cursor.line[cursor.at + 1];
      if (escaped === 'n') text += '\n';
      else if (escaped === '\\' || escaped === '"') text += escaped;
      else cursor.fail('badEscape', 'a backslash is followed by \\, " or n only');
      cursor.at += 2;
      start = cursor.at;
    } else cursor.at++;
    if (text.length + cursor.at - start > cursor.limits.labelValueLength) {
      cursor.fail('tooLong', `a label value has more than ${cursor.limits.labelValueLength} characters`);
    }
  }
  text += cursor.line.slice(start, cursor.at);
  if (text.includes('\u0000')) cursor.fail('badText', 'a label value holds a NUL character, which cannot be stored');
  cursor.at++;
  return text;
}

function readLabels(cursor: LineCursor): [string, string][] {
  const labels: [string, string][] = [];
  if (cursor.peek() !== 123) return labels;
  cursor.at++;
  while (cursor.peek() !== 125) {
    const column = cursor.at;
    const name = readName(cursor, false);
    if (cursor.peek() !== 61) cursor.fail('badLabels', 'expected = after the label name');
    cursor.at++;
    const value = readQuoted(cursor);
    if (labels.some(([known]) => known === name)) {
      throw new LineError('duplicateLabel', column + 1, `the label ${name} stands twice`);
    }
    labels.push([name, value]);
    if (labels.length > cursor.limits.labelsPerSample) {
      cursor.fail('tooManyLabels', `more than ${cursor.limits.labelsPerSample} labels`);
    }
    if (cursor.peek() === 44) {
      cursor.at++;
      if (cursor.peek() === 125) cursor.fail('badLabels', 'a comma is followed by a label');
    } else if (cursor.peek() !== 125) cursor.fail('badLabels', 'expected , or } after a label');
  }
  cursor.at++;
  return labels;
}

const NUMBER = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$/;

function readToken(cursor: LineCursor): string {
  const start = cursor.at;
  while (!cursor.ended && cursor.peek() !== SPACE) cursor.at++;
  return cursor.line.slice(start, cursor.at);
}

/** OpenMetrics 1.0, "Numbers": real numbers, infinities in either spelling, NaN; no hexadecimal, no blanks. */
function readNumber(token: string): number | null {
  if (NUMBER.test(token)) return Number(token);
  switch (token.toLowerCase()) {
    case 'nan':
      return Number.NaN;
    case '+inf':
    case 'inf':
    case '+infinity':
    case 'infinity':
      return Number.POSITIVE_INFINITY;
    case '-inf':
    case '-infinity':
      return Number.NEGATIVE_INFINITY;
    default:
      return null;
  }
}

function expectSpace(cursor: LineCursor, before: string): void {
  if (cursor.peek() !== SPACE) cursor.fail('badValue', `expected one blank before ${before}`);
  cursor.at++;
}

function readTime(cursor: LineCursor): number {
  const column = cursor.at + 1;
  const token = readToken(cursor);
  const seconds = readNumber(token);
  if (seconds === null || !Number.isFinite(seconds) || Math.abs(seconds) > 1e12) {
    throw new LineError('badTimestamp', column, `“${token.slice(0, 40)}” is not a time in seconds`);
  }
  return Math.round(seconds * 1000);
}

/** An exemplar is checked, so that a broken one is reported, and otherwise passed over. */
function checkExemplar(cursor: LineCursor): void {
  const column = cursor.at + 1;
  try {
    cursor.at++;
    expectSpace(cursor, 'the exemplar’s labels');
    if (cursor.peek() !== 123) cursor.fail('badExemplar', 'an exemplar starts with its labels');
    readLabels(cursor);
    expectSpace(cursor, 'the exemplar’s value');
    if (readNumber(readToken(cursor)) === null) cursor.fail('badExemplar', 'the exemplar’s value is not a number');
    if (!cursor.ended) {
      expectSpace(cursor, 'the exemplar’s time');
      readTime(cursor);
    }
    if (!cursor.ended) cursor.fail('badExemplar', 'text after the exemplar');
  } catch (error) {
    if (error instanceof LineError) throw new LineError('badExemplar', column, error.message);
    throw error;
  }
}

/** name{label="value",…} value [time in seconds] [# exemplar]; `valueAt`: characters before the value. */
export function parseSample(line: string, limits: PageLimits): { sample: Sample; valueAt: number } {
  const cursor = new LineCursor(line, limits);
  const name = readName(cursor, true);
  const labels = readLabels(cursor);
  expectSpace(cursor, 'the value');
  const column = cursor.at + 1;
  const token = readToken(cursor);
  const value = readNumber(token);
  if (value === null) throw new LineError('badValue', column, `“${token.slice(0, 40)}” is not a number`);
  let at: number | null = null;
  if (!cursor.ended) {
    expectSpace(cursor, 'the time');
    if (cursor.peek() !== 35) {
      at = readTime(cursor);
      if (!cursor.ended) expectSpace(cursor, 'the exemplar');
    }
    if (cursor.peek() === 35) checkExemplar(cursor);
    else if (!cursor.ended || cursor.line.endsWith(' ')) cursor.fail('badTimestamp', 'text after the time');
  }
  const kept = labels.filter(([, text]) => text !== '').sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
  return { sample: { name, labels: kept, value, at }, valueAt: column - 1 };
}
