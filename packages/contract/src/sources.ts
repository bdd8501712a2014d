import { z } from 'zod';
import { EpochMs } from './time.ts';

const Address = z
  .string()
  .trim()
  .max(500)
  .superRefine((text, context) => {
    let url: URL;
    try {
      url = new URL(text);
    } catch {
      context.addIssue({ code: 'custom', message: 'this is no address; write https://host:port' });
      return;
    }
    if (url.protocol !== 'https:') context.addIssue({ code: 'custom', message: 'a cluster is read over https' });
    if (url.username !== '' || url.password !== '')
      context.addIssue({
        code: 'custom',
        message: 'leave name and password out of the address; the token proves who asks',
      });
  });

export const ClusterName = z
  .string()
  .trim()
  .regex(/^[a-z0-9]([a-z0-9-]{0,38}[a-z0-9])?$/, 'a name is 1 to 40 small letters, digits and dashes');
export const Authority = z
  .string()
  .max(200_000)
  .transform((text) => text.trim())
  .refine((text) => text === '' || /^-----BEGIN CERTIFICATE-----[\s\S]+-----END CERTIFICATE-----$/.test(text), {
    message: 'a certificate authority starts with -----BEGIN CERTIFICATE----- and ends with -----END CERTIFICATE-----',
  })
  .default('');
const NodePage = z
  .object({
    path: z.string().trim().startsWith('/', 'a path starts with /').max(200).default('/metrics'),
    intervalSeconds: z.coerce.number<number>().int().min(1, 'at least 1 s').max(3600, 'at most 1 h').default(15),
  })
  .default({ path: '/metrics', intervalSeconds: 15 });
const Trait = z.string().trim().max(60, 'at most 60 characters').default('');

/** Blanks that came along when a text was pasted; trimmed, and said (`trimmedBlanks`). */
export const ConnectionInput = z.object({
  name: ClusterName,
  address: Address,
  token: z
    .string()
    .max(10_000)
    .transform((text) => text.replace(/\s+/g, ''))
    .pipe(z.string().min(1, 'the token is missing')),
  authority: Authority,
  nodePage: NodePage,
  environment: Trait,
  region: Trait,
  flavour: Trait,
});
export type ConnectionInput = z.infer<typeof ConnectionInput>;

/** Changing: an empty token leaves the stored one in place. */
export const ConnectionChange = ConnectionInput.omit({ name: true }).extend({
  token: z
    .string()
    .max(10_000)
    .transform((text) => text.replace(/\s+/g, '')),
});
export type ConnectionChange = z.infer<typeof ConnectionChange>;

/** Which fields of what a person typed held blanks at an end, or inside a token. */
export function trimmedBlanks(raw: Readonly<Record<string, unknown>>): string[] {
  return ['name', 'address', 'token', 'authority'].filter((field) => {
    const text = raw[field];
    if (typeof text !== 'string' || text === '') return false;
    return field === 'token'
      ? /\s/.test(text)
      : field === 'authority'
        ? /^\s|[ \t]\s*$/.test(text)
        : text !== text.trim();
  });
}

/** Kinds that an account need not be granted: everything else is whole without them. */
export const OPTIONAL_KINDS: ReadonlySet<string> = new Set(['secret']);
const KindAccess = z.object({
  kind: z.string(),
  may: z.enum(['read', 'not allowed', 'not served', 'failed']),
  count: z.number().int().nullable(),
  why: z.string().nullable(),
});
export const ConnectionTest = z.object({
  reached: z.boolean(),
  /** What went wrong before anything could be read, and what to do. */
  problem: z.string().nullable(),
  clusterVersion: z.string().nullable(),
  kinds: z.array(KindAccess),
  nodePage: z.object({ ok: z.boolean(), text: z.string() }).nullable(),
  trimmed: z.array(z.string()),
  durationMs: z.number(),
});
export type ConnectionTest = z.infer<typeof ConnectionTest>;

