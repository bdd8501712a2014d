import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { Injectable } from '@nestjs/common';
import type { ForwardDocument, ForwardSignal } from '@zetopsis/contract';
import { type Field, LINE_LEVELS, nothingMasked, type OwnPattern, type PartedLine } from '@zetopsis/core/lines';
import { type Origin, resourceOf } from '@zetopsis/core/origins';
import type { Span } from '@zetopsis/core/spans';
import { logsRequest, maskedMetricsBySteps, type Sent, tracesRequest } from '@zetopsis/core/telemetry';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import type { ForwardRow } from '../../keeping/records/forwardRows.ts';
import { ForwardStore } from './forward.store.ts';

const compress = promisify(gzip);
/** What one sender sent, with what it comes from. */
export interface From<T> {
  readonly origin: Origin;
  /** As it named itself, masked; null: as it is known. */
  readonly attributes: (() => readonly Field[]) | null;
  readonly items: readonly T[];
}

/** What of that which is taken goes on to other receivers: after masking, as it is chosen. */
@Injectable()
export class Forwards {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly store: ForwardStore,
    private readonly clock: Clock,
  ) {}

  /** To be kept with the lines, in one transaction. `key`: null where no push key brought them. */
  async ofLines(key: string | null, all: readonly From<PartedLine>[]): Promise<ForwardRow[]> {
    const rows: ForwardRow[] = [];
    for (const [forward, document] of this.chosen('logs', key)) {
      const least = document.leastLevel === null ? -1 : LINE_LEVELS.indexOf(document.leastLevel);
      const sent = sentTo(
        document,
        all,
        ({ level }) => least < 0 || (level !== null && LINE_LEVELS.indexOf(level) >= least),
      );
      if (sent.length > 0) rows.push(await rowOf(forward, 'logs', sent, logsRequest(sent)));
    }
    return rows;
  }
  async ofSpans(key: string, all: readonly From<Span>[]): Promise<ForwardRow[]> {
    const rows: ForwardRow[] = [];
    for (const [forward, document] of this.chosen('traces', key)) {
      const sent = sentTo(document, all, ({ failed }) => failed || !document.failedOnly);
      if (sent.length > 0) rows.push(await rowOf(forward, 'traces', sent, tracesRequest(sent)));
    }
    return rows;
  }
  /** A metrics request that was taken, whole. */
  async metrics(
    { key, cluster, patterns }: { key: string; cluster: string | null; patterns: readonly OwnPattern[] },
    body: unknown,
    points: number,
  ): Promise<void> {
    const chosen = this.chosen('metrics', key).filter(([, document]) => isAbout(document, cluster));
    if (chosen.length === 0 || points === 0) return;
    const masked = await yieldedInPieces(maskedMetricsBySteps(body, nothingMasked(), patterns));
    const payload = await compress(JSON.stringify(masked));
    await this.store.append(
      chosen.map(([forward]) => ({ forward, signal: 'metrics', items: points, payload })),
      this.clock.now(),
    );
  }
  private chosen(signal: ForwardSignal, key: string | null): [string, ForwardDocument][] {
    return [...this.configuration.all('forward')].filter(
      ([, { use, signals, keys }]) =>
        use === 'on' && signals.includes(signal) && (keys.length === 0 || (key !== null && keys.includes(key))),
    );
  }
}
const isAbout = ({ clusters }: ForwardDocument, cluster: string | null): boolean =>
  clusters.length === 0 || (cluster !== null && clusters.includes(cluster));
const sentTo = <T>(document: ForwardDocument, all: readonly From<T>[], wants: (item: T) => boolean): Sent<T>[] =>
  all.flatMap(({ origin, attributes, items }) => {
    if (!isAbout(document, origin.cluster)) return [];
    const own = items.filter(wants);
    return own.length === 0 ? [] : [{ attributes: attributes?.() ?? resourceOf(origin), items: own }];
  });
const rowOf = async (
  forward: string,
  signal: ForwardSignal,
  sent: readonly Sent<unknown>[],
  request: object,
): Promise<ForwardRow> => ({
  forward,
  signal,
  items: sent.reduce((sum, { items }) => sum + items.length, 0),
  payload: await compress(JSON.stringify(request)),
});
