import { type Labels, seriesKey } from '../series/index.ts';
import { type Declaration, declaredFamily, type Family, isCumulative } from './families.ts';
import type { Form } from './forms.ts';
import type { PageLimits } from './limits.ts';
import { LineCursor } from './lineCursor.ts';
import { hashText, TableBuilder, type TableFamily } from './lineTable.ts';
import { CHECKS, checkOf, demand, isGrouped, MetricGroups } from './metricGroups.ts';
import type { FreshSeries, Page, PageMemory } from './page.ts';
import { type KnownFamily, PageFamilies } from './pageFamilies.ts';
import { type Exemplar, parseSample, type Sample } from './parseSample.ts';
import { LineError, type PageRefusal, Problems } from './problems.ts';

const NEWLINE = 10;
const HASH = 35;
const RETURN = 13;

/**
 * Reads a whole page line by line, a stretch at a time. A bad line costs that line and is reported; a page in the strict
 * form without its end mark, or past a limit, counts for nothing. Sources: OpenMetrics 1.0, "Text format"; the plain text
 * form, version 0.0.4, which allows more blanks, other comments, times in ms, and declares counters by their whole name.
 */
export class FullReading {
  private at = 0;
  private line = 0;
  private endSeen = false;
  private refused: PageRefusal | null = null;
  /** Something was wrong about how lines stand to each other: the page is not remembered. */
  private outOfOrder = false;
  private readonly problems: Problems;
  private readonly groups: MetricGroups;
  private readonly decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

  private readonly families: PageFamilies;
  private readonly slotOf = new Map<string, number>();
  /** By slot: the time of its last sample, null where it has none of its own. */
  private readonly lastTimes: (number | null)[] = [];
  private readonly moreTimes = new Set<string>();
  private readonly lastValues: number[] = [];
  private doubled = 0;
  private lost = 0;
  /** Of the line before, were it a sample. */
  private last: { readonly family: Family; readonly labels: Labels } | null = null;
  private readonly fresh: FreshSeries[] = [];
  private readonly values: number[] = [];
  private readonly times: number[] = [];
  private timed = false;
  private readonly slots: number[] = [];
  private readonly exemplars: { slot: number; exemplar: Exemplar }[] = [];
  private readonly table = new TableBuilder();

  private readonly bytes: Uint8Array;
  private readonly form: Form;
  private readonly limits: PageLimits;

  constructor(bytes: Uint8Array, form: Form, limits: PageLimits, refused: PageRefusal | null = null) {
    this.bytes = bytes;
    this.form = form;
    this.limits = limits;
    this.refused = refused;
    this.problems = new Problems(limits.problemsKept);
    this.groups = new MetricGroups(this.problems);
    this.families = new PageFamilies(form, limits, this.problems, this.groups);
  }

  /** Reads at most so many lines; false once there is nothing more to read. */
  step(lines: number): boolean {
    const { bytes } = this;
    for (let i = 0; i < lines; i++) {
      if (this.refused || this.at >= bytes.length) return false;
      const end = bytes.indexOf(NEWLINE, this.at);
      if (end < 0) {
        this.readRest();
        return false;
      }
      this.readLine(this.at, end);
      this.at = end + 1;
    }
    return true;
  }

  /** To be called once after `step` answered false. */
  finish(memory: PageMemory): Page {
    if (!this.refused && this.form === 'openmetrics' && !this.endSeen)
      this.refused = { code: 'noEnd', text: 'the page ends without “# EOF”: it was cut off' };
    if (!this.refused) this.families.leave(this.line);
    const families = [...this.families.byName.values()];
    if (!this.refused) this.remember(memory, families);
    const values = this.refused ? [] : this.values;
    return {
      form: this.form,
      values: Float64Array.from(values),
      times: this.timed && !this.refused ? Float64Array.from(this.times) : null,
      slots: this.refused ? new Int32Array(0) : memory.slots,
      doubled: this.doubled,
      lost: this.lost,
      unchanged: false,
      fresh: this.refused ? [] : this.fresh,
      exemplars: this.refused ? [] : this.exemplars,
      families: new Map(families.map(({ family }) => [family.name, family])),
      problems: this.problems.kept,
      problemCount: this.problems.count,
      bytes: this.bytes.length,
      lines: this.line,
      refused: this.refused,
    };
  }

