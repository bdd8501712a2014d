import type { Config } from './config.ts';

/** The checked environment, as one injectable thing. */
export class Settings {
  readonly config: Config;
  constructor(config: Config) {
    this.config = config;
  }
}

/** The server's clock: the one place where "now" comes from, so that a test can move it. */
export class Clock {
  now(): number {
    return Date.now();
  }
}
