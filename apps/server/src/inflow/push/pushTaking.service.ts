import { createHash } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { readMetricsBySteps } from '@zetopsis/core/telemetry';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { LinesService } from '../../keeping/records/lines.service.ts';
import { Forwards } from '../forwarding/forwards.service.ts';
import { decodeRequest } from './decodeRequest.ts';
import { OwnPatterns } from './ownPatterns.ts';
import { type Left, PushService } from './push.service.ts';
import { PushCounts } from './pushCounts.ts';
import { PushedLines } from './pushedLines.service.ts';
import { PushedSpans } from './pushedSpans.service.ts';
import type { PushedBy } from './pushRequest.ts';
import type { Signal } from './wire-names.ts';

/** Takes requests of the open telemetry protocol, whichever way they came. */
@Injectable()
export class PushTaking {
  constructor(
    private readonly push: PushService,
    private readonly counts: PushCounts,
    private readonly kept: LinesService,
    private readonly lines: PushedLines,
    private readonly spans: PushedSpans,
    private readonly forwards: Forwards,
    private readonly patterns: OwnPatterns,
  ) {}

  /** A request in its binary form. Answers once what was taken is durable. */
  async takeBinary(signal: Signal, by: PushedBy, bytes: Uint8Array): Promise<Left> {
    let body: unknown;
    try {
      body = await yieldedInPieces(decodeRequest(signal, bytes));
    } catch {
      this.counts.pushed(by.key, 1, `no ${signal} request of the protocol`);
      throw new Refusal('invalid', `This is no ${signal} request of the open telemetry protocol.`);
    }
    return this.take(signal, by, body, bytes);
  }
  /** One in its JSON form. */
  async takeJson(signal: Signal, by: PushedBy, bytes: Buffer): Promise<Left> {
    let body: unknown = {};
    try {
      if (bytes.length > 0) body = JSON.parse(bytes.toString('utf8'));
    } catch {
      this.counts.pushed(by.key, 1, 'no JSON');
      throw new Refusal('invalid', 'This is no JSON.');
    }
    return this.take(signal, by, body, bytes);
  }

  private async take(signal: Signal, by: PushedBy, body: unknown, content: Uint8Array): Promise<Left> {
    switch (signal) {
      case 'metrics':
        return this.metrics(by, body);
      case 'logs':
        return (await this.isAgain(by, content)) ?? this.lines.take(by, body, digestOf(content));
      case 'traces':
        return (await this.isAgain(by, content)) ?? this.spans.take(by, body, digestOf(content));
    }
  }
  /** The same push once more counts once: everything of it was taken, as far as its sender is concerned. */
  private async isAgain({ key }: PushedBy, content: Uint8Array): Promise<Left | null> {
    if (!(await this.kept.wasTaken({ key, digest: digestOf(content) }))) return null;
    this.counts.pushed(key, 0, null);
    this.counts.again(key);
    return { refused: 0, problem: null };
  }
  private async metrics({ key, document }: PushedBy, body: unknown): Promise<Left> {
    const pushed = await yieldedInPieces(readMetricsBySteps(body));
    let { refused, problem } = pushed;
    for (const resource of pushed.resources) {
      const left = await this.push.takeResource(key, resource);
      refused += left.refused;
      problem ??= left.problem;
    }
    const points = pushed.resources.reduce((sum, resource) => sum + resource.points.length, 0);
    const patterns = this.patterns.of({ cluster: document.cluster, namespace: document.namespace }, document.team);
    await this.forwards.metrics({ key, cluster: document.cluster, patterns }, body, points);
    this.counts.pushed(key, refused, problem);
    return { refused, problem };
  }
}
const digestOf = (content: Uint8Array): Buffer => createHash('sha256').update(content).digest();
