import { Injectable } from '@nestjs/common';
import type { TroubledLink } from '@zetopsis/core/findings';
import type { LinkBirth } from '@zetopsis/core/links';

/** Links that are in trouble now, and those that are new, as the map found them: what belongs to a cluster says it too. */
@Injectable()
export class FoundLinks {
  private all: readonly TroubledLink[] = [];
  private births: readonly LinkBirth[] = [];

  set(all: readonly TroubledLink[]): void {
    this.all = all;
  }
  setNew(births: readonly LinkBirth[]): void {
    this.births = births;
  }
  /** Those of which an end stands in a cluster, by when they were told first. */
  newOf(cluster: string): readonly LinkBirth[] {
    return this.births.filter(({ from, to }) => from.cluster === cluster || to.cluster === cluster);
  }
  /** Those of which an end stands in a cluster. */
  of(cluster: string): readonly TroubledLink[] {
    return this.all.filter(({ from, to }) => from.cluster === cluster || to.cluster === cluster);
  }
}
