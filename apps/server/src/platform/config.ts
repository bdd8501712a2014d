import { existsSync } from 'node:fs';
import { z } from 'zod';

/** Everything the server reads from its environment; README lists the same names. */
const Environment = z.object({
  ZETOPSIS_DATABASE_URL: z.url({ protocol: /^postgres(ql)?$/, error: 'must be a postgres:// address' }),
  ZETOPSIS_DATA_DIR: z.string({ error: 'must name a folder for keys' }).min(1),
  ZETOPSIS_HOST: z.string().default('127.0.0.1'),
  ZETOPSIS_PORT: z.coerce.number().int().min(0).max(65535).default(8484),
  ZETOPSIS_PUBLIC_URL: z.url({ protocol: /^https?$/, error: 'must be an http(s) address' }).optional(),
  ZETOPSIS_SMTP_URL: z.url({ protocol: /^smtps?$/, error: 'must be smtp://host:port or smtps://…' }).optional(),
  ZETOPSIS_MAIL_FROM: z.string().default('Zetopsis <zetopsis@localhost.invalid>'),
  ZETOPSIS_ALLOW_ADDRESSES: z
    .string()
    .default('')
    .transform((text) =>
      text
        .split(',')
        .map((part) => part.trim())
        .filter((part) => part !== ''),
    ),
  ZETOPSIS_ZONE: z
    .string()
    .default('UTC')
    .refine((zone) => {
      try {
        new Intl.DateTimeFormat('en', { timeZone: zone });
        return true;
      } catch {
        return false;
      }
    }, 'must be a time zone such as Europe/Oslo'),
  ZETOPSIS_DEMO_FILE: z.string().refine(existsSync, 'names no file').optional(),
  ZETOPSIS_WEB_DIR: z.string().optional(),
  ZETOPSIS_LOG_LEVEL: z.enum(['fatal', 'error', 'warn', 'info', 'debug', 'trace', 'silent']).default('info'),
});

export interface Config {
  readonly databaseUrl: string;
  readonly dataDir: string;
  readonly host: string;
  readonly port: number;
  readonly publicUrl: string;
  readonly smtpUrl: string | null;
  readonly mailFrom: string;
  readonly allowAddresses: readonly string[];
  readonly zone: string;
  readonly demoFile: string | null;
  readonly webDir: string | null;
  readonly logLevel: string;
}

export class ConfigError extends Error {}

/** Each failure names the variable and what was wrong with it. */
export function readConfig(environment: Readonly<Record<string, string | undefined>>): Config {
  const given = Object.fromEntries(
    Object.entries(environment).filter(([name, value]) => name.startsWith('ZETOPSIS_') && value !== ''),
  );
  const parsed = Environment.safeParse(given);
  if (!parsed.success) {
    const lines = parsed.error.issues.map((issue) => {
      const name = String(issue.path[0]);
      return `${name} ${given[name] === undefined ? 'is missing: it ' : ''}${issue.message}`;
    });
    throw new ConfigError(`The settings are not usable:\n  ${lines.join('\n  ')}`);
  }
  const env = parsed.data;
  return {
    databaseUrl: env.ZETOPSIS_DATABASE_URL,
    dataDir: env.ZETOPSIS_DATA_DIR,
    host: env.ZETOPSIS_HOST,
    port: env.ZETOPSIS_PORT,
    publicUrl: (env.ZETOPSIS_PUBLIC_URL ?? `http://${env.ZETOPSIS_HOST}:${env.ZETOPSIS_PORT}`).replace(/\/+$/, ''),
    smtpUrl: env.ZETOPSIS_SMTP_URL ?? null,
    mailFrom: env.ZETOPSIS_MAIL_FROM,
    allowAddresses: env.ZETOPSIS_ALLOW_ADDRESSES,
    zone: env.ZETOPSIS_ZONE,
    demoFile: env.ZETOPSIS_DEMO_FILE ?? null,
    webDir: env.ZETOPSIS_WEB_DIR ?? null,
    logLevel: env.ZETOPSIS_LOG_LEVEL,
  };
}
