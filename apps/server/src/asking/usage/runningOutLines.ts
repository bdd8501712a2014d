import { Injectable } from '@nestjs/common';
import type { RunningOutLine } from '@zetopsis/contract';
import { pathOfObject, writePath } from '@zetopsis/contract';
import type { RunningOut } from '@zetopsis/core/trend';
import type { EpochMs } from '@zetopsis/core/units';

interface Kept {
  readonly at: EpochMs;
  readonly lines: readonly RunningOutLine[];
  readonly byPlace: ReadonlyMap<string, RunningOutLine>;
}
const placeOf = (path: readonly string[], what: string): string => JSON.stringify([path, what]);

/** What was found to run out, by cluster: one date of each thing, wherever it is told. */
@Injectable()
export class RunningOutLines {
  private readonly kept = new Map<string, Kept>();

  keep(connectionId: string, at: EpochMs, lines: readonly RunningOutLine[]): void {
    this.kept.set(connectionId, {
      at,
      lines,
      byPlace: new Map(lines.map((line) => [placeOf(line.path, line.what), line])),
    });
  }
  forgetAllBut(connectionIds: readonly string[]): void {
    for (const id of this.kept.keys()) if (!connectionIds.includes(id)) this.kept.delete(id);
  }
  /** When it was looked at; 0: never. */
  keptAt(connectionId: string): EpochMs {
    return this.kept.get(connectionId)?.at ?? 0;
  }
  /** Null until the cluster was looked at for the first time. */
  linesOf(connectionId: string): readonly RunningOutLine[] | null {
    return this.kept.get(connectionId)?.lines ?? null;
  }
  ofVolume(
    connectionId: string,
    cluster: string,
    { namespace, claim }: { namespace: string; claim: string },
  ): RunningOut | null {
    const path = writePath(pathOfObject({ cluster, kind: 'volume claim', namespace, name: claim }));
    return this.kept.get(connectionId)?.byPlace.get(placeOf(path, 'volume'))?.outcome ?? null;
  }
}
