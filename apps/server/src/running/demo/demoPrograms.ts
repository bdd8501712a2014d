import { Injectable } from '@nestjs/common';
import { FollowDocument, PushDocument } from '@zetopsis/contract';
import { request } from 'undici';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { PushService } from '../../inflow/push/push.service.ts';

const DEMO = 'the demo';
/** They push nothing: what they write is read from the cluster. */
const FOLLOWED = { key: 'pier-data', document: { cluster: 'seaward', namespace: 'pier-data' } } as const;
const PROGRAMS = { key: 'harbour-programs', document: { cluster: 'seaward' } } as const;

/** Lets the programs of the demo's world push what they write and do. */
@Injectable()
export class DemoPrograms {
  constructor(
    private readonly push: PushService,
    private readonly configuration: ConfigurationService,
    private readonly log: ServerLog,
  ) {}

  /** Programs of the first cluster push what they write with a key of their own, which they are given anew each time. */
  async tell(control: string): Promise<void> {
    const { key, document } = PROGRAMS;
    try {
      if (this.configuration.get('follow', FOLLOWED.key) === null)
        await this.configuration.change({
          by: DEMO,
          what: `let log lines of ${FOLLOWED.document.namespace} be followed`,
          wishes: [{ kind: 'follow', key: FOLLOWED.key, after: FollowDocument.parse(FOLLOWED.document) }],
        });
      const made = this.push.has(key) ? null : await this.push.save(DEMO, key, PushDocument.parse(document));
      const { token } = made ?? (await this.push.newToken(key));
      const { address } = this.push.list();
      const answer = await request(new URL('/tell', control), {
        method: 'POST',
        query: { cluster: document.cluster, address, token },
        signal: AbortSignal.timeout(10_000),
      });
      await answer.body.dump();
    } catch (error) {
      this.log.failure('programsNotTold', error);
    }
  }
}
