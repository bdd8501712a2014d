import type { NoiseAnswer, QuieterAnswer } from '@zetopsis/contract';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { Link } from 'react-router';
import { TableHead } from '../../drawing/TableHead.tsx';
import { useView } from '../../frame/useView.ts';
import { asFailure } from '../../state/failure.ts';
import { useNoiseQuery, useQuieterQuery } from '../../state/rulesApi.ts';
import type { Suggested } from './draftOfRule.ts';

type Line = NoiseAnswer['rules'][number];
/** So many of the loudest are rehearsed at once; the others when somebody asks. */
const AT_ONCE = 3;

/** Which rules were loud, and what would have made them quieter: a click from a draft that is so. */
export function Noise({ mayChange }: { mayChange: ReadonlySet<string> }) {
  const { data } = useNoiseQuery();
  if (!data || data.rules.length === 0) return null;
  const loud = data.rules
    .filter(({ key, suggestion }) => mayChange.has(key) && suggestion !== null && suggestion.is !== 'on trial')
    .map(({ key }) => key);
  return (
    <section aria-label="noise" className="mt-6">
      <div className="mb-1 flex items-baseline gap-3">
        <h3 className="section-title">Noise</h3>
        <p className="text-sm text-soft">last 30 days, loudest first</p>
      </div>
      <table className="w-full text-sm">
        <TableHead
          of={[
            'rule',
            'raised',
            'messages',
            'at night',
            'back within 1 h',
            'over within 10 min',
            'taken',
            'quieter if',
          ]}
        />
        <tbody>
          {data.rules.map((line) => (
            <tr key={line.key} className="border-b border-hair align-baseline">
              <td className="py-1 pr-3">{line.name}</td>
              {[line.raised, line.messages, line.nights, line.flapping, line.shortLived, line.taken].map((count, i) => (
                // columns stand in one order
                <td key={i} className="py-1 pr-3 tabular-nums">
                  {count === 0 ? '' : count}
                </td>
              ))}
              <td className="py-1">
                <Quieter line={line} mayChange={mayChange.has(line.key)} />
                {mayChange.has(line.key) && line.suggestion !== null && line.suggestion.is !== 'on trial' && (
                  <Rehearsed of={line} atOnce={loud.indexOf(line.key) < AT_ONCE} />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What is suggested, over the last days, beside the rule as it is. */
function Rehearsed({ of: { key, name }, atOnce }: { of: Line; atOnce: boolean }) {
  const [wanted, setWanted] = useState(atOnce);
  const { data, error, isFetching } = useQuieterQuery(key, { skip: !wanted });
  if (!wanted)
    return (
      <button
        type="button"
        className="button-plain ml-2"
        aria-label={`rehearse what is suggested for ${name}`}
        onClick={() => setWanted(true)}
      >
        rehearse it
      </button>
    );
  return (
    <span className="block text-soft">
      {isFetching && 'rehearsing …'}
      {!isFetching && error !== undefined && `not rehearsed: ${asFailure(error).text}`}
      {!isFetching && data && quieterWords(data)}
    </span>
  );
}
function quieterWords({ from, to, asItIs, asSuggested }: QuieterAnswer): string {
  const over = `rehearsed over ${formatDuration(to - from)}:`;
  if (asItIs.raised === 0) return `${over} nothing would have been raised as it is either`;
  return `${over} ${formatCount(asSuggested.raised, 'alert')} instead of ${asItIs.raised}, ${formatCount(asSuggested.messages, 'message')} instead of ${asItIs.messages}`;
}

function Quieter({ line: { key, name, raised, suggestion }, mayChange }: { line: Line; mayChange: boolean }) {
  const { link } = useView();
  if (suggestion === null) return null;
  const words =
    suggestion.is === 'on trial'
      ? 'on trial: nobody took any of them'
      : `${suggestion.is === 'hold longer' ? 'held for' : 'clear after'} ${formatDuration(suggestion.ms)}: ${formatCount(suggestion.fewer, 'alert')} of ${raised} fewer`;
  if (!mayChange) return <>{words}</>;
  const state: Suggested = {
    suggested: suggestion.is === 'on trial' ? { is: 'on trial' } : { is: suggestion.is, ms: suggestion.ms },
  };
  return (
    <Link
      className="button-plain"
      to={link(`/rules/${key}`, {})}
      state={state}
      aria-label={`draft for ${name}: ${words}`}
    >
      {words}
    </Link>
  );
}
