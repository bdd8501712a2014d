import type { FlowLines, Mark } from '@zetopsis/contract';
import type { Emptiness } from '@zetopsis/core/emptiness';
import type { Gap } from './sheetModel.ts';

export type Point = object & { readonly at: number };
interface StratumLine {
  /** Where its values stand in a point. */
  readonly key: string;
  readonly name: string;
  /** Where those of the window compared with stand. */
  readonly against: string;
  /** 1 … 8: its colour. */
  readonly series: number;
}
export interface StratumProps {
  readonly name: string;
  readonly words: string;
  readonly points: readonly Point[];
  readonly lines: readonly StratumLine[];
  readonly request: string | null;
  readonly limit: string | null;
  readonly limitName: { readonly at: number; readonly name: string } | null;
  readonly top: number;
  readonly amount: (value: number | null) => string;
  /** Why there is nothing to draw; null when there is. */
  readonly empty: Emptiness | null;
  readonly marks: readonly Mark[];
  readonly start: number;
  readonly end: number;
  readonly note: string;
  /** Where nothing was read: hatched. */
  readonly gaps: readonly Gap[];
  /** The text of a measure that asks for the same. */
  readonly measure: string | null;
  /** Further measures of the same. */
  readonly more?: FlowLines['more'] | undefined;
}

export const at = (point: Point, key: string): number | null => {
  const value = (point as Readonly<Record<string, unknown>>)[key];
  return typeof value === 'number' ? value : null;
};
/** Whether anything of the window compared with is known. */
export const compared = ({ points, lines }: Pick<StratumProps, 'points' | 'lines'>): boolean =>
  lines.some(({ against }) => points.some((point) => at(point, against) !== null));
