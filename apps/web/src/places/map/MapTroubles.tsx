import type { MapAnswer, MapLink } from '@zetopsis/contract';
import { LINK_CHANGES } from '@zetopsis/contract';
import { formatClock, formatCount, formatPercent } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { memo } from 'react';
import { Link } from 'react-router';
import { changeWords, linkWords, SIDE_WORDS } from '../../drawing/linkWords.ts';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';

interface Props {
  readonly answer: MapAnswer;
  readonly picked: string;
  readonly pick: (key: string) => void;
}
/** Links in trouble, each cause once; where another window is compared with, what changed most. */
export const MapTroubles = memo(function MapTroubles({ answer, picked, pick }: Props) {
  const now = useNow(15_000);
  const links = new Map(answer.links.map((link) => [link.key, link]));
  const names = new Map(answer.boxes.map(({ key, name }) => [key, name]));
  return (
    <nav aria-label="links in trouble" className="w-72 shrink-0 overflow-y-auto border-r border-line px-4 py-3">
      <h2 className="section-title mb-1">Links in trouble</h2>
      {answer.trouble.length === 0 && <p className="text-sm text-soft">None: what is told goes as usual.</p>}
      <ul>
        {answer.trouble.map(({ link: key, side, inside, people }) => {
          const link = links.get(key);
          if (!link) return null;
          return (
            <li key={key} className="border-b border-hair py-1.5">
              <button
                type="button"
                aria-current={key === picked}
                className="w-full text-left text-sm hover:text-petrol"
                onClick={() => pick(key)}
              >
                <span className={clsx(key === picked && 'font-semibold')}>
                  <b className="text-critical">{link.state}</b> {names.get(link.from)} → {names.get(link.to)}
                </span>
                <span className="block text-soft">
                  {linkWords(link)}
                  {link.since !== null && `, since ${formatClock(link.since, now)}`}
                </span>
                {link.blindSince !== null && (
                  <span className="block text-soft">
                    blind since {formatClock(link.blindSince, now)}: so it was last
                  </span>
                )}
                <span className="block text-soft">
                  likely {SIDE_WORDS[side]}
                  {inside.length > 0 && `; ${formatCount(inside.length, 'link')} more by it`}
                </span>
                {people !== null && people > 0 && (
                  <span className="block text-soft">{formatPercent(people)} of what people asked for went over it</span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
      <Blind answer={answer} names={names} />
      {answer.comparedAt !== null && <Changed answer={answer} names={names} picked={picked} pick={pick} />}
    </nav>
  );
});
/** Of whom nothing is told any more: nobody of theirs is called silent. */
function Blind({ answer, names }: { answer: MapAnswer; names: ReadonlyMap<string, string> }) {
  const now = useNow(60_000);
  const { link } = useView();
  const blind = answer.links.filter(({ blindSince }) => blindSince !== null);
  const [first] = blind;
  if (!first || first.blindSince === null) return null;
  return (
    <p className="mt-2 border-l-2 border-line pl-2 text-sm text-soft">
      <b className="text-ink">blind</b>{' '}
      {blind.length === 1 ? `${names.get(first.from)} → ${names.get(first.to)}` : formatCount(blind.length, 'link')}:
      nothing is told by the programs of {clustersOf(blind)} since{' '}
      {formatClock(Math.min(...blind.map(({ blindSince }) => blindSince ?? 0)), now)}. See{' '}
      <Link className="button-plain" to={link('/sources')}>
        Sources
      </Link>
      .
    </p>
  );
}
const clustersOf = (links: readonly MapLink[]): string =>
  [...new Set(links.map(({ from, to }) => from.split('/')[0] || to.split('/')[0] || 'nobody known'))].sort().join(', ');
const MOST_CHANGED = 40;
function Changed({ answer, names, picked, pick }: Props & { readonly names: ReadonlyMap<string, string> }) {
  const now = useNow(60_000);
  const rate = (link: MapLink) => Math.max(link.sent ?? link.received ?? 0, link.was?.rate ?? 0);
  const changed = answer.links
    .flatMap((link) => (link.change === null ? [] : [{ link, change: link.change }]))
    .sort((a, b) => LINK_CHANGES.indexOf(a.change) - LINK_CHANGES.indexOf(b.change) || rate(b.link) - rate(a.link));
  return (
    <section aria-label="changed" className="mt-4">
      <h2 className="section-title mb-1">Changed</h2>
      <p className="mb-1 text-sm text-soft">against {formatClock(answer.comparedAt ?? 0, now)}</p>
      {changed.length === 0 && <p className="text-sm text-soft">Nothing worth a word.</p>}
      <ul>
        {changed.slice(0, MOST_CHANGED).map(({ link, change }) => (
          <li key={link.key} className="border-b border-hair py-1">
            <button
              type="button"
              aria-current={link.key === picked}
              className="w-full text-left text-sm hover:text-petrol"
              onClick={() => pick(link.key)}
            >
              <span className={clsx(link.key === picked && 'font-semibold')}>
                <b>{change}</b> {names.get(link.from)} → {names.get(link.to)}
              </span>
              <span className="block text-soft">{changeWords(link)}</span>
            </button>
          </li>
        ))}
      </ul>
      {changed.length > MOST_CHANGED && (
        <p className="text-sm text-soft">{formatCount(changed.length - MOST_CHANGED, 'more link')} in the table.</p>
      )}
    </section>
  );
}
