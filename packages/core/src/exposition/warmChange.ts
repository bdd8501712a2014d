import { hashText, type LineTable, TableBuilder, type TableFamily } from './lineTable.ts';
import type { FreshSeries, PageMemory } from './page.ts';

/** How a page's lines differ from those that its memory has, from the first one on that does. */
export class WarmChange {
  readonly table = new TableBuilder();
  /** By slot: 1 where the series stood in the page already. */
  readonly seen: Uint8Array;
  readonly slots: number[] = [];
  readonly fresh: FreshSeries[] = [];
  readonly freshKeys = new Map<string, number>();
  nextSlot: number;

  /** The first `count` lines of the table stood where `began` says. */
  constructor(table: LineTable, memory: PageMemory, began: Int32Array, count: number) {
    this.seen = new Uint8Array(memory.ids.length);
    this.nextSlot = memory.ids.length;
    for (let i = 0; i < count; i++) {
      const slot = table.slots[i]!;
      const start = began[i]!;
      const prefix = start + table.prefixes[i]! - table.starts[i]!;
      this.table.add(start, prefix, slot, table.familyOf[i]!, table.checks[i]! as 0); // written from a Check
      if (slot >= 0) this.see(slot);
    }
  }
  /** False when the series stood there already. */
  see(slot: number): boolean {
    if (this.seen[slot] === 1) return false;
    this.seen[slot] = 1;
    this.slots.push(slot);
    return true;
  }
  add(series: Omit<FreshSeries, 'slot'>, slot: number): void {
    this.freshKeys.set(series.key, slot);
    this.fresh.push({ ...series, slot });
  }

  /** Puts what the page is now into its memory; answers its families. Null when it is to be read in full. */
  remember(before: LineTable, memory: PageMemory, bytes: Uint8Array): readonly TableFamily[] | null {
    if (this.nextSlot > 2 * this.slots.length + 64) return null; // slots are numbered anew
    const samples = new Int32Array(before.families.length);
    this.table.slots.forEach((slot, line) => {
      if (slot >= 0) samples[this.table.familyOf[line]!]!++;
    });
    // a family that only its samples named is gone with them
    if (before.families.some(({ declaredBy }, i) => declaredBy === 0 && samples[i] === 0)) return null;
    const families = before.families.map((one, i) => ({ ...one, family: { ...one.family, samples: samples[i]! } }));
    const keyHashes = new Int32Array(this.nextSlot);
    keyHashes.set(before.keyHashes);
    for (const { slot, key } of this.fresh) keyHashes[slot] = hashText(key);
    const ids = new Int32Array(this.nextSlot);
    ids.set(memory.ids);
    memory.ids = ids;
    memory.slots = Int32Array.from(this.slots);
    memory.remember(this.table.build(before.form, bytes, families, keyHashes));
    return families;
  }
}
