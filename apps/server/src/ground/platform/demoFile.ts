import { readFileSync } from 'node:fs';
import { GrantDocument, Role, TeamDocument } from '@zetopsis/contract';
import { z } from 'zod';

const DemoCluster = z.object({
  name: z.string(),
  address: z.url(),
  token: z.string(),
  authority: z.string(),
  historyPath: z.string().startsWith('/'),
  environment: z.string(),
  region: z.string(),
  flavour: z.string(),
});
export type DemoCluster = z.infer<typeof DemoCluster>;
const DemoFile = z.object({
  clusters: z.array(DemoCluster).min(1),
  mailPage: z.url(),
  /** Where the world is told what to do. */
  control: z.url().optional(),
  programs: z.object({ plain: z.url() }).optional(),
  password: z.string().min(8),
  people: z.array(z.object({ name: z.string(), role: Role, does: z.string() })),
  teams: z.array(TeamDocument),
  grants: z.array(GrantDocument),
  intervalSeconds: z.number().int().min(1).default(15),
  historyHours: z.number().min(0).max(24).default(12),
  historyDays: z.number().min(0).max(60).default(0),
});
export type DemoFile = z.infer<typeof DemoFile>;

/** The world that the demo plays in, as the stand-in has written it. Throws when it is not one. */
export const readDemoFile = (file: string): DemoFile => DemoFile.parse(JSON.parse(readFileSync(file, 'utf8')));
