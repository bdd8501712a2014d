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
            {target.foundBy !== null && <span className="text-soft"> · read already, by scout {target.foundBy}</span>}
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
