/** How lines of a program begin that stand by themselves. */
type Head = 'object' | 'time' | 'level' | null;
/** One line of a container as its cluster gives it: when it was written, by the cluster's clock, in its own words too. */
export interface GivenLine {
  /** RFC 3339 with up to nine digits of fractions. */
  readonly stamp: string;
  readonly text: string;
}
/** Up to where lines of a container were taken: the stamp of the last one, and how many bear just that. */
export interface UpTo {
  readonly stamp: string;
  readonly same: number;
  /** How lines of the container begin, once that is known. */
  readonly head?: Head;
}
/** Lines that are one entry, joined. */
export interface Entry {
  /** ms, with fractions. */
  readonly at: number;
  readonly text: string;
  readonly upTo: UpTo;
}
export const ENTRY_LIMITS = { lines: 500, letters: 64 * 1024, wait: 1000 } as const;

const TIME =
  /^[[("']{0,2}(?:time=|ts=)?"?(?:\d{4}[-/]\d\d[-/]\d\d|\d\d:\d\d:\d\d|[A-Z][a-z]{2} [ \d]\d \d\d:\d\d|\d{10}(?:\d{3})?[ .,\]])/;
const LEVEL = /^[[<(]?(?:TRACE|DEBUG|INFO|NOTICE|WARN|WARNING|ERROR|FATAL|PANIC|CRITICAL)\b|^level=/;
/** So many entries one after the other that began alike say how this container's lines begin. */
const ENOUGH = 3;
const headOf = (text: string): Head =>
  text.startsWith('{') ? 'object' : TIME.test(text) ? 'time' : LEVEL.test(text) ? 'level' : null;

/**
 * Joins lines that belong together: one that begins with white space or `Caused by`, or lacks the time or level that the container's lines
 * begin with, goes to the one before. Holds at most one entry, within `ENTRY_LIMITS`.
 */
export class Entries {
  private open: { first: GivenLine; head: Head; texts: string[]; letters: number; upTo: UpTo } | null = null;
  private upTo: UpTo;
  private usual: Head = null;
  private alike = 0;

  /** `after`: up to where they were taken before. */
  constructor(after: UpTo | null = null) {
    this.upTo = after ?? { stamp: '', same: 0 };
    if (after?.head) {
      this.usual = after.head;
      this.alike = ENOUGH;
    }
  }

  get isOpen(): boolean {
    return this.open !== null;
  }
  /** The entry that this line ends, if any. */
  push(line: GivenLine): Entry | null {
    this.upTo =
      line.stamp === this.upTo.stamp ? { stamp: line.stamp, same: this.upTo.same + 1 } : { stamp: line.stamp, same: 1 };
    if (this.open && this.belongs(line.text, this.open)) {
      this.open.texts.push(line.text);
      this.open.letters += line.text.length + 1;
      this.open.upTo = this.upTo;
      return null;
    }
    const ended = this.end();
    const head = headOf(line.text);
    if (head === this.usual) this.alike++;
    else {
      this.usual = head;
      this.alike = 1;
    }
    this.open = { first: line, head, texts: [line.text], letters: line.text.length, upTo: this.upTo };
    return ended;
  }
  /** What is held, where nothing more of it is waited for. */
  end(): Entry | null {
    if (!this.open) return null;
    const { first, texts, upTo } = this.open;
    this.open = null;
    const head = this.alike >= ENOUGH ? this.usual : null;
    return { at: momentOf(first.stamp), text: texts.join('\n'), upTo: { ...upTo, head } };
  }

  private belongs(text: string, open: NonNullable<Entries['open']>): boolean {
    if (open.texts.length >= ENTRY_LIMITS.lines || open.letters + text.length > ENTRY_LIMITS.letters) return false;
    // what is one object by itself is never a part of another, nor has one
    if (open.head === 'object' || text.startsWith('{')) return false;
    if (text === '' || /^\s/.test(text) || text.startsWith('Caused by')) return true;
    const isUsual = this.usual === 'time' || this.usual === 'level';
    return isUsual && this.alike >= ENOUGH && open.head === this.usual && headOf(text) === null;
  }
}

const STAMP = /^(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d)(?:\.(\d{1,9}))?(Z|[+-]\d\d:\d\d)$/;
const partsOf = (stamp: string): { readonly second: number; readonly nanos: number } => {
  const parts = STAMP.exec(stamp);
  return parts
    ? { second: Date.parse(`${parts[1]}${parts[3]}`), nanos: Number((parts[2] ?? '').padEnd(9, '0')) }
    : { second: Number.NaN, nanos: 0 };
};
/** ms with fractions of an RFC 3339 time with up to nine digits of them; NaN where it is none. */
export function momentOf(stamp: string): number {
  const { second, nanos } = partsOf(stamp);
  return second + nanos / 1e6;
}
/** A line as the cluster gives it with stamps: "2026-01-02T03:04:05.678Z what was written"; null where it bears none. */
export function givenLine(line: string): GivenLine | null {
  const end = line.indexOf(' ');
  const stamp = end < 0 ? line : line.slice(0, end);
  return Number.isNaN(momentOf(stamp)) ? null : { stamp, text: end < 0 ? '' : line.slice(end + 1) };
}

/** Leaves out lines that were taken before, of a stream that begins at the second of the last one that was. */
export class Resumed {
  private same = 0;
  private begun = false;
  /** The last line that was taken is not there any more: something between may be missing. */
  missed = false;
  constructor(private readonly after: UpTo | null) {}

  /** Whether it is a new one. */
  isNew({ stamp }: GivenLine): boolean {
    if (this.after === null) return true;
    const [now, then] = [partsOf(stamp), partsOf(this.after.stamp)];
    const order = now.second - then.second || now.nanos - then.nanos;
    if (order < 0) return false;
    if (order === 0) {
      this.begun = true;
      return ++this.same > this.after.same;
    }
    if (!this.begun) {
      this.begun = true;
      this.missed = true;
    }
    return true;
  }
}
