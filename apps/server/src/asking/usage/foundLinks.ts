import { Injectable } from '@nestjs/common';
import type { TroubledLink } from '@zetopsis/core/findings';

/** Links that are in trouble now, as the map found them: what belongs to a cluster says it too. */
@Injectable()
export class FoundLinks {
  private all: readonly TroubledLink[] = [];

  set(all: readonly TroubledLink[]): void {
    this.all = all;
  }
  /** Those of which an end stands in a cluster. */
  of(cluster: string): readonly TroubledLink[] {
    return this.all.filter(({ from, to }) => from.cluster === cluster || to.cluster === cluster);
  }
}
