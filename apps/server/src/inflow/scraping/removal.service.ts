import { Injectable } from '@nestjs/common';
import type { DependantsAnswer } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { EndpointsService } from './endpoints.service.ts';
import type { OwnEndpoint } from './knownEndpoints.ts';

/** What hangs on an endpoint, and removing it for good with all that was read from it. */
@Injectable()
export class RemovalService {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly endpoints: EndpointsService,
    private readonly answers: EndpointAnswersService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
  ) {}

  async dependants(id: number): Promise<DependantsAnswer> {
    const own = this.answers.look(Reach.ofZetopsis(), id);
    const host = own.plan.dress.attach[OBJECT_LABELS.host];
    return {
      series: this.numbers.table.countOf(id),
      metrics: this.numbers.metricsOf(id).size,
      firstAt: (await this.samples.firstReadingsAt([id])).get(id) ?? null,
      objects: host ? [`host ${host}`] : [],
      stays: staysBecause(own),
    };
  }
  async remove(by: string, id: number): Promise<void> {
    const own = this.answers.look(Reach.ofZetopsis(), id);
    const stays = staysBecause(own);
    if (stays !== null) throw new Refusal('conflict', stays);
    const { plan } = own;
    if (plan.kind === 'given' && this.configuration.get('endpoint', plan.name) !== null)
      await this.configuration.change({
        by,
        what: `removed endpoint ${plan.name} for good`,
        wishes: [{ kind: 'endpoint', key: plan.name, after: null }],
      });
    await this.endpoints.remove(id);
  }
}

/** What is still found would begin again at once. */
function staysBecause({ plan: { kind, scout }, status: { state } }: OwnEndpoint): string | null {
  if (kind === 'given') return null;
  if (kind === 'own') return 'It is Zetopsis’ own page, which is always read.';
  if (state === 'retired') return null;
  switch (kind) {
    case 'node':
      return 'Its node is there, and would be read again at once. It can be removed once the node is gone.';
    case 'found':
      return `Scout ${scout} finds it, and would read it again at once. Make the scout leave it out first.`;
    case 'pushed':
      return state === 'read'
        ? 'It pushes, and would be taken in again at once. Stop it, or revoke its key, first.'
        : null;
  }
}
