import type { SheetAnswer } from '@zetopsis/contract';
import { formatAmount, formatClock, formatCount, formatPercent } from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';
import { Link } from 'react-router';
import { OwnMark } from '../../drawing/OwnMark.tsx';
import { useView } from '../../frame/useView.ts';
import { FlowStratum } from './FlowStratum.tsx';
import { Stratum } from './Stratum.tsx';
import { chartPoints, chartTop, figureWords, gapsOf, isMeasured, limitWord, type MeasuredSheet } from './sheetModel.ts';

const NAMES: Record<Resource, string> = { cpu: 'CPU', memory: 'Memory, working set' };

/** Charts stacked on one time axis; hovering one draws the same time on all. */
export function Strata({ sheet }: { sheet: SheetAnswer }) {
  const end = sheet.grid.start + (sheet.grid.count - 1) * sheet.grid.step;
  return (
    <div>
      {sheet.requests.map((flow) => (
        <FlowStratum key={flow.title} flow={flow} sheet={sheet} end={end} read={sheet.requests[0]?.lines[0]?.values} />
      ))}
      {isMeasured(sheet) && <ResourceStratum sheet={sheet} resource="cpu" end={end} />}
      {isMeasured(sheet) && <ResourceStratum sheet={sheet} resource="memory" end={end} />}
      {sheet.flows.map((flow) => (
        <FlowStratum key={flow.title} flow={flow} sheet={sheet} end={end} />
      ))}
      <Happenings sheet={sheet} end={end} />
    </div>
  );
}

function ResourceStratum({ sheet, resource, end }: { sheet: MeasuredSheet; resource: Resource; end: number }) {
  const points = chartPoints(sheet, resource);
  const { top, limitShown } = chartTop(points);
  const throttled =
    resource === 'cpu' && sheet.throttled !== null && sheet.throttled >= 0.01
      ? ` · throttled ${formatPercent(sheet.throttled)} of the time`
      : '';
  const { limit, request } = sheet.usage[resource];
  const { empty } = sheet[resource];
  const amount = (value: number | null) => formatAmount(resource, value);
  const far =
    !limitShown && limit !== null && empty === null
      ? `the ${limitWord(sheet, resource)} of ${amount(limit)} lies above this picture · `
      : '';
  return (
    <Stratum
      name={resource === 'memory' && sheet.level === 'host' ? 'Memory, used' : NAMES[resource]}
      words={`${figureWords(resource, sheet)}${throttled}`}
      points={points}
      lines={[{ key: 'use', name: 'use', against: 'against', series: 1 }]}
      request="request"
      limit={limitShown ? 'limit' : null}
      limitName={limitShown && limit !== null ? { at: limit, name: limitWord(sheet, resource) } : null}
      top={top}
      amount={amount}
      empty={empty}
      marks={sheet.marks}
      gaps={sheet.runs === null ? gapsOf(sheet[resource].use, sheet) : []}
      measure={sheet.measures?.[resource] ?? null}
      start={sheet.grid.start}
      end={end}
      note={`${far}${request ? `dashed: ${amount(request)} asked for` : sheet.level === 'host' ? '' : 'nothing asked for'}`}
    />
  );
}

/** How many of the newest are told in words. */
const TOLD = 5;

/** Restarts and what else happened, on the same axis. */
function Happenings({ sheet, end }: { sheet: SheetAnswer; end: number }) {
  const { link } = useView();
  const { start } = sheet.grid;
  const share = (at: number) => `${Math.max(0, Math.min(1, (at - start) / Math.max(1, end - start))) * 100}%`;
  const own = sheet.marks.filter(({ kind }) => kind !== 'raised' && kind !== 'cleared');
  return (
    <section aria-label="what happened" className="border-b border-hair px-4 pt-2 pb-2">
      <div className="flex items-baseline justify-between text-xs">
        <h3>What happened</h3>
        <span className="text-soft">
          {isMeasured(sheet) ? `${formatCount(sheet.restarts, 'restart')} in this window` : 'in this window'}
        </span>
      </div>
      <div className="relative mt-1 h-5 border-b border-structure">
        {own.map((mark) => (
          <span
            key={`${mark.at} ${mark.title}`}
            className="absolute -translate-x-1/2"
            style={{ left: share(mark.at) }}
            title={`${formatClock(mark.at, end)} ${mark.title}`}
          >
            <OwnMark name={mark.kind} size={14} label={`${formatClock(mark.at, end)} ${mark.title}`} />
          </span>
        ))}
      </div>
      <div className="flex justify-between text-[11px] text-soft">
        <span>{formatClock(start, end)}</span>
        <span>{formatClock(end, end)}</span>
      </div>
      <ul className="mt-0.5 text-xs">
        {own
          .slice(-TOLD)
          .reverse()
          .map((mark) => (
            <li key={`${mark.at} ${mark.title}`} className="grid grid-cols-[76px_1fr] gap-2">
              <span className="text-soft">{formatClock(mark.at, end)}</span>
              <Link className="min-w-0 break-words hover:text-petrol" to={link('/usage', { path: mark.path })}>
                {mark.title}
              </Link>
            </li>
          ))}
      </ul>
      {own.length > TOLD && <p className="text-xs text-soft">{own.length - TOLD} more stand on the axis above.</p>}
    </section>
  );
}
