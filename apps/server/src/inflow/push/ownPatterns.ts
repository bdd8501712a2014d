import { Injectable } from '@nestjs/common';
import type { OwnPattern } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';

type Asked = (of: Pick<Origin, 'cluster' | 'namespace'>, team: string | null) => readonly OwnPattern[];

/** What else is masked than what always is, as far as somebody knows of it. */
@Injectable()
export class OwnPatterns {
  private readonly askers: Asked[] = [];

  /** Who knows: of what stands in a namespace, or is pushed with a key of a team. */
  onAsked(ask: Asked): void {
    this.askers.push(ask);
  }
  of(origin: Pick<Origin, 'cluster' | 'namespace'>, team: string | null): readonly OwnPattern[] {
    return this.askers.flatMap((ask) => ask(origin, team));
  }
}
