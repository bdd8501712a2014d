import type { TryAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { Outcome } from '../../forms/Outcome.tsx';

/** What a try of an endpoint found, line by line. */
export function TryResult({ result }: { result: TryAnswer }) {
  const facts = [
    `took ${formatDuration(Math.max(1, result.durationMs))}`,
    result.bytes === null ? null : formatBytes(result.bytes),
    result.form,
    result.contentType,
    result.series === null ? null : `${formatCount(result.series, 'series', 'series')} kept`,
    result.dropped === 0 ? null : `${result.dropped} not kept`,
  ].filter((fact) => fact !== null && fact !== '');
  return (
    <Outcome label="result of the try">
      <h3 className="mb-1">{result.ok ? 'It can be read.' : 'It cannot be read.'}</h3>
      <p className={result.ok ? 'text-sm' : 'text-sm font-semibold'}>{result.verdict}</p>
      {result.nextStep && <p className="text-sm">→ {result.nextStep}</p>}
      <p className="mb-2 text-sm text-soft">{facts.join(' · ')}</p>
      {result.lines.length > 0 && (
        <table className="w-full table-fixed text-xs">
          <thead>
            <tr className="border-b border-structure text-left text-soft">
              <th className="w-8 py-1 font-medium">line</th>
              <th className="py-1 pr-2 font-medium">as it came</th>
              <th className="py-1 font-medium">as it is understood</th>
            </tr>
          </thead>
          <tbody>
            {result.lines.map((line) => (
              <tr key={line.line} className="border-b border-hair align-baseline">
                <td className="text-soft">{line.line}</td>
                <td className="pr-2 font-mono break-all">{line.text}</td>
                <td className="break-words">
                  {line.problem === null ? line.as : <b className="text-critical">{line.problem}</b>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {result.more && <p className="mt-1 text-sm text-soft">The rest of the page is not shown.</p>}
    </Outcome>
  );
}
