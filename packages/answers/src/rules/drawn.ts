import { isThere } from '@zetopsis/core/measures';
import { againstBound, type Side } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import type { JudgedLine } from './measureLines.ts';

export interface DrawnLine {
  /** Of the lines that were given. */
  readonly line: number;
  /** One for each time; null where nothing was read. */
  readonly values: readonly (number | null)[];
}
export interface Drawn {
  readonly times: readonly EpochMs[];
  readonly lines: readonly DrawnLine[];
}

/**
 * The lines that come farthest to the side that a rule holds on, the farthest first, in at most `points` stretches of time: of each
 * stretch the value that is farthest, so that nothing that is past a number is left out. O(values).
 */
export function drawnLines(
  moments: ArrayLike<EpochMs>,
  lines: readonly Pick<JudgedLine, 'values' | 'marks'>[],
  { side, most, points }: { readonly side: Side; readonly most: number; readonly points: number },
): Drawn {
  const further = (value: number, than: number | null) => than === null || againstBound(value, than, side);
  const each = Math.max(1, Math.ceil(moments.length / points));
  const count = Math.ceil(moments.length / each);
  const ends = lines.map(({ values, marks }, line) => {
    let farthest: number | null = null;
    for (let i = 0; i < values.length; i++)
      if (isThere(marks, i) && Number.isFinite(values[i]) && further(values[i]!, farthest)) farthest = values[i]!;
    return { line, farthest };
  });
  const chosen = ends
    .filter((one): one is { line: number; farthest: number } => one.farthest !== null)
    .sort((a, b) => (a.farthest === b.farthest ? a.line - b.line : further(a.farthest, b.farthest) ? -1 : 1))
    .slice(0, most);
  return {
    times: Array.from({ length: count }, (_, i) => moments[i * each]!),
    lines: chosen.map(({ line }) => {
      const { values, marks } = lines[line]!;
      const drawn: (number | null)[] = new Array(count).fill(null);
      for (let i = 0; i < values.length; i++) {
        const place = Math.floor(i / each);
        if (isThere(marks, i) && Number.isFinite(values[i]) && further(values[i]!, drawn[place]!))
          drawn[place] = values[i]!;
      }
      return { line, values: drawn };
    }),
  };
}
