import type { LiveTopic } from '@zetopsis/contract';

/** Of what comes without end: how often those who show it ask anew at most, ms. The rest follows at once. */
const EVERY: Partial<Record<LiveTopic, number>> = {
  samples: 5000,
  lines: 5000,
  links: 5000,
  inventory: 2500,
  sources: 2500,
};
/** While somebody scrolls they wait for so long after the last movement, but not for ever: thousands of rows would falter. */
const AFTER_SCROLLING = 400;
const AT_LATEST = 20_000;

/** Holds news back until it is time to ask; nothing that was told is ever dropped. Times in ms of one clock. */
export class NewsPace {
  private readonly waiting = new Map<LiveTopic, number>();
  private readonly asked = new Map<LiveTopic, number>();

  came(topics: readonly LiveTopic[], now: number): void {
    for (const topic of topics) if (!this.waiting.has(topic)) this.waiting.set(topic, now);
  }

  /** What is to be asked for now. What waits beside it is asked for with it: most answers hang on several. */
  due(now: number, scrolledAt: number): LiveTopic[] {
    const due = [...this.waiting.keys()].some((topic) => this.dueAt(topic, scrolledAt) <= now);
    if (!due) return [];
    const topics = [...this.waiting.keys()].filter(
      (topic) => EVERY[topic] === undefined || scrolledAt + AFTER_SCROLLING <= now || this.latest(topic) <= now,
    );
    for (const topic of topics) {
      this.waiting.delete(topic);
      this.asked.set(topic, now);
    }
    return topics;
  }

  /** When something will be due, null while nothing waits. */
  next(scrolledAt: number): number | null {
    const times = [...this.waiting.keys()].map((topic) => this.dueAt(topic, scrolledAt));
    return times.length === 0 ? null : Math.min(...times);
  }

  /** All was asked for. */
  askedAll(): void {
    this.waiting.clear();
  }

  private dueAt(topic: LiveTopic, scrolledAt: number): number {
    const every = EVERY[topic];
    if (every === undefined) return Number.NEGATIVE_INFINITY;
    const paced = (this.asked.get(topic) ?? Number.NEGATIVE_INFINITY) + every;
    return Math.max(paced, Math.min(scrolledAt + AFTER_SCROLLING, this.latest(topic)));
  }
  private latest(topic: LiveTopic): number {
    return (this.waiting.get(topic) ?? 0) + AT_LATEST;
  }
}
