export interface RunningPostgres {
  readonly port: number;
  /** With password, for database `zetopsis`. */
  readonly url: string;
  stop(): unknown;
  /** Ends it at once, as a lost machine would. */
  crash(): unknown;
}
export function startPostgres(options?: { name?: string; port?: number; durable?: boolean }): Promise<RunningPostgres>;
export function freePort(wanted: number, count?: number): Promise<number>;
