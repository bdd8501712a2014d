import { existsSync, readFileSync } from 'node:fs';
import ipaddr from 'ipaddr.js';
import { z } from 'zod';

/** Everything the server reads from its environment; README lists the same names. */
const Environment = z.object({
  ZETOPSIS_DATABASE_URL: z.url({ protocol: /^postgres(ql)?$/, error: 'must be a postgres:// address' }),
  ZETOPSIS_DATA_DIR: z.string({ error: 'must name a folder for keys' }).min(1),
  ZETOPSIS_HOST: z.string().default('127.0.0.1'),
  ZETOPSIS_PORT: z.coerce.number().int().min(0).max(65535).default(8484),
  /** Where pushes are taken over gRPC; nowhere when it is not set. */
  ZETOPSIS_GRPC_PORT: z.coerce.number().int().min(0).max(65535).optional(),
  ZETOPSIS_PUBLIC_URL: z.url({ protocol: /^https?$/, error: 'must be an http(s) address' }).optional(),
  /** Proxies in front, whose word about who asks is taken: addresses, or subnets. */
  ZETOPSIS_TRUST_PROXY: z
    .string()
    .default('')
    .transform((text) =>
      text
        .split(',')
        .map((part) => part.trim())
        .filter((part) => part !== ''),
    )
    .refine((parts) => parts.every((part) => ipaddr.isValid(part) || ipaddr.isValidCIDR(part)), {
      error: 'must name addresses or subnets, parted by commas',
    }),
  ZETOPSIS_TLS_CERTIFICATE: z.string().refine(existsSync, 'names no file').optional(),
  ZETOPSIS_TLS_KEY: z.string().refine(existsSync, 'names no file').optional(),
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
  readonly grpcPort: number | null;
  readonly publicUrl: string;
  /** Under which it is reached, such as “/zetopsis”; empty at the top. */
  readonly basePath: string;
  readonly trustProxy: readonly string[];
  readonly tls: { readonly cert: Buffer; readonly key: Buffer } | null;
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
  if ((env.ZETOPSIS_TLS_CERTIFICATE === undefined) !== (env.ZETOPSIS_TLS_KEY === undefined))
    throw new ConfigError('The settings are not usable:\n  ZETOPSIS_TLS_CERTIFICATE and ZETOPSIS_TLS_KEY go together.');
  const tls =
    env.ZETOPSIS_TLS_CERTIFICATE !== undefined && env.ZETOPSIS_TLS_KEY !== undefined
      ? { cert: readFileSync(env.ZETOPSIS_TLS_CERTIFICATE), key: readFileSync(env.ZETOPSIS_TLS_KEY) }
      : null;
  const publicUrl = (
    env.ZETOPSIS_PUBLIC_URL ?? `${tls ? 'https' : 'http'}://${env.ZETOPSIS_HOST}:${env.ZETOPSIS_PORT}`
  ).replace(/\/+$/, '');
  return {
    databaseUrl: env.ZETOPSIS_DATABASE_URL,
    dataDir: env.ZETOPSIS_DATA_DIR,
    host: env.ZETOPSIS_HOST,
    port: env.ZETOPSIS_PORT,
    grpcPort: env.ZETOPSIS_GRPC_PORT ?? null,
    publicUrl,
    basePath: new URL(publicUrl).pathname.replace(/\/+$/, ''),
    trustProxy: env.ZETOPSIS_TRUST_PROXY,
    tls,
    smtpUrl: env.ZETOPSIS_SMTP_URL ?? null,
    mailFrom: env.ZETOPSIS_MAIL_FROM,
    allowAddresses: env.ZETOPSIS_ALLOW_ADDRESSES,
    zone: env.ZETOPSIS_ZONE,
    demoFile: env.ZETOPSIS_DEMO_FILE ?? null,
    webDir: env.ZETOPSIS_WEB_DIR ?? null,
    logLevel: env.ZETOPSIS_LOG_LEVEL,
  };
}
