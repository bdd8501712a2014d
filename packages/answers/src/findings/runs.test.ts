import { type CronJobObject, readObject } from '@zetopsis/core/inventory';
import { describe, expect, it } from 'vitest';
import { nextDue } from './runs.ts';

describe('when a cron job is due', () => {
  const cron = (spec: object) =>
    readObject('cron job', {
      metadata: { name: 'replan', namespace: 'berths', uid: 'u' },
      spec: { jobTemplate: { spec: { template: { spec: { containers: [] } } } }, ...spec },
    }) as CronJobObject;
  const at = (text: string) => Date.parse(text);
  const due = (spec: object, after: string) => {
    const next = nextDue(cron(spec), at(after));
    return next === null ? null : new Date(next).toISOString();
  };
  it('follows its schedule in UTC, or in its own zone over a change of clocks', () => {
    expect(due({ schedule: '0 2 * * *' }, '2026-11-25T01:00:00Z')).toBe('2026-11-25T02:00:00.000Z');
    expect(due({ schedule: '0 2 * * *' }, '2026-11-25T02:00:00Z')).toBe('2026-11-26T02:00:00.000Z');
    expect(due({ schedule: '30 6 * * 1', timeZone: 'Europe/Oslo' }, '2026-10-20T00:00:00Z')).toBe(
      '2026-10-26T05:30:00.000Z',
    );
    expect(due({ schedule: '30 6 * * 1', timeZone: 'Europe/Oslo' }, '2026-10-12T10:00:00Z')).toBe(
      '2026-10-19T04:30:00.000Z',
    );
    expect(due({ schedule: '@hourly' }, '2026-11-25T01:20:00Z')).toBe('2026-11-25T02:00:00.000Z');
  });
  it('is never while suspended, nor when nobody can read its schedule', () => {
    expect(due({ schedule: '0 2 * * *', suspend: true }, '2026-11-25T01:00:00Z')).toBeNull();
    expect(due({ schedule: 'now and then' }, '2026-11-25T01:00:00Z')).toBeNull();
    expect(due({ schedule: '0 2 * * *', timeZone: 'Sea/Nowhere' }, '2026-11-25T01:00:00Z')).toBeNull();
    expect(due({ schedule: '0 0 30 2 *' }, '2026-11-25T01:00:00Z')).toBeNull();
  });
  it('is found for the rarest day there is, and told again the same', () => {
    const rare = cron({ schedule: '0 0 29 2 *' });
    const next = nextDue(rare, at('2096-03-01T00:00:00Z'));
    expect(new Date(next!).toISOString()).toBe('2104-02-29T00:00:00.000Z');
    expect(nextDue(rare, at('2096-03-01T00:00:00Z'))).toBe(next);
    expect(nextDue(rare, at('2026-03-01T00:00:00Z'))).toBe(at('2028-02-29T00:00:00Z'));
  });
  it('is asked of cron jobs only', () => {
    const job = readObject('job', { metadata: { name: 'j', namespace: 'n', uid: 'u' } });
    expect(nextDue(job?.kind === 'job' ? job : null, 0)).toBeNull();
    expect(nextDue(null, 0)).toBeNull();
  });
});
