import type { LoggerService } from '@nestjs/common';
import { type DestinationStream, type Level, type Logger, multistream, pino } from 'pino';

/** From this level on, what is written is told to whoever listens. */
const TOLD = 'info';
const FINER: ReadonlySet<string> = new Set(['trace', 'debug']);

/** Nest's logger interface on top of pino; what is logged has a code where it matters to an operator. */
export class ServerLog implements LoggerService {
  private constructor(
    readonly pino: Logger,
    private readonly listeners: ((line: string) => void)[],
  ) {}
  static create(level: string, to: DestinationStream = process.stdout): ServerLog {
    const redact = ['req.headers.cookie', 'req.headers.authorization', 'res.headers["set-cookie"]'];
    const listeners: ((line: string) => void)[] = [];
    const told = {
      write: (line: string) => {
        for (const listen of listeners) listen(line);
      },
    };
    const shown = level as Level; // one of pino's, or silent
    return new ServerLog(
      pino(
        { level: level === 'silent' || FINER.has(level) ? level : TOLD, redact },
        multistream([...(level === 'silent' ? [] : [{ level: shown, stream: to }]), { level: TOLD, stream: told }]),
      ),
      listeners,
    );
  }
  /** Each line from the level of notes on, as it is written. */
  onWritten(listen: (line: string) => void): void {
    this.listeners.push(listen);
  }
  note(code: string, text: string, detail: object = {}): void {
    this.pino.info({ code, ...detail }, text);
  }
  warning(code: string, text: string, detail: object = {}): void {
    this.pino.warn({ code, ...detail }, text);
  }
  failure(code: string, error: unknown, detail: object = {}): void {
    this.pino.error({ code, err: error, ...detail }, error instanceof Error ? error.message : String(error));
  }
  log = (message: unknown, ...rest: unknown[]) => this.write('debug', message, rest);
  error = (message: unknown, ...rest: unknown[]) => this.write('error', message, rest);
  warn = (message: unknown, ...rest: unknown[]) => this.write('warn', message, rest);
  debug = (message: unknown, ...rest: unknown[]) => this.write('trace', message, rest);
  private write(level: 'debug' | 'error' | 'warn' | 'trace', message: unknown, rest: unknown[]): void {
    const context = typeof rest.at(-1) === 'string' ? rest.at(-1) : undefined;
    if (message instanceof Error) this.pino[level]({ context, err: message }, message.message);
    else this.pino[level]({ context }, String(message));
  }
}
