import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { LiveTopic } from '@zetopsis/contract';
import { Clock } from '../platform/settings.ts';

type Listener = (topics: LiveTopic[], at: number) => void;

/** Gathers what changed and tells every open page at most once a second. */
@Injectable()
export class LiveService implements OnApplicationShutdown {
  private readonly listeners = new Set<Listener>();
  private readonly pending = new Set<LiveTopic>();
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly clock: Clock) {}

  touch(topic: LiveTopic): void {
    this.pending.add(topic);
    this.timer ??= setTimeout(() => this.flush(), 1000);
  }
  listen(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
  onApplicationShutdown(): void {
    if (this.timer) clearTimeout(this.timer);
  }
  private flush(): void {
    this.timer = null;
    const topics = [...this.pending];
    this.pending.clear();
    for (const listener of this.listeners) listener(topics, this.clock.now());
  }
}
