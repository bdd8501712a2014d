import type { Family } from './families.ts';
import type { PageSample } from './parseSample.ts';

/**
 * Lines of a page that had no problem, as far as they repeat. Line i is bytes[starts[i] .. starts[i + 1]); up to
 * prefixes[i] it is the same from reading to reading, after it stands the value. Declarations are all prefix and have
 * no sample.
 */
export interface RememberedPage {
  readonly bytes: Uint8Array;
  readonly starts: readonly number[];
  readonly prefixes: readonly number[];
  readonly samples: readonly (PageSample | null)[];
  readonly families: ReadonlyMap<string, Family>;
}

/** What one endpoint's last good page looked like: most lines of the next one differ in their values only. */
export class PageMemory {
  last: RememberedPage | null = null;
}

/** Takes the lines of a page as they are read in full, to be remembered. */
export class PageRecorder {
  private bytes: Uint8Array;
  private readonly starts: number[];
  private readonly prefixes: number[];
  private readonly samples: (PageSample | null)[];

  /** `before` and `lines`: lines that were the same as those of an earlier page. */
  constructor(before: RememberedPage | null, lines: number) {
    const length = before?.starts[lines] ?? 0;
    this.bytes = new Uint8Array(Math.max(4096, length * 2));
    if (before) this.bytes.set(before.bytes.subarray(0, length));
    this.starts = before?.starts.slice(0, lines + 1) ?? [0];
    this.prefixes = before?.prefixes.slice(0, lines) ?? [];
    this.samples = before?.samples.slice(0, lines) ?? [];
  }

  /** `prefix`: bytes before the value; the whole line of a declaration. */
  add(line: Uint8Array, prefix: number, sample: PageSample | null): void {
    const start = this.starts.at(-1)!; // there is one more than lines
    if (start + line.length > this.bytes.length) {
      const larger = new Uint8Array(Math.max(this.bytes.length * 2, start + line.length));
      larger.set(this.bytes);
      this.bytes = larger;
    }
    this.bytes.set(line, start);
    this.starts.push(start + line.length);
    this.prefixes.push(start + prefix);
    this.samples.push(sample);
  }

  finish(families: ReadonlyMap<string, Family>): RememberedPage {
    const { starts, prefixes, samples } = this;
    return { bytes: this.bytes.slice(0, starts.at(-1)), starts, prefixes, samples, families };
  }
}
