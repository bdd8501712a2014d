import { type IntervalHistogram, monitorEventLoopDelay } from 'node:perf_hooks';
import { Injectable, type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { ServerLog } from './logger.ts';
import { Repeated } from './repeated.ts';
import { Clock } from './settings.ts';

const LOOK_EVERY = 1000;
const KEPT = 15 * 60_000;
/** From here on it is told: requests, readings and judging have waited. */
const TOLD_FROM = 1000; // ms
/** Beginning takes its time, and is no trouble. */
const BEGINS_WITHIN = 60_000;

export interface Stop {
  readonly at: number;
  readonly ms: number;
}

/** How long nothing else could run, because one thing held up all others. */
@Injectable()
export class LoopWatch implements OnModuleInit, OnApplicationShutdown {
  private readonly loop: IntervalHistogram = monitorEventLoopDelay({ resolution: 10 });
  private readonly looking = new Repeated(() => this.look(), LOOK_EVERY);
  private stops: Stop[] = [];
  private begunAt = 0;

  constructor(
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onModuleInit(): void {
    this.loop.enable();
    this.begunAt = this.clock.now();
    this.looking.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
    this.loop.disable();
  }
  private look(): void {
    const now = this.clock.now();
    const ms = this.loop.max / 1e6;
    this.loop.reset();
    this.stops = this.stops.filter(({ at }) => now - at < KEPT);
    this.stops.push({ at: now, ms });
    if (ms >= TOLD_FROM) this.log.note('stopped', `everything waited ${Math.round(ms)} ms for one thing`);
  }

  /** The longest of the last so many ms; null where nothing was looked at yet. */
  longest(within: number): Stop | null {
    const since = this.clock.now() - within;
    let longest: Stop | null = null;
    for (const stop of this.stops) if (stop.at >= since && stop.ms > (longest?.ms ?? 0)) longest = stop;
    return longest;
  }
  /** What is worth being told, of the last quarter of an hour. */
  get trouble(): Stop | null {
    const longest = this.longest(Math.min(KEPT, this.clock.now() - this.begunAt - BEGINS_WITHIN));
    return longest !== null && longest.ms >= TOLD_FROM ? longest : null;
  }
}
