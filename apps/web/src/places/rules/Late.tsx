import type { LateAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { Diamond } from '../../drawing/Diamond.tsx';
import { pathWords } from '../../drawing/names.ts';
import { FailureText } from '../../forms/FailureText.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useLazyLateQuery } from '../../state/rulesApi.ts';

/** What came too late to be judged, as far as it would have changed what was raised. */
export function Late({ ruleKey }: { ruleKey: string }) {
  const [ask, { data, error, isFetching }] = useLazyLateQuery();
  return (
    <section aria-label="late data" className="mt-5">
      <h3 className="section-title mb-1">Late data</h3>
      <p className="text-sm">
        <button type="button" className="button-plain" disabled={isFetching} onClick={() => void ask(ruleKey)}>
          {isFetching ? 'comparing …' : 'compare what was raised with what is kept now'}
        </button>
      </p>
      <FailureText error={error} />
      {data && !isFetching && <Told answer={data} />}
    </section>
  );
}
function Told({ answer: { from, to, same, wouldHave, wouldNotHave } }: { answer: LateAnswer }) {
  const now = useNow(60_000);
  const lasted = (since: number, endedAt: number | null) =>
    `${formatClock(since, now)}, for ${formatDuration((endedAt ?? to) - since)}`;
  return (
    <div className="text-sm">
      <p className="text-soft">
        Since {formatClock(from, now)}: {same} the same
        {wouldHave.length + wouldNotHave.length === 0 ? '; nothing that came late would have changed anything.' : '.'}
      </p>
      <ul>
        {wouldHave.map((one) => (
          <li key={`${one.path.join('/')} ${one.name} ${one.since}`} className="border-b border-hair py-0.5">
            <Diamond severity={one.severity} size={9} /> would have been raised: {one.name}{' '}
            <span className="text-soft">
              {pathWords(one.path.slice(0, 2))} · {lasted(one.since, one.endedAt)}
            </span>
          </li>
        ))}
        {wouldNotHave.map((one) => (
          <li key={`${one.path.join('/')} ${one.title} ${one.since}`} className="border-b border-hair py-0.5">
            <Diamond severity={one.severity} size={9} /> would not have been raised: {one.title}{' '}
            <span className="text-soft">{lasted(one.since, one.endedAt)}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
