import { z } from 'zod';
import { AttachedLabels, DropRuleDocument, GroupName, OwnInterval, Secret, SourceKey } from './endpoints.ts';
import { Authority, ClusterName } from './sources.ts';

const Selector = z.record(z.string().trim().min(1).max(317), z.string().trim().max(253)).default({});
const AnnotationKey = z.string().trim().max(317).default('');
export const SERVES_KEY = 'zetopsis/serves';
const ScoutFields = z.strictObject({
  cluster: ClusterName.nullable().default(null),
  namespaces: z.array(z.string().trim().min(1).max(63)).max(200).default([]),
  among: z.enum(['pods', 'services', 'nodes']).default('pods'),
  labels: Selector,
  annotations: Selector,
  container: z.string().trim().max(63).default(''),
  ports: z
    .array(
      z
        .string()
        .trim()
        .regex(/^[a-z0-9-]{1,63}$/i, 'a port is a number or a name'),
    )
    .max(20)
    .default([]),
  keys: z
    .strictObject({
      serves: z.string().trim().max(317).default(SERVES_KEY),
      port: AnnotationKey,
      path: AnnotationKey,
      scheme: AnnotationKey,
    })
    .default({ serves: SERVES_KEY, port: '', path: '', scheme: '' }),
  scheme: z.enum(['http', 'https']).default('http'),
  path: z.string().trim().startsWith('/', 'a path starts with /').max(300).default('/metrics'),
  group: GroupName,
  intervalSeconds: OwnInterval,
  /** Templates: `{namespace}`, `{label.team}`; what they may name is checked where they are filled. */
  attach: AttachedLabels,
  identity: z.boolean().default(true),
  route: z.enum(['direct', 'through the cluster']).default('direct'),
  /** What proves who asks for the pages that are read directly; the secret itself is in no document. */
  proof: z.enum(['none', 'basic', 'bearer']).default('none'),
  user: z.string().trim().max(200).default(''),
  authority: Authority,
  drop: z.array(DropRuleDocument).max(50).default([]),
  /** Scouts whose pages were moved to this one: where they find a page, too, it is this one's. */
  over: z.array(SourceKey).max(50).default([]),
  use: z.enum(['on', 'off']).default('on'),
});
export const ScoutDocument = ScoutFields.superRefine(({ proof, user, route }, context) => {
  const wrong = (path: string, message: string) => context.addIssue({ code: 'custom', path: [path], message });
  if (proof === 'basic' && user === '') wrong('user', 'the name is missing');
  if (proof !== 'none' && route !== 'direct')
    wrong('proof', 'through a cluster the cluster’s own token is sent; choose none');
});
export type ScoutDocument = z.infer<typeof ScoutDocument>;
// ---- scouts -----------------------------------------------------------------------------------------------------

const TargetAnswer = z.object({
  name: z.string(),
  cluster: z.string(),
  address: z.string(),
  every: z.number(),
  labels: z.record(z.string(), z.string()),
  as: z.string().nullable(),
  /** The scout that the same page is read for. */
  foundBy: z.string().nullable(),
});
/** Pages, and how many series are kept of them now. */
const Pages = z.object({ pages: z.number().int(), series: z.number().int() });
/** The same of those that are read for another scout. */
const HeldPages = Pages.extend({ scout: z.string() });
export const ScoutPreviewInput = z.object({
  document: ScoutDocument,
  /** The scout that would become so; null for a new one. */
  key: SourceKey.nullable().default(null),
});
export const ScoutPreview = z.object({
  lookedAt: z.number().int(),
  found: z.array(TargetAnswer),
  foundInAll: z.number().int(),
  leftOut: z.array(z.object({ cluster: z.string(), object: z.string(), why: z.string() })),
  leftOutInAll: z.number().int(),
  merging: z.array(z.object({ labels: z.record(z.string(), z.string()), of: z.array(z.string()) })),
  /** Pages that nobody reads yet: their series begin with the first reading. */
  fresh: z.number().int(),
  /** Pages of this scout whose labels, or what of them is left out, would change: their series end and others begin. */
  anew: Pages,
  /** Pages of this scout that it would not find any more. */
  ended: Pages,
  /** Pages that are read for other scouts already: they stay with them. */
  held: z.array(HeldPages),
});
export type ScoutPreview = z.infer<typeof ScoutPreview>;
export const ScoutInput = z.object({ document: ScoutDocument, secret: Secret });
export type ScoutInput = z.infer<typeof ScoutInput>;
export const ScoutAnswer = z.object({
  key: z.string(),
  document: ScoutDocument,
  hasSecret: z.boolean(),
  found: z.number().int(),
  read: z.number().int(),
  leftOut: z.number().int(),
  /** What it finds, too, and other scouts read. */
  held: z.array(HeldPages),
});
export type ScoutAnswer = z.infer<typeof ScoutAnswer>;
export const ScoutTake = z.object({ from: SourceKey });
/** What hangs on a scout: it is listed before the scout is removed. */
export const ScoutDependants = Pages.extend({
  /** Of those, the ones that other scouts find, too: they go on. */
  goOn: z.array(z.object({ scout: z.string(), pages: z.number().int() })),
});
export type ScoutDependants = z.infer<typeof ScoutDependants>;
export const ScoutsAnswer = z.object({ scouts: z.array(ScoutAnswer) });
export type ScoutsAnswer = z.infer<typeof ScoutsAnswer>;
