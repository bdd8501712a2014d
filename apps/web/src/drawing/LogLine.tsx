import type { LineAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { CutName } from './CutName.tsx';

/** Fields that say once more what stands above: when it was, how grave, of which trace. */
const SAID: ReadonlySet<string> = new Set([
  ...['time', 'ts', 'timestamp', '@timestamp', 'level', 'lvl', 'severity'],
  ...['trace_id', 'traceid', 'trace.id', 'traceparent'],
]);
const GRAVE: readonly LineAnswer['level'][] = ['error', 'fatal'];
interface LogLineProps {
  readonly line: LineAnswer;
  readonly before: LineAnswer | undefined;
  readonly now: number;
  /** What wrote it, where several may have; null: that is known. */
  readonly source: string | null;
}
/** On a ruler of time: the tick stands at each line, the time where it is another one. */
export function LogLine({ line, before, now, source }: LogLineProps) {
  const time = formatClock(line.at, now, { seconds: true });
  const isNew = before === undefined || formatClock(before.at, now, { seconds: true }) !== time;
  const fields = line.fields.filter(([name]) => !SAID.has(name.toLowerCase()));
  return (
    <li className="relative pl-3">
      <span aria-hidden className={clsx('absolute top-2 left-0 border-t border-structure', isNew ? 'w-2.5' : 'w-1')} />
      <p className="flex items-baseline gap-2 text-xs text-soft">
        {isNew && <time dateTime={new Date(line.at).toISOString()}>{time}</time>}
        {line.level !== null && (
          <span className={clsx(GRAVE.includes(line.level) && 'font-semibold text-critical')}>{line.level}</span>
        )}
        {source !== null && <CutName name={source} className="font-mono" />}
        {line.traceId !== '' && (
          <span className="ml-auto shrink-0 font-mono" title={`trace ${line.traceId}`}>
            trace {line.traceId.slice(0, 8)}…
          </span>
        )}
      </p>
      {line.text !== '' && (
        <p
          className="font-mono text-sm break-words whitespace-pre-wrap"
          title={
            line.wording === null ? 'one of its other wordings' : `wording ${line.wording.number}: ${line.wording.text}`
          }
        >
          {line.text}
        </p>
      )}
      {fields.length > 0 && (
        <p className="text-xs break-words text-soft">
          {fields.map(([name, value], i) => (
            // a line may have a field twice
            <span key={`${i} ${name}`}>
              {i > 0 && ' · '}
              {name} <span className="text-ink">{value}</span>
            </span>
          ))}
        </p>
      )}
    </li>
  );
}
