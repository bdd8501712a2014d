import type { LoggerService } from '@nestjs/common';
import { type DestinationStream, type Logger, pino } from 'pino';

/** Nest's logger interface on top of pino; what is logged has a code where it matters to an operator. */
export class ServerLog implements LoggerService {
  constructor(readonly pino: Logger) {}
  static create(level: string, to?: DestinationStream): ServerLog {
    const redact = ['req.headers.cookie', 'req.headers.authorization', 'res.headers["set-cookie"]'];
    return new ServerLog(to ? pino({ level, redact }, to) : pino({ level, redact }));
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
