import type { FlowLines, SheetAnswer } from '@zetopsis/contract';
import { Stratum } from './Stratum.tsx';
import { flowAmount, flowPoints, flowWords, gapsOf } from './sheetModel.ts';

/** Network, file system, a volume's use. */
export function FlowStratum({
  flow,
  sheet,
  end,
  read,
}: {
  flow: FlowLines;
  sheet: SheetAnswer;
  end: number;
  /** What says whether something was read, where its own lines do not: of no request there is no latency. */
  read?: readonly (number | null)[] | undefined;
}) {
  const points = flowPoints(flow, sheet);
  const highest = (key: string) => Math.max(0, ...points.map((point) => point[key] ?? 0));
  const use = Math.max(...flow.lines.flatMap((_, n) => [highest(`value${n}`), highest(`against${n}`)]), 0);
  const limit = highest('limit');
  const limitShown = limit > 0 && limit <= use * 6;
  return (
    <Stratum
      name={flow.title}
      words={flow.empty === null ? flowWords(flow) : ''}
      points={points}
      lines={flow.lines.map(({ name }, n) => ({
        key: `value${n}`,
        name,
        against: `against${n}`,
        series: n * 3 + 1, // the second series colour would look like a warning
      }))}
      request={null}
      limit={limitShown ? 'limit' : null}
      limitName={limitShown ? { at: limit, name: 'size' } : null}
      top={Math.max(use, limitShown ? limit * 1.16 : 0, flow.unit === 'share' ? 0.02 : 1e-6) * 1.06}
      amount={(value) => flowAmount(flow, value)}
      empty={flow.empty}
      marks={sheet.marks}
      gaps={sheet.runs === null ? gapsOf(read ?? flow.lines[0]?.values ?? [], sheet) : []}
      measure={flow.measure ?? null}
      more={flow.more}
      start={sheet.grid.start}
      end={end}
      note={notesOf(flow, limit > 0 && !limitShown ? limit : null)}
    />
  );
}

/** How lines are told apart beside their colours; as the chart draws them. */
const LINE_WORDS = ['full line', 'dashed line', 'dotted line'] as const;

/** What one must know to read it; `above`: a limit that lies outside the picture. */
function notesOf(flow: FlowLines, above: number | null): string {
  const notes = [
    ...(flow.lines.length > 1
      ? flow.lines.map(({ name }, n) => `${name}: ${LINE_WORDS[Math.min(n, LINE_WORDS.length - 1)]}`)
      : []),
    ...(above !== null ? [`the size of ${flowAmount(flow, above)} lies above this picture`] : []),
    ...(flow.note === undefined ? [] : [flow.note]),
  ];
  return flow.empty === null ? notes.join(' · ') : '';
}
