import type { Labels } from '../series/index.ts';
import type { Form } from './forms.ts';
import type { PageLimits } from './limits.ts';
import { LineCursor, readName } from './lineCursor.ts';
import { readMilliseconds, readNumber, readPlainNumber, readSeconds } from './numbers.ts';
import { LineError } from './problems.ts';

/** One measured event that a counter or bucket is shown with. */
export interface Exemplar {
  readonly labels: Labels;
  readonly value: number;
  /** In ms; null when it was not given. */
  readonly at: number | null;
}
/** What stands behind name and labels. */
export interface SampleTail {
  readonly value: number;
  /** Time given by the page itself, in ms; null when the reading's own time counts. */
  readonly at: number | null;
  readonly exemplar: Exemplar | null;
}
export interface Sample extends SampleTail {
  readonly name: string;
  /** Sorted by name; empty values are left out, since an empty label equals an absent one. */
  readonly labels: Labels;
}
/** A sample as a page as a whole has it. */
export interface PageSample extends Sample {
  /** Name and labels in one canonical text: the series' identity within its endpoint. */
  readonly key: string;
  readonly cumulative: boolean;
}

/** OpenMetrics 1.0, "Exemplars": names and values of its labels together. */
const EXEMPLAR_CHARACTERS = 128;
const QUOTE = 34;
const HASH = 35;
const COMMA = 44;
const EQUALS = 61;
const BACKSLASH = 92;
const OPEN = 123;
const CLOSE = 125;

function readQuoted(cursor: LineCursor): string {
  if (cursor.peek() !== QUOTE) cursor.fail('badLabels', 'expected a value in double quotes');
  cursor.at++;
  let start = cursor.at;
  let text = '';
  for (;;) {
    const c = cursor.peek();
    if (c === -1) cursor.fail('badLabels', 'the value in double quotes has no end');
    if (c === QUOTE) break;
    if (c === BACKSLASH) {
      text += cursor.line.slice(start, cursor.at);
      const escaped = cursor.line[cursor.at + 1];
      if (escaped === undefined) cursor.fail('badEscape', 'a backslash is followed by a character');
      if (escaped === 'n') text += '\n';
      else if (escaped === '\\' || escaped === '"') text += escaped;
      // the grammar allows a backslash before any character, and says nothing of its meaning: both are kept
      else text += `\\${escaped}`;
      cursor.at += 2;
      start = cursor.at;
    } else cursor.at++;
    if (text.length + cursor.at - start > cursor.limits.labelValueLength)
      cursor.fail('tooLong', `a label value has more than ${cursor.limits.labelValueLength} characters`);
  }
  text += cursor.line.slice(start, cursor.at);
  if (text.includes('\u0000')) cursor.fail('badText', 'a label value holds a NUL character, which cannot be stored');
  cursor.at++;
  return text;
}

function readLabels(cursor: LineCursor): [string, string][] {
  const labels: [string, string][] = [];
  if (cursor.peek() !== OPEN) return labels;
  cursor.at++;
  cursor.passBlanks();
  while (cursor.peek() !== CLOSE) {
    const column = cursor.at;
    const name = readName(cursor, false);
    cursor.passBlanks();
    if (cursor.peek() !== EQUALS) cursor.fail('badLabels', 'expected = after the label name');
    cursor.at++;
    cursor.passBlanks();
    const value = readQuoted(cursor);
    cursor.passBlanks();
    if (labels.some(([known]) => known === name))
      throw new LineError('duplicateLabel', column + 1, `the label ${name} stands twice`);
    labels.push([name, value]);
    if (labels.length > cursor.limits.labelsPerSample)
      cursor.fail('tooManyLabels', `more than ${cursor.limits.labelsPerSample} labels`);
    if (cursor.peek() === COMMA) {
      cursor.at++;
      cursor.passBlanks();
      if (cursor.peek() === CLOSE && !cursor.plain) cursor.fail('badLabels', 'a comma is followed by a label');
    } else if (cursor.peek() !== CLOSE) cursor.fail('badLabels', 'expected , or } after a label');
  }
  cursor.at++;
  return labels;
}

const canonical = (labels: [string, string][]): Labels =>
  labels.filter(([, text]) => text !== '').sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));

