import type { SheetAnswer } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { claimKey, entriesOf, listed, type VolumeRead } from '../cluster/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import { volumeLine } from './related.ts';

export function claimParts({
  usage,
  other,
  namespace,
  claim,
}: {
  readonly usage: SeenUsage;
  readonly other: SeenUsage | null;
  readonly namespace: string;
  readonly claim: string;
}): Pick<SheetAnswer, 'volumes' | 'flows'> {
  const read = usage.volumes.get(claimKey(namespace, claim));
  const then = other?.volumes.get(claimKey(namespace, claim)) ?? null;
  return {
    volumes: read ? [volumeLine(usage.name, read)] : [],
    flows: [volumeFlow(read, then), ...entriesFlow(read, then)],
  };
}
const volumeFlow = (read: VolumeRead | undefined, then: VolumeRead | null): SheetAnswer['flows'][number] => ({
  title: 'Used on the volume',
  unit: 'bytes',
  lines: read
    ? [{ name: 'used', values: listed(read.volume.use), against: then ? listed(then.volume.use) : null }]
    : [],
  limit: read ? listed(read.volume.size) : null,
  empty: read ? null : emptyBecause('notMounted'),
});

function entriesFlow(read: VolumeRead | undefined, then: VolumeRead | null): SheetAnswer['flows'] {
  const entries = read && entriesOf(read);
  if (!read || entries?.used == null) return [];
  return [
    {
      title: 'File entries (inodes)',
      unit: 'count',
      lines: [
        {
          name: 'used',
          values: listed(read.volume.entriesUsed),
          against: then ? listed(then.volume.entriesUsed) : null,
        },
      ],
      limit: listed(read.volume.entries),
      empty: null,
    },
  ];
}
