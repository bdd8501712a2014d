import { Injectable } from '@nestjs/common';
import type { OwnState } from '@zetopsis/answers/now';
import { BegunAnew } from '../../ground/platform/begunAnew.ts';
import { LoopWatch } from '../../ground/platform/loopWatch.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { Unforeseen } from '../../ground/platform/unforeseen.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';

/** How Zetopsis itself is. */
@Injectable()
export class OwnStates {
  constructor(
    private readonly samples: SamplesService,
    private readonly loop: LoopWatch,
    private readonly unforeseen: Unforeseen,
    private readonly anew: BegunAnew,
    private readonly clock: Clock,
  ) {}
  now(): OwnState {
    const { count, lately } = this.unforeseen;
    return {
      at: this.clock.now(),
      storeProblem: this.samples.status.problem,
      unforeseen: { count, lately },
      stop: this.loop.trouble,
      anew: this.anew.lately(),
    };
  }
}