function readValue(cursor: LineCursor): number {
  const column = cursor.at + 1;
  const token = cursor.readToken();
  const value = cursor.plain ? readPlainNumber(token) : readNumber(token);
  if (value === null) throw new LineError('badValue', column, `“${token.slice(0, 40)}” is not a number`);
  return value;
}

function readTime(cursor: LineCursor): number {
  const column = cursor.at + 1;
  const token = cursor.readToken();
  const ms = cursor.plain ? readMilliseconds(token) : readSeconds(token);
  if (ms === null)
    throw new LineError(
      'badTimestamp',
      column,
      `“${token.slice(0, 40)}” is not a time in ${cursor.plain ? 'whole milliseconds' : 'seconds'}`,
    );
  return ms;
}

function readExemplar(cursor: LineCursor): Exemplar {
  const column = cursor.at + 1;
  try {
    cursor.at++;
    cursor.expectBlank('the exemplar’s labels');
    if (cursor.peek() !== OPEN) cursor.fail('badExemplar', 'an exemplar starts with its labels');
    const labels = readLabels(cursor);
    const length = labels.reduce((sum, [name, value]) => sum + [...name].length + [...value].length, 0);
    if (length > EXEMPLAR_CHARACTERS)
      cursor.fail('badExemplar', `its labels have more than ${EXEMPLAR_CHARACTERS} characters together`);
    cursor.expectBlank('the exemplar’s value');
    const value = readNumber(cursor.readToken());
    if (value === null) cursor.fail('badExemplar', 'the exemplar’s value is not a number');
    let at: number | null = null;
    if (!cursor.ended) {
      cursor.expectBlank('the exemplar’s time');
      at = readTime(cursor);
    }
    if (!cursor.ended) cursor.fail('badExemplar', 'text after the exemplar');
    return { labels: canonical(labels), value, at };
  } catch (error) {
    if (error instanceof LineError) throw new LineError('badExemplar', column, error.message);
    throw error;
  }
}

function readTail(cursor: LineCursor): SampleTail {
  const value = readValue(cursor);
  let at: number | null = null;
  let exemplar: Exemplar | null = null;
  cursor.passBlanks();
  if (!cursor.ended) {
    if (!cursor.plain) cursor.expectBlank('the time');
    if (cursor.peek() !== HASH || cursor.plain) {
      at = readTime(cursor);
      cursor.passBlanks();
      if (!cursor.ended && !cursor.plain) cursor.expectBlank('the exemplar');
    }
    if (cursor.peek() === HASH && !cursor.plain) exemplar = readExemplar(cursor);
    else if (!cursor.ended || (!cursor.plain && cursor.line.endsWith(' ')))
      cursor.fail('badTimestamp', 'text after the time');
  }
  return { value, at, exemplar };
}

/** What stands from `valueAt` on, in a line whose beginning is known. */
export function parseTail(line: string, valueAt: number, limits: PageLimits, form: Form): SampleTail {
  const cursor = new LineCursor(line, limits, form);
  cursor.at = valueAt;
  return readTail(cursor);
}

/** Name and labels alone; `valueAt`: characters before the value. */
export function parseIdentity(cursor: LineCursor): { name: string; labels: Labels } {
  cursor.passBlanks();
  const name = readName(cursor, true);
  cursor.passBlanks();
  return { name, labels: canonical(readLabels(cursor)) };
}

/** name{label="value",…} value [time] [# exemplar]; `valueAt`: characters before the value. */
export function parseSample(line: string, limits: PageLimits, form: Form): { sample: Sample; valueAt: number } {
  const cursor = new LineCursor(line, limits, form);
  const { name, labels } = parseIdentity(cursor);
  // in the plain form the blank before the value may be missing after the labels
  if (!(cursor.plain && cursor.at > 0 && cursor.line[cursor.at - 1] === '}')) {
    const before = cursor.line[cursor.at - 1];
    if (!(cursor.plain && (before === ' ' || before === '\t'))) cursor.expectBlank('the value');
  }
  cursor.passBlanks();
  const valueAt = cursor.at;
  const tail = readTail(cursor);
  return { sample: { name, labels, value: tail.value, at: tail.at, exemplar: tail.exemplar }, valueAt };
}
