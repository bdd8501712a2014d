import type { Labels } from '../series/index.ts';
import type { Family } from './families.ts';
import type { Form } from './forms.ts';
import type { LineTable, PrefixIndex } from './lineTable.ts';
import type { Exemplar } from './parseSample.ts';
import type { LineProblem, PageRefusal } from './problems.ts';

/** A series that a page names for the first time, as far as its memory reaches. */
export interface FreshSeries {
  readonly slot: number;
  readonly name: string;
  readonly labels: Labels;
  /** Name and labels in one canonical text: the series' identity within its endpoint. */
  readonly key: string;
  readonly cumulative: boolean;
}

/** What one reading of a page brought: `values[i]` belongs to the series in slot `slots[i]` of the page's memory. */
export interface Page {
  readonly form: Form;
  readonly values: Float64Array;
  /** Times given by the page, in ms, NaN where it gives none; null where it gives none at all. */
  readonly times: Float64Array | null;
  readonly slots: Int32Array;
  /** Lines that say again what stood there last: the same series at the same time with the same value. */
  readonly doubled: number;
  /** Lines of samples that count for nothing: what is wrong with others costs them nothing. */
  readonly lost: number;
  /** The same series in the same order as in the page before: nothing about them needs to be looked up again. */
  readonly unchanged: boolean;
  readonly fresh: readonly FreshSeries[];
  readonly exemplars: readonly { readonly slot: number; readonly exemplar: Exemplar }[];
  readonly families: ReadonlyMap<string, Family>;
  readonly problems: readonly LineProblem[];
  readonly problemCount: number;
  readonly bytes: number;
  readonly lines: number;
  /** Set when the page as a whole counts for nothing. */
  readonly refused: PageRefusal | null;
}

/** What one endpoint's last page looked like: most lines of the next one differ in their values only. */
export class PageMemory {
  table: LineTable | null = null;
  /** The owner's numbers of the series, by slot; 0 where it gave none yet. */
  ids: Int32Array = new Int32Array(0);
  /** Of the page's samples, in order. */
  slots: Int32Array = new Int32Array(0);
  /** Pages read the fast way and in full. */
  warm = 0;
  full = 0;
  /** Worked out from the table when first needed. */
  index: PrefixIndex | null = null;
  hashes: Set<number> | null = null;
  infinite: Uint8Array | null = null;

  remember(table: LineTable | null): void {
    this.table = table;
    this.index = null;
    this.hashes = null;
    this.infinite = null;
  }
}
