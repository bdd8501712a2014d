import { seriesKey } from '../series/index.ts';
import { declaredFamily, type Family, isCumulative } from './families.ts';
import type { PageLimits } from './limits.ts';
import { LineCursor } from './lineCursor.ts';
import { beginsAs, hashText, type LineTable, PrefixIndex } from './lineTable.ts';
import { CHECKS, checkOf, passes } from './metricGroups.ts';
import type { Page, PageMemory } from './page.ts';
import { type Exemplar, parseIdentity, parseSample, parseTail } from './parseSample.ts';
import { LineError, Problems } from './problems.ts';
import { scanNumber } from './scanNumber.ts';
import { WarmChange } from './warmChange.ts';

const NEWLINE = 10;
const RETURN = 13;
const SPACE = 32;
const TAB = 9;
const HASH = 35;
/** A line that is not at its place is first looked for this far ahead: others went before it. */
const AHEAD = 16;

/**
 * Reads a page whose memory has its lines: where a line begins like the one expected, only its value is read; a line that
 * moved or is new costs no more than itself. Whatever would need a look at the page as a whole (declarations that
 * changed, lines that are wrong because of others) makes it give up: null, and the page is read in full. What it answers
 * is what reading in full answers.
 */
export function readWarm(bytes: Uint8Array, table: LineTable, memory: PageMemory, limits: PageLimits): Page | null {
  return new WarmReading(bytes, table, memory, limits).run();
}

