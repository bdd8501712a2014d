import type { Family } from './families.ts';
import type { Form } from './forms.ts';
import type { Check } from './metricGroups.ts';

/** What the lines of a family have in common, as far as reading them again needs it. */
export interface TableFamily {
  readonly family: Family;
  /** Declaration lines in the page up to its last one; 0 where it has none. */
  readonly declaredBy: number;
  /** Its metrics are one line each: lines may come and go. */
  readonly simple: boolean;
}

/**
 * The lines of a page that were right, as far as they repeat. Line i begins at starts[i] of `bytes`; up to prefixes[i]
 * it is the same from reading to reading, after that stands the value. A declaration is all prefix and has slot -1.
 */
export interface LineTable {
  readonly form: Form;
  readonly bytes: Uint8Array;
  readonly count: number;
  readonly starts: Int32Array;
  readonly prefixes: Int32Array;
  /** Number of the series within the memory; -1 for a declaration. */
  readonly slots: Int32Array;
  /** Index into `families`; -1 for the end mark. */
  readonly familyOf: Int32Array;
  readonly checks: Uint8Array;
  /** Declarations among the lines before each line; one more than lines. */
  readonly declarationsBefore: Int32Array;
  /** Lines of families that are not simple among the lines before each line; one more than lines. */
  readonly groupedBefore: Int32Array;
  readonly families: readonly TableFamily[];
  /** keyHashes[slot]. */
  readonly keyHashes: Int32Array;
}

/** Lines as they are read, in the order of the page. */
export class TableBuilder {
  readonly starts: number[] = [];
  readonly prefixes: number[] = [];
  readonly slots: number[] = [];
  readonly familyOf: number[] = [];
  readonly checks: number[] = [];

  add(start: number, prefix: number, slot: number, family: number, check: Check): void {
    this.starts.push(start);
    this.prefixes.push(prefix);
    this.slots.push(slot);
    this.familyOf.push(family);
    this.checks.push(check);
  }
  build(form: Form, bytes: Uint8Array, families: readonly TableFamily[], keyHashes: Int32Array): LineTable {
    const count = this.starts.length;
    const declarationsBefore = new Int32Array(count + 1);
    const groupedBefore = new Int32Array(count + 1);
    for (let i = 0; i < count; i++) {
      declarationsBefore[i + 1] = declarationsBefore[i]! + (this.slots[i] === -1 ? 1 : 0);
      groupedBefore[i + 1] = groupedBefore[i]! + (families[this.familyOf[i]!]?.simple === false ? 1 : 0);
    }
    return {
      form,
      bytes,
      count,
      starts: Int32Array.from(this.starts),
      prefixes: Int32Array.from(this.prefixes),
      slots: Int32Array.from(this.slots),
      familyOf: Int32Array.from(this.familyOf),
      checks: Uint8Array.from(this.checks),
      declarationsBefore,
      groupedBefore,
      families,
      keyHashes,
    };
  }
}

/** A table's lines by a hash of what stands before their value, for lines that moved. */
export class PrefixIndex {
  private readonly places: Int32Array;
  private readonly mask: number;
  private readonly table: LineTable;
  constructor(table: LineTable) {
    let size = 16;
    while (size < table.count * 2) size *= 2;
    this.mask = size - 1;
    this.places = new Int32Array(size).fill(-1);
    this.table = table;
    for (let i = 0; i < table.count; i++) {
      let at = hashBytes(table.bytes, table.starts[i]!, table.prefixes[i]!) & this.mask;
      while (this.places[at] !== -1) at = (at + 1) & this.mask;
      this.places[at] = i;
    }
  }
  /** The line whose unchanging part is exactly these bytes; -1 when there is none. */
  find(bytes: Uint8Array, from: number, to: number): number {
    const { table } = this;
    for (let at = hashBytes(bytes, from, to) & this.mask; ; at = (at + 1) & this.mask) {
      const i = this.places[at]!;
      if (i === -1) return -1;
      if (table.prefixes[i]! - table.starts[i]! === to - from && beginsAs(table, i, bytes, from, to)) return i;
    }
  }
}

/** FNV-1a over some bytes. */
function hashBytes(bytes: Uint8Array, from: number, to: number): number {
  let hash = 0x811c9dc5;
  for (let i = from; i < to; i++) hash = Math.imul(hash ^ bytes[i]!, 0x01000193);
  return hash >>> 0;
}
export function hashText(text: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return hash | 0;
}

/** Whether a line begins with the bytes that stood before the value of the table's line i. */
export function beginsAs(table: LineTable, i: number, bytes: Uint8Array, from: number, to: number): boolean {
  const before = table.bytes;
  const start = table.starts[i]!;
  const length = table.prefixes[i]! - start;
  if (to - from < length) return false;
  // from its end: lines differ in their last labels mostly
  for (let at = length - 1; at >= 0; at--) if (bytes[from + at] !== before[start + at]) return false;
  return true;
}
