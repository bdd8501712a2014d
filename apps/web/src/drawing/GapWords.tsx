import { LINE_GAPS, type LineGap } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';

/** What is missing, from when to when, and why. */
export function GapWords({ gap: { pod, container, from, to, why }, now }: { gap: LineGap; now: number }) {
  return (
    <>
      <span className="font-mono">
        {pod} {container}
      </span>
      : lines from {formatClock(from, now, { seconds: true })} to {formatClock(to, now, { seconds: true })} are missing,{' '}
      {LINE_GAPS[why]}.
    </>
  );
}
