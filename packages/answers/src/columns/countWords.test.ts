import { type PodObject, readObject } from '@zetopsis/core/inventory';
import { expect, it } from 'vitest';
import { containersInWords, podsInWords } from './countWords.ts';

const pod = (phase: string, states: object[] = []): PodObject =>
  readObject('pod', {
    metadata: { name: 'p', namespace: 'n', uid: `u-${Math.random()}` },
    spec: { containers: states.map((_, i) => ({ name: `c${i}` })) },
    status: { phase, containerStatuses: states.map((state, i) => ({ name: `c${i}`, state })) },
  }) as PodObject; // read by its kind

it('counts are told by what there is, each in its number', () => {
  expect(podsInWords([])).toBe('');
  expect(podsInWords(['Running', 'Running', 'Pending', 'Failed', 'Succeeded'].map((phase) => pod(phase)))).toBe(
    '2 run, 1 waits, 1 done, 1 failed',
  );
  const { containers } = pod('Running', [
    { running: { startedAt: '2026-11-25T00:00:00Z' } },
    { waiting: { reason: 'CrashLoopBackOff' } },
    { waiting: { reason: 'CrashLoopBackOff' } },
    { terminated: { exitCode: 0 } },
  ]);
  expect(containersInWords(containers)).toBe('1 runs, 2 wait, 1 ended');
});