  private remember(memory: PageMemory, families: readonly KnownFamily[]): void {
    memory.full++;
    memory.ids = new Int32Array(this.fresh.length);
    memory.slots = Int32Array.from(this.slots);
    // a series that stands at several times, or lines in a wrong order, are read in full each time
    const unseen = families.some(({ family, declaredBy }) => declaredBy === 0 && family.samples === 0);
    const inOrder = !this.outOfOrder && !this.families.outOfOrder;
    const repeatable = inOrder && !unseen && this.slots.length === this.fresh.length;
    memory.remember(
      repeatable
        ? this.table.build(
            this.form,
            this.bytes,
            families.map(
              ({ family, declaredBy, created }): TableFamily => ({
                family,
                declaredBy,
                simple: !created && !(this.form === 'openmetrics' && isGrouped(family)),
              }),
            ),
            Int32Array.from(this.fresh, ({ key }) => hashText(key)),
          )
        : null,
    );
  }

  private readRest(): void {
    const { bytes, at } = this;
    this.at = bytes.length;
    if (this.form === 'openmetrics') {
      // the line break after the end mark may be missing; any other unfinished line is torn and cannot be trusted
      if (!this.endSeen && this.textOf(at, bytes.length) === '# EOF') this.endLine(at, bytes.length);
      else if (this.endSeen) this.afterEnd();
    } else {
      this.line++;
      this.outOfOrder = true;
      this.problems.report('tornLine', this.line, 1, 'the last line has no end: it may have been cut off');
    }
  }
  private endLine(from: number, to: number): void {
    this.line++;
    this.endSeen = true;
    this.table.add(from, to, -1, -1, CHECKS.none);
  }
  private afterEnd(): void {
    this.line++;
    this.outOfOrder = true;
    if (this.problems.kept.at(-1)?.code !== 'afterEnd')
      this.problems.report('afterEnd', this.line, 1, 'text after “# EOF” is not read');
  }

  /** Null when it is no text. */
  private textOf(from: number, to: number): string | null {
    try {
      return this.decoder.decode(this.bytes.subarray(from, to));
    } catch {
      return null;
    }
  }

  private readLine(from: number, end: number): void {
    if (end - from > this.limits.lineBytes) {
      // a comment costs itself only
      if (this.bytes[from] === HASH) {
        this.line++;
        this.outOfOrder = true;
        this.problems.report('tooLong', this.line, 1, `the line is longer than ${this.limits.lineBytes} bytes`);
        return;
      }
      this.refused = {
        code: 'lineTooLong',
        text: `line ${this.line + 1} is longer than ${this.limits.lineBytes} bytes`,
      };
      return;
    }
    if (this.endSeen) {
      this.afterEnd();
      return;
    }
    const plain = this.form === 'plain';
    const to = plain && end > from && this.bytes[end - 1] === RETURN ? end - 1 : end;
    const line = this.textOf(from, to);
    this.line++;
    if (line === null) {
      this.lost++;
      this.problems.report('badText', this.line, 1, 'the line is not valid UTF-8');
      return;
    }
    try {
      const first = plain ? line.trimStart() : line;
      if (!plain && line === '# EOF') {
        this.line--;
        this.endLine(from, to);
      } else if (first.startsWith('#')) this.readComment(first, from, to);
      else if (first !== '') this.readSample(line, from, to);
      else if (!plain) throw new LineError('blankLine', 1, 'a blank line stands in the page');
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      if (this.bytes[from] !== HASH) this.lost++;
      this.problems.report(error.code, this.line, error.column, error.message);
    }
  }

