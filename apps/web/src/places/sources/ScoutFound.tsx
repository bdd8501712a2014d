import type { ScoutPreview } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { Outcome } from '../../forms/Outcome.tsx';

/** Objects that were left out for the same reason stand together, the most common reason last. */
function byReason(leftOut: ScoutPreview['leftOut']): [why: string, objects: string[]][] {
  const reasons = new Map<string, string[]>();
  for (const { cluster, object, why } of leftOut) {
    const own = reasons.get(why);
    if (own) own.push(`${cluster} › ${object}`);
    else reasons.set(why, [`${cluster} › ${object}`]);
  }
  return [...reasons].sort(([, a], [, b]) => a.length - b.length);
}

export function ScoutFound({ preview }: { preview: ScoutPreview }) {
  return (
    <Outcome label="preview" block="start" className="text-sm">
      <h3 className="mb-1 text-base">
        {formatCount(preview.foundInAll, 'page')} at {formatCount(preview.lookedAt, 'object')}
      </h3>
      <Changes preview={preview} />
      {preview.merging.map((merge) => (
        <p key={merge.of.join()} className="mb-2 border border-warning px-2 py-1">
          <b className="text-warning">Their labels would merge:</b> {merge.of.join(', ')} would all be{' '}
          {Object.entries(merge.labels)
            .map(([name, value]) => `${name} ${value}`)
            .join(', ') || 'without labels'}
          .
        </p>
      ))}
      <ul className="mb-3">
        {preview.found.slice(0, 60).map((target) => (
          <li key={`${target.cluster} ${target.name}`} className="border-t border-hair py-0.5">
            <span className="text-soft">{target.cluster} › </span>
            <b className="font-semibold">{target.name}</b>
            {target.as !== null && ` wants translator ${target.as}`}
            {target.foundBy !== null && <span className="text-soft"> · read for scout {target.foundBy}</span>}
            <p className="font-mono text-xs break-all text-soft">
              {Object.entries(target.labels)
                .map(([name, value]) => `${name} ${value}`)
                .join(' · ')}
            </p>
          </li>
        ))}
      </ul>
      {preview.foundInAll > 60 && <p className="mb-3 text-soft">{preview.foundInAll - 60} more</p>}
      <h3 className="mb-1 text-base">Left out: {preview.leftOutInAll}</h3>
      <ul>
        {byReason(preview.leftOut).map(([why, objects]) => (
          <li key={why} className="border-t border-hair py-0.5">
            <b className="font-semibold">
              {formatCount(objects.length, 'object')}: {why}
            </b>
            <p className="text-soft">
              {objects.slice(0, 4).join(', ')}
              {objects.length > 4 && ` and ${objects.length - 4} more`}
            </p>
          </li>
        ))}
      </ul>
      {preview.leftOutInAll > preview.leftOut.length && (
        <p className="text-soft">{preview.leftOutInAll - preview.leftOut.length} more are not shown.</p>
      )}
    </Outcome>
  );
}

/** What would change of what is read: said before it does. */
function Changes({ preview: { fresh, anew, ended, held } }: { preview: ScoutPreview }) {
  const lines = [
    fresh > 0 &&
      `${formatCount(fresh, 'page')} ${fresh === 1 ? 'is' : 'are'} not read yet: how many series begin shows with the first reading.`,
    anew.pages > 0 &&
      `${formatCount(anew.pages, 'page')} would be labelled otherwise: ${formatCount(anew.series, 'series', 'series')} end, and as many begin anew.`,
    ended.pages > 0 &&
      `${formatCount(ended.pages, 'page')} would be read no more: ${formatCount(ended.series, 'series', 'series')} end.`,
    ...held.map(
      ({ scout, pages, series }) =>
        `${formatCount(pages, 'page')} (${formatCount(series, 'series', 'series')}) ${pages === 1 ? 'is' : 'are'} read for scout ${scout}, and ${pages === 1 ? 'stays' : 'stay'} there until somebody moves ${pages === 1 ? 'it' : 'them'}.`,
    ),
  ].filter((line) => line !== false);
  return (
    <ul aria-label="what would change" className="mb-3">
      {lines.map((line) => (
        <li key={line} className="border-t border-hair py-0.5 font-semibold">
          {line}
        </li>
      ))}
    </ul>
  );
}