const ConnectionState = z.enum(['connecting', 'reading', 'partly reading', 'blind']);
export const ConnectionAnswer = z.object({
  id: z.uuid(),
  name: z.string(),
  address: z.string(),
  /** PEM; public by nature. Empty when the system’s authorities vouch for the cluster. */
  authority: z.string(),
  nodePage: z.object({ path: z.string(), intervalSeconds: z.number() }),
  environment: z.string(),
  region: z.string(),
  flavour: z.string(),
  /** What the person asking may do with it. */
  may: z.enum(['read', 'operate', 'administer']),
  state: ConnectionState,
  since: EpochMs,
  reason: z.string().nullable(),
  nextStep: z.string().nullable(),
  lastContactAt: EpochMs.nullable(),
  kinds: z.array(
    z.object({
      kind: z.string(),
      state: z.enum(['waiting', 'watching', 'not allowed', 'not served', 'failing']),
      count: z.number().int(),
      reason: z.string().nullable(),
      resyncs: z.number().int(),
    }),
  ),
});
export type ConnectionAnswer = z.infer<typeof ConnectionAnswer>;

const EndpointState = z.enum(['waiting', 'read', 'late', 'failing', 'paused', 'retired']);
export const EndpointAnswer = z.object({
  id: z.number().int(),
  /** A node's own page, one given by its address, one a scout found, who pushes with a key, Zetopsis' own. */
  kind: z.enum(['node', 'given', 'found', 'pushed', 'own']),
  /** The cluster; null for what is outside of all. */
  connection: z.string().nullable(),
  /** The node, the name it was given, or what it is of. */
  name: z.string(),
  scout: z.string().nullable(),
  /** Empty: in none. */
  group: z.string(),
  address: z.string(),
  intervalSeconds: z.number(),
  state: EndpointState,
  since: EpochMs,
  lastReadingAt: EpochMs.nullable(),
  samples: z.number().int().nullable(),
  bytes: z.number().int().nullable(),
  durationMs: z.number().nullable(),
  problems: z.number().int(),
  /** Series that are not kept since they are past a limit, in words with what to do. */
  cut: z.string().nullable(),
  /** In words, with what to do. */
  lastError: z.string().nullable(),
  lastErrorAt: EpochMs.nullable(),
  nextDueAt: EpochMs.nullable(),
});
export type EndpointAnswer = z.infer<typeof EndpointAnswer>;

export const SourcesAnswer = z.object({
  at: EpochMs,
  connections: z.array(ConnectionAnswer),
  endpoints: z.array(EndpointAnswer),
  store: z.object({
    series: z.number().int(),
    waiting: z.number().int(),
    waitingBytes: z.number().int(),
    /** Set while PostgreSQL does not take what was read: what keeps it, and what to do. */
    problem: z.string().nullable(),
    problemSince: EpochMs.nullable(),
    /** Another process that reads and writes; null when this one does. */
    heldBy: z.string().nullable(),
    /** Since the start: readings given up, samples that came too late, readings of a moment that had one already. */
    lost: z.number().int(),
    tooOld: z.number().int(),
    doubledSame: z.number().int(),
    doubledOther: z.number().int(),
    /** Series that are past a limit now. */
    refusedSeries: z.number().int(),
    /** Why packing stands still; it is tried again every minute. */
    packing: z.string().nullable(),
    space: z
      .object({
        usedBytes: z.number(),
        roomBytes: z.number().nullable(),
        room: z.enum(['set', 'disk']).nullable(),
        fullAt: EpochMs.nullable(),
        hoursKnown: z.number().int(),
      })
      .nullable(),
  }),
});
export type SourcesAnswer = z.infer<typeof SourcesAnswer>;

export const RawPage = z.object({
  readAt: EpochMs,
  contentType: z.string(),
  bytes: z.number().int(),
  text: z.string(),
  cut: z.boolean(),
  families: z.array(z.object({ name: z.string(), type: z.string(), unit: z.string(), samples: z.number().int() })),
  problems: z.array(z.object({ line: z.number(), column: z.number(), code: z.string(), text: z.string() })),
  problemCount: z.number().int(),
});
export type RawPage = z.infer<typeof RawPage>;
