import type { MapAnswer } from '@zetopsis/contract';
import { csvOfRows } from '../../drawing/csv.ts';
import { saveFile } from '../../drawing/saveFile.ts';

/** The map taken away: as it is drawn, as it was told, as rows. */
export function MapExports({ answer, svg }: { answer: MapAnswer; svg: () => SVGSVGElement | null }) {
  const name = `map-${new Date(answer.at).toISOString().slice(0, 16).replaceAll(':', '')}`;
  const drawing = () => {
    const own = svg();
    if (!own) return;
    const copy = own.cloneNode(true) as SVGSVGElement; // of what it is
    copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
    const style = getComputedStyle(document.documentElement);
    // a file has no page whose colours it could take
    const text = new XMLSerializer()
      .serializeToString(copy)
      .replaceAll(/var\((--[a-z0-9-]+)\)/g, (_, variable: string) => style.getPropertyValue(variable).trim() || '#000');
    saveFile(`${name}.svg`, 'image/svg+xml', text);
  };
  const rows = () => [
    [
      'from',
      'to',
      'state',
      'sent per s',
      'received per s',
      'failed',
      'refused',
      'caller p95 s',
      'answerer p95 s',
      'bytes per s',
      'connections',
      'then per s',
      'change',
    ],
    ...answer.links.map((link) => [
      link.from,
      link.to,
      link.state ?? (link.blindSince === null ? null : 'blind'),
      link.sent,
      link.received,
      link.failureShare,
      link.refusedShare,
      link.callerP95,
      link.answererP95,
      link.bytes,
      link.connections,
      link.was?.rate ?? null,
      link.change,
    ]),
  ];
  return (
    <>
      <button type="button" className="button-plain" onClick={drawing}>
        SVG
      </button>
      <button
        type="button"
        className="button-plain"
        onClick={() => saveFile(`${name}.json`, 'application/json', JSON.stringify(answer, null, 1))}
      >
        JSON
      </button>
      <button
        type="button"
        className="button-plain"
        onClick={() => saveFile(`${name}.csv`, 'text/csv', csvOfRows(rows()))}
      >
        CSV
      </button>
    </>
  );
}