  /** # TYPE name type · # UNIT name unit · # HELP name text; the plain form has other comments as well, which say nothing. */
  private readComment(line: string, from: number, to: number): void {
    const plain = this.form === 'plain';
    const parts = plain ? /^#[ \t]+(TYPE|HELP)[ \t]+/.exec(line) : /^# (TYPE|UNIT|HELP) /.exec(line);
    if (!parts) {
      if (plain) return;
      // what is wrong with a comment does not depend on other lines, but what it would have declared does
      this.outOfOrder = true;
      throw new LineError('badComment', 1, 'after # stands TYPE, UNIT, HELP or EOF');
    }
    const word = parts[1] as Declaration; // one of those in the pattern
    try {
      const cursor = new LineCursor(line, this.limits, this.form);
      cursor.at = parts[0].length;
      const { index } = this.families.declare(word, cursor, this.line);
      this.table.add(from, to, -1, index, CHECKS.none);
    } catch (error) {
      this.outOfOrder = true;
      throw error;
    }
  }
  private readSample(line: string, from: number, to: number): void {
    const { sample, valueAt } = parseSample(line, this.limits, this.form);
    const declared = this.inOrder(() => declaredFamily(this.families.declared, sample.name, this.form));
    const known =
      this.families.byName.get(declared?.family.name ?? sample.name) ?? this.families.enter(sample.name, this.line);
    this.families.moveTo(known, this.line);
    const ending = declared?.ending ?? '';
    const { family } = known;
    const strict = this.form === 'openmetrics';
    const check = strict ? checkOf(family, ending) : CHECKS.none;
    demand(check, sample.name, sample.value);
    if (sample.exemplar && !(ending === '_bucket' || (family.type === 'counter' && ending === '_total')))
      throw new LineError('badExemplar', 1, 'exemplars stand with counters and buckets only');
    const key = seriesKey(sample.name, sample.labels);
    const slotBefore = this.slotOf.get(key);
    if (slotBefore !== undefined) {
      if (this.isDoubled(slotBefore, sample)) return;
      this.inOrder(() => this.demandLater(slotBefore, key, sample.at));
      if (strict && !isGrouped(family) && !this.goesOn(family, sample.labels))
        this.problems.report('interleaved', this.line, 1, 'the samples of one series stand apart');
    }
    this.last = { family, labels: sample.labels };
    if (this.values.length >= this.limits.samples) {
      this.refused = { code: 'tooManySamples', text: `the page holds more than ${this.limits.samples} samples` };
      return;
    }
    if (strict && (isGrouped(family) || family.type === 'counter')) {
      if (ending === '_created') known.created = true;
      const before = this.problems.count;
      this.inOrder(() =>
        this.groups.add({ family, ending, labels: sample.labels, value: sample.value, at: sample.at, line: this.line }),
      );
      if (this.problems.count > before) this.outOfOrder = true;
    }
    const slot = this.slotFor(key, sample, isCumulative(family, sample.name, ending));
    family.samples++;
    this.values.push(sample.value);
    this.times.push(sample.at ?? Number.NaN);
    if (sample.at !== null) this.timed = true;
    this.slots.push(slot);
    if (sample.exemplar) this.exemplars.push({ slot, exemplar: sample.exemplar });
    const prefix = to - from === line.length ? valueAt : utf8Length(line.slice(0, valueAt));
    this.table.add(from, from + prefix, slot, known.index, check);
  }
  /** A line that is wrong because of others. */
  private inOrder<T>(work: () => T): T {
    try {
      return work();
    } catch (error) {
      this.outOfOrder = true;
      throw error;
    }
  }

  private slotFor(key: string, sample: Sample, cumulative: boolean): number {
    const known = this.slotOf.get(key);
    const slot = known ?? this.fresh.length;
    if (known === undefined) {
      this.slotOf.set(key, slot);
      this.fresh.push({ slot, name: sample.name, labels: sample.labels, key, cumulative });
    } else this.moreTimes.add(`${key}\u0000${sample.at}`);
    this.lastTimes[slot] = sample.at;
    this.lastValues[slot] = sample.value;
    return slot;
  }
  /** Throws when the series has this sample already, or one from later. */
  private demandLater(slot: number, key: string, at: number | null): void {
    const last = this.lastTimes[slot]!;
    if (at === null || last === null || at === last || this.moreTimes.has(`${key}\u0000${at}`))
      throw new LineError('duplicateSample', 1, 'the same series stands twice; the first counts');
    if (this.form === 'openmetrics' && at < last)
      throw new LineError('timeOrder', 1, 'the times of a series go forward');
  }
  /** The very point that stood there last: nothing is lost with it. */
  private isDoubled(slot: number, { at, value }: Sample): boolean {
    const doubled = at !== null && at === this.lastTimes[slot] && Object.is(value, this.lastValues[slot]);
    if (doubled) {
      this.doubled++;
      this.outOfOrder = true;
    }
    return doubled;
  }
  /** Whether the line before was of the same metric: its points follow each other, line by line. */
  private goesOn(family: Family, labels: Labels): boolean {
    return this.last?.family === family && seriesKey('', this.last.labels) === seriesKey('', labels);
  }
}

const encoder = new TextEncoder();
const utf8Length = (text: string): number => encoder.encode(text).length;
