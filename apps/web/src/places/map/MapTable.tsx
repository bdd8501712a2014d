import type { MapAnswer, MapLink } from '@zetopsis/contract';
import { formatLatency, formatPercent, formatRate } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { bytesWords } from '../../drawing/linkWords.ts';

interface Props {
  readonly answer: MapAnswer;
  readonly links: readonly MapLink[];
  readonly picked: string;
  readonly pick: (key: string) => void;
}
const quietWords = ({ blindSince, isNew }: MapLink): string => (blindSince !== null ? 'blind' : isNew ? 'new' : '');
/** The drawing's twin: each link a row. */
export function MapTable({ answer, links, picked, pick }: Props) {
  const names = new Map(answer.boxes.map(({ key, name }) => [key, name]));
  const figure = (value: number | null, format: (value: number) => string) =>
    value === null ? 'not told' : format(value);
  const compared = answer.comparedAt !== null;
  const heads = [
    'caller',
    'answerer',
    'state',
    'sent',
    'received',
    'failed',
    '95 of 100, caller',
    'answerer’s',
    ...(compared ? ['sent then', 'change'] : []),
  ];
  return (
    <table aria-label="table of links" className="w-full text-sm">
      <thead className="sticky top-0 bg-ground">
        <tr className="text-left text-soft">
          {heads.map((name) => (
            <th key={name} className="border-b border-line px-2 py-1 font-normal">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {links.map((link) => (
          <tr key={link.key} className={clsx('border-b border-hair', link.key === picked && 'bg-sheet')}>
            <td className="px-2 py-0.5">
              <button type="button" className="button-plain" onClick={() => pick(link.key)}>
                {names.get(link.from) ?? link.from}
              </button>
            </td>
            <td className="px-2">{names.get(link.to) ?? link.to}</td>
            <td className="px-2">
              {link.state === null ? (
                quietWords(link)
              ) : (
                <>
                  <b>{link.state}</b>
                  {link.blindSince !== null && ', blind now'}
                </>
              )}
            </td>
            <td className="px-2 whitespace-nowrap">
              {link.sent === null && link.bytes !== null ? bytesWords(link.bytes) : figure(link.sent, formatRate)}
            </td>
            <td className="px-2 whitespace-nowrap">{figure(link.received, formatRate)}</td>
            <td className="px-2">{figure(link.failureShare, formatPercent)}</td>
            <td className="px-2 whitespace-nowrap">{figure(link.callerP95, formatLatency)}</td>
            <td className="px-2 whitespace-nowrap">{figure(link.answererP95, formatLatency)}</td>
            {compared && (
              <>
                <td className="px-2 whitespace-nowrap">
                  {link.was === null ? 'not there' : formatRate(link.was.rate)}
                </td>
                <td className="px-2 whitespace-nowrap">{link.change ?? 'about the same'}</td>
              </>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
