import { Injectable } from '@nestjs/common';
import type { TroubledLink } from '@zetopsis/core/findings';
import type { LinkBirth, LinkTurn } from '@zetopsis/core/links';

/** Links that are in trouble now, and those that are new or gone, as the map found them: what belongs to a cluster says it too. */
@Injectable()
export class FoundLinks {
  private all: readonly TroubledLink[] = [];
  private births: readonly LinkTurn[] = [];
  private endings: readonly LinkTurn[] = [];

  set(all: readonly TroubledLink[]): void {
    this.all = all;
  }
  setNew(births: readonly LinkBirth[]): void {
    this.births = births.map((one) => ({ ...one, is: 'new' }));
  }
  setGone(endings: readonly LinkBirth[]): void {
    this.endings = endings.map((one) => ({ ...one, is: 'gone' }));
  }
  /** Those of which an end stands in a cluster: when they were told first, or last. */
  turnsOf(cluster: string): readonly LinkTurn[] {
    return [...this.births, ...this.endings].filter(
      ({ from, to }) => from.cluster === cluster || to.cluster === cluster,
    );
  }
  /** Those of which an end stands in a cluster. */
  of(cluster: string): readonly TroubledLink[] {
    return this.all.filter(({ from, to }) => from.cluster === cluster || to.cluster === cluster);
  }
}
