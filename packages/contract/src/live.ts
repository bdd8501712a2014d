import { z } from 'zod';

/** What may have changed: a page that shows it asks again. Sent at most once a second. */
export const LiveTopic = z.enum([
  'inventory',
  'samples',
  'alerts',
  'lines',
  'links',
  'sources',
  'rules',
  'configuration',
]);
export type LiveTopic = z.infer<typeof LiveTopic>;
export const LiveMessage = z.object({ topics: z.array(LiveTopic), at: z.number() });