class WarmReading {
  private readonly plain: boolean;
  private readonly problems: Problems;
  private readonly decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });
  private readonly values: Float64Array;
  private count = 0;
  private times: Float64Array | null = null;
  private readonly exemplars: { slot: number; exemplar: Exemplar }[] = [];
  private line = 0;
  private current = -1;
  private readonly finished: Uint8Array;
  private declarations = 0;
  private lastBucket = 0;
  private lost = 0;

  /** Set from the first line on that is not the expected one. */
  private change: WarmChange | null = null;
  /** Where each of the table's lines began, as long as nothing changed. */
  private readonly began: Int32Array;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly table: LineTable,
    private readonly memory: PageMemory,
    private readonly limits: PageLimits,
  ) {
    this.plain = table.form === 'plain';
    this.problems = new Problems(limits.problemsKept);
    // a line is at least two bytes long
    this.values = new Float64Array(Math.min(limits.samples + 1, table.count + 16));
    this.finished = new Uint8Array(table.families.length);
    this.began = new Int32Array(table.count);
  }

  run(): Page | null {
    const { bytes, table } = this;
    const { length } = bytes;
    let at = 0;
    let expected = 0;
    while (at < length) {
      // the end mark was read: what follows it is wrong about the page as a whole
      if (!this.plain && expected === table.count) return null;
      let i = expected;
      let end: number;
      if (i < table.count && beginsAs(table, i, bytes, at, length)) {
        end = at + table.prefixes[i]! - table.starts[i]!;
        while (end < length && bytes[end] !== NEWLINE) end++;
      } else {
        end = bytes.indexOf(NEWLINE, at);
        if (end < 0) end = length;
        i = this.find(at, end, expected);
        this.change ??= new WarmChange(table, this.memory, this.began, expected);
        if (i >= 0 && table.groupedBefore[i] !== table.groupedBefore[expected]) return null;
      }
      if (end - at > this.limits.lineBytes) return null;
      // only the end mark may miss its line break
      if (end === length && (this.plain || i !== table.count - 1)) return null;
      const to = this.plain && end > at && bytes[end - 1] === RETURN ? end - 1 : end;
      this.line++;
      if (i < 0) {
        if (!this.takeNew(at, to)) return null;
      } else {
        if (!this.takeKnown(i, at, to)) return null;
        expected = i + 1;
      }
      at = end + 1;
    }
    const complete = table.declarationsBefore[table.count] === this.declarations;
    if (!complete || table.groupedBefore[expected] !== table.groupedBefore[table.count]) return null;
    if (expected < table.count) this.change ??= new WarmChange(table, this.memory, this.began, expected);
    return this.page();
  }

  /** The table's line that begins like this one; -1 when there is none. */
  private find(at: number, end: number, expected: number): number {
    const { table, bytes } = this;
    for (let i = expected + 1; i < Math.min(table.count, expected + AHEAD); i++)
      if (beginsAs(table, i, bytes, at, end)) return i;
    let prefix = end;
    if (bytes[at] !== HASH) {
      if (this.plain && bytes[prefix - 1] === RETURN) prefix--;
      while (prefix > at && bytes[prefix - 1] !== SPACE && bytes[prefix - 1] !== TAB) prefix--;
    }
    this.memory.index ??= new PrefixIndex(table);
    return this.memory.index.find(bytes, at, prefix);
  }

  private takeKnown(i: number, at: number, to: number): boolean {
    const { table } = this;
    const prefix = at + table.prefixes[i]! - table.starts[i]!;
    const slot = table.slots[i]!;
    const family = table.familyOf[i]!;
    // lines may move between the same declarations only
    if (table.declarationsBefore[i] !== this.declarations) return false;
    if (slot < 0) {
      if (to !== prefix) return false;
      this.declarations++;
      if (family >= 0 && !this.moveTo(family)) return false;
      this.note(i, at, to, -1, family, CHECKS.none);
      return true;
    }
    let value = scanNumber(this.bytes, prefix, to);
    let time: number | null = null;
    let exemplar: Exemplar | null = null;
    if (value === null) {
      try {
        const text = this.decoder.decode(this.bytes.subarray(prefix, to));
        ({ value, at: time, exemplar } = parseTail(text, 0, this.limits, table.form));
      } catch {
        return false;
      }
    }
    const check = table.checks[i]! as 0 | 1 | 2 | 3 | 4 | 5 | 6; // written from a Check
    if (check !== CHECKS.none && !this.suits(check, i, value)) return false;
    if (exemplar && !this.exemplarAllowed(i)) return false;
    if (!this.moveTo(family) || !this.take(slot, value, time)) return false;
    if (exemplar) this.exemplars.push({ slot, exemplar });
    this.note(i, at, prefix, slot, family, check);
    return true;
  }
  private suits(check: 0 | 1 | 2 | 3 | 4 | 5 | 6, i: number, value: number): boolean {
    if (!passes(check, value)) return false;
    if (check === CHECKS.bucket) {
      const goesOn = i > 0 && this.table.checks[i - 1] === CHECKS.bucket && !this.isLast(i - 1);
      if (goesOn && value < this.lastBucket) return false;
      this.lastBucket = value;
    } else if (check === CHECKS.counted && value !== this.lastBucket) return false;
    return true;
  }
  /** Whether the bucket in this line reaches up to infinity, which ends its metric's buckets. */
  private isLast(i: number): boolean {
    const { table } = this;
    let { infinite } = this.memory;
    if (!infinite || infinite.length !== table.count) {
      infinite = new Uint8Array(table.count);
      for (let line = 0; line < table.count; line++) {
        if (table.checks[line] !== CHECKS.bucket) continue;
        const { labels } = this.identityOf(line);
        infinite[line] = /^\+?inf(inity)?$/i.test(labels.find(([name]) => name === 'le')?.[1] ?? '') ? 1 : 0;
      }
      this.memory.infinite = infinite;
    }
    return infinite[i] === 1;
  }
  private exemplarAllowed(i: number): boolean {
    const { table } = this;
    const { family } = table.families[table.familyOf[i]!]!; // samples have a family
    return table.checks[i] === CHECKS.bucket || (family.type === 'counter' && table.checks[i] === CHECKS.counts);
  }
  private identityOf(i: number) {
    const text = this.decoder.decode(this.table.bytes.subarray(this.table.starts[i], this.table.prefixes[i]));
    return parseIdentity(new LineCursor(text, this.limits, this.table.form));
  }

  private moveTo(family: number): boolean {
    if (family === this.current) return true;
    if (this.current >= 0) this.finished[this.current] = 1;
    this.current = family;
    if (this.finished[family] !== 1) return true;
    if (!this.plain) return false;
    this.finished[family] = 0;
    return true;
  }
  private take(slot: number, value: number, time: number | null): boolean {
    if (this.count >= this.limits.samples || this.count >= this.values.length) return false;
    const { change } = this;
    if (change && !change.see(slot)) return false;
    if (time !== null && !this.times) this.times = new Float64Array(this.values.length).fill(Number.NaN);
    if (time !== null) this.times![this.count] = time; // made on the line above
    this.values[this.count++] = value;
    return true;
  }
  private note(i: number, at: number, prefix: number, slot: number, family: number, check: 0 | 1 | 2 | 3 | 4 | 5 | 6) {
    if (this.change) this.change.table.add(at, prefix, slot, family, check);
    else this.began[i] = at;
  }

  /** A line that the memory does not have. */
  private takeNew(at: number, to: number): boolean {
    const { table, change } = this;
    let text: string;
    try {
      text = this.decoder.decode(this.bytes.subarray(at, to));
    } catch {
      this.lost++;
      this.problems.report('badText', this.line, 1, 'the line is not valid UTF-8');
      return true;
    }
    const first = this.plain ? text.trimStart() : text;
    if (first.startsWith('#')) return this.plain && !/^#[ \t]+(TYPE|HELP)[ \t]+/.test(first);
    try {
      if (first === '') {
        if (!this.plain) throw new LineError('blankLine', 1, 'a blank line stands in the page');
        return true;
      }
      const { sample, valueAt } = parseSample(text, this.limits, table.form);
      const place = this.familyFor(sample.name);
      if (place === null) return false;
      const { family, ending, index } = place;
      const check = this.plain ? CHECKS.none : checkOf(family, ending);
      if (!passes(check, sample.value) || !this.moveTo(index)) return false;
      if (sample.exemplar && check !== CHECKS.counts) return false;
      const key = seriesKey(sample.name, sample.labels);
      if (!change || this.isKnown(key, change)) return false;
      const slot = change.nextSlot++;
      if (!this.take(slot, sample.value, sample.at)) return false;
      const { name, labels } = sample;
      change.add({ name, labels, key, cumulative: isCumulative(family, name, ending) }, slot);
      if (sample.exemplar) this.exemplars.push({ slot, exemplar: sample.exemplar });
      const prefix = to - at === text.length ? valueAt : new TextEncoder().encode(text.slice(0, valueAt)).length;
      change.table.add(at, at + prefix, slot, index, check);
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      this.lost++;
      this.problems.report(error.code, this.line, error.column, error.message);
    }
    return true;
  }
  /** Null when the family is not one whose lines may come and go. */
  private familyFor(name: string): { family: Family; ending: string; index: number } | null {
    const { families } = this.table;
    const declared = new Map(
      families
        .filter(({ declaredBy }) => declaredBy > 0 && declaredBy <= this.declarations)
        .map(({ family }) => [family.name, family]),
    );
    let found: ReturnType<typeof declaredFamily>;
    try {
      found = declaredFamily(declared, name, this.table.form);
    } catch {
      return null;
    }
    const index = families.findIndex(({ family }) => family.name === (found?.family.name ?? name));
    const known = families[index];
    if (!known?.simple || known.declaredBy > this.declarations || found?.ending === '_created') return null;
    return { family: known.family, ending: found?.ending ?? '', index };
  }
  /** Whether a series stands in the memory already, though written otherwise. */
  private isKnown(key: string, change: WarmChange): boolean {
    if (change.freshKeys.has(key)) return true;
    const hash = hashText(key);
    const { table } = this;
    this.memory.hashes ??= new Set(table.keyHashes);
    if (!this.memory.hashes.has(hash)) return false;
    for (let i = 0; i < table.count; i++) {
      const slot = table.slots[i]!;
      if (slot < 0 || table.keyHashes[slot] !== hash) continue;
      const { name, labels } = this.identityOf(i);
      if (seriesKey(name, labels) === key) return true;
    }
    return false;
  }

  private page(): Page | null {
    const { table, memory, change, count } = this;
    const families = change ? change.remember(table, memory, this.bytes) : table.families;
    if (families === null) return null;
    memory.warm++;
    return {
      form: table.form,
      values: this.values.slice(0, count),
      times: this.times ? this.times.slice(0, count) : null,
      slots: memory.slots,
      doubled: 0,
      lost: this.lost,
      unchanged: change === null,
      fresh: change?.fresh ?? [],
      exemplars: this.exemplars,
      families: new Map(families.map(({ family }) => [family.name, family])),
      problems: this.problems.kept,
      problemCount: this.problems.count,
      bytes: this.bytes.length,
      lines: this.line,
      refused: null,
    };
  }
}
