import { formatClock, formatDuration } from '@zetopsis/core/format';
import { Link } from 'react-router';
import { useNow } from '../../frame/useNow.ts';
import { useTape } from '../../frame/useTape.ts';
import { useView } from '../../frame/useView.ts';
import { endOf, startOf } from '../../frame/windowModel.ts';
import { Section } from './SheetSections.tsx';

/** Stretches of time that people marked where this is, as far as they touch the window. */
export function SheetStretches() {
  const { view, link } = useView();
  const { data } = useTape();
  const now = useNow(60_000);
  const [from, to] = [startOf(view.window, now), endOf(view.window, now)];
  const own = (data?.stretches ?? []).filter((one) => one.from <= to && (one.to ?? now) >= from);
  if (own.length === 0) return null;
  return (
    <Section title="Marked stretches">
      <ul className="text-sm">
        {own.map((one) => (
          <li key={one.key} className="flex flex-wrap items-baseline gap-x-2 py-0.5">
            <Link
              className="font-semibold hover:text-petrol"
              to={link('/usage', { window: { from: one.from, to: one.to ?? now } })}
            >
              {one.title}
            </Link>
            <span className="text-soft">
              {one.kind}, {formatClock(one.from, now)}{' '}
              {one.to === null ? 'and goes on' : `for ${formatDuration(one.to - one.from)}`}
            </span>
            <Link
              className="ml-auto text-xs hover:text-petrol"
              to={link('/usage', {
                window: { from: one.from, to: one.to ?? now },
                shift: (one.to ?? now) - one.from,
                mirror: false,
              })}
            >
              against the time before
            </Link>
          </li>
        ))}
      </ul>
    </Section>
  );
}
