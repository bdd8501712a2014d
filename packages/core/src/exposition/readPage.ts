import type { Form } from './forms.ts';
import { DEFAULT_PAGE_LIMITS, type PageLimits } from './limits.ts';
import { type Page, PageMemory } from './page.ts';
import type { PageRefusal } from './problems.ts';
import { FullReading } from './readFull.ts';
import { readWarm } from './readWarm.ts';

export interface Reading {
  readonly form: Form;
  readonly limits?: PageLimits;
  /** The endpoint's own; without one every line is read in full. */
  readonly memory?: PageMemory;
}
const HASH = 35;
/** Lines read in full before others get a turn: some 10 ms. */
const STRETCH = 4000;

/** Takes a page piece by piece, within its limits. The pieces' borders do not matter. */
export class PageBuffer {
  private readonly pieces: Uint8Array[] = [];
  private length = 0;
  private lineLength = 0;
  /** The line that has not ended yet is a comment: one that is too long costs itself only. */
  private comment = false;
  refused: PageRefusal | null = null;
  private readonly limits: PageLimits;
  constructor(limits: PageLimits = DEFAULT_PAGE_LIMITS) {
    this.limits = limits;
  }
  /** Answers false once the page is refused: the caller may stop reading. */
  push(piece: Uint8Array): boolean {
    if (this.refused) return false;
    this.length += piece.length;
    const { pageBytes, lineBytes } = this.limits;
    if (this.length > pageBytes) return this.refuse('pageTooLarge', `the page is larger than ${pageBytes} bytes`);
    // an endless line is seen before the page is too large
    const last = piece.lastIndexOf(10);
    if (last >= 0) this.lineLength = 0;
    if (this.lineLength === 0) this.comment = piece[last + 1] === HASH;
    this.lineLength += piece.length - last - 1;
    if (this.lineLength > lineBytes && !this.comment)
      return this.refuse('lineTooLong', `a line is longer than ${lineBytes} bytes`);
    this.pieces.push(piece.slice()); // the caller may use its buffer again
    return true;
  }
  private refuse(code: PageRefusal['code'], text: string): false {
    this.refused = { code, text };
    this.pieces.length = 0;
    return false;
  }
  take(): Uint8Array {
    if (this.pieces.length === 1) return this.pieces[0]!;
    const bytes = new Uint8Array(this.refused ? 0 : this.length);
    let at = 0;
    for (const piece of this.pieces) {
      bytes.set(piece, at);
      at += piece.length;
    }
    return bytes;
  }
}

function* reading(
  bytes: Uint8Array,
  refused: PageRefusal | null,
  { form, limits, memory }: Reading,
): Generator<void, Page> {
  const within = limits ?? DEFAULT_PAGE_LIMITS;
  if (!refused && bytes.length > within.pageBytes)
    refused = { code: 'pageTooLarge', text: `the page is larger than ${within.pageBytes} bytes` };
  // plain ones are compared fastest, whatever kind of byte list it is
  const plain = new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.length);
  if (!refused && memory?.table && memory.table.form === form) {
    const page = readWarm(plain, memory.table, memory, within);
    if (page) return page;
  }
  const full = new FullReading(plain, form, within, refused);
  while (full.step(STRETCH)) yield;
  return full.finish(memory ?? new PageMemory());
}

/** A whole page at once. */
export function readPage(bytes: Uint8Array, how: Reading): Page {
  const work = reading(bytes, null, how);
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
  }
}
/** The same in stretches; `pause` is awaited between them, so that a large page does not hold up everything else. */
export async function readBuffer(buffer: PageBuffer, how: Reading, pause: () => Promise<void>): Promise<Page> {
  const work = reading(buffer.take(), buffer.refused, how);
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
    await pause();
  }
}

/** The page's samples one by one, with their series; for a page that was read in full. */
export function samplesOf({ slots, fresh, values, times }: Page) {
  return Array.from(slots, (slot, i) => {
    const { name, labels, key, cumulative } = fresh[slot]!; // read in full: every series is fresh, by slot
    const at = times?.[i] ?? Number.NaN;
    return { name, labels, key, cumulative, value: values[i]!, at: Number.isNaN(at) ? null : at };
  });
}
