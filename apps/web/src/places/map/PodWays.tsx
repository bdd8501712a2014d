import type { LinkAnswer } from '@zetopsis/contract';
import { formatCount, formatLatency, formatPercent } from '@zetopsis/core/format';
import type { OfBoxes } from '../../frame/mapView.ts';
import { useView } from '../../frame/useView.ts';
import { useLinkQuery } from '../../state/mapApi.ts';
import { BOX, type DrawnBox, type DrawnLink } from './mapModel.ts';
import { rowMiddle, usePodRows } from './podRows.ts';

type Way = LinkAnswer['ways'][number];
const SOME = 0.02;
export const wayWords = ({ from, to, requests, failedShare, nearlyAll }: Way): string =>
  `${from || 'a pod that is not told'} calls ${to || 'a pod that is not told'}: ${formatCount(Math.round(requests), 'request')}, ${
    failedShare === 0 ? 'none failed' : `${formatPercent(failedShare)} failed`
  }, 95 of 100 within ${formatLatency(nearlyAll)}`;

interface Props {
  readonly link: DrawnLink;
  readonly from: DrawnBox;
  readonly to: DrawnBox;
  readonly of: OfBoxes;
}
/** From pod to pod over the link that is picked, as traces tell, where one of its ends is open; the sheet says the same in rows. */
export function PodWays({ link, from, to, of }: Props) {
  const { view } = useView();
  const { data } = useLinkQuery({ caller: link.link.from, answerer: link.link.to, window: view.window });
  const callers = usePodRows(from.box?.path ?? null, of, from.rows);
  const answerers = usePodRows(to.box?.path ?? null, of, to.rows);
  const ways = data?.ways ?? [];
  const most = Math.max(...ways.map(({ requests }) => requests), 1);
  return (
    <svg role="group" aria-label="from pod to pod" overflow="visible">
      {ways.map((way) => {
        const [y1, y2] = [rowMiddle(from, callers, way.from), rowMiddle(to, answerers, way.to)];
        const [x1, x2] = [from.x + BOX.width, to.x];
        const bend = x2 <= x1 ? 60 : Math.max(24, (x2 - x1) / 2);
        return (
          <path
            key={`${way.from} ${way.to}`}
            d={`M${x1} ${y1}C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`}
            fill="none"
            stroke={way.failedShare > SOME ? 'var(--critical)' : 'var(--petrol)'}
            strokeWidth={0.7 + (2 * way.requests) / most}
            strokeDasharray={way.failedShare > SOME ? '5 3' : undefined}
          >
            <title>{wayWords(way)}</title>
          </path>
        );
      })}
    </svg>
  );
}
