import { describe, expect, it } from 'vitest';
import { EventLog } from './index.ts';

const event = (uid: string, about: string, namespace: string | null, at: number) => ({
  uid,
  namespace,
  about: { kind: 'Pod', name: about, uid: `uid-${about}` },
  type: 'warning' as const,
  reason: 'Told',
  message: '',
  count: 1,
  firstAt: at,
  lastAt: at,
});
const pod = (name: string) => ({ kind: 'pod' as const, namespace: 'tides', name, uid: `uid-${name}` });

describe('what a cluster said', () => {
  it('is given by what it is about, newest first, each as it was said last', () => {
    const log = new EventLog();
    for (const [uid, at] of [
      ['a', 1],
      ['b', 3],
      ['a', 5],
    ] as const)
      log.note(event(uid, 'p', 'tides', at));
    expect(log.about(pod('p')).map(({ uid, lastAt }) => [uid, lastAt])).toEqual([
      ['a', 5],
      ['b', 3],
    ]);
    expect(log.about(pod('q'))).toEqual([]);
    expect(log.size).toBe(2);
  });
  it('is bounded, of one object and of all, whatever is said', () => {
    const log = new EventLog();
    for (let i = 0; i < 1000; i++) log.note(event(`one-${i}`, 'p', 'tides', i));
    expect(log.about(pod('p'))).toHaveLength(40);
    expect(log.about(pod('p'))[0]?.uid).toBe('one-999');
    for (let i = 0; i < 25_000; i++) log.note(event(`all-${i}`, `q${i}`, 'tides', i));
    expect(log.size).toBe(20_000);
    expect(log.about(pod('p'))).toEqual([]);
    expect(log.about(pod('q24999'))).toHaveLength(1);
  });
  it('of other namespaces, and of none, is not in what somebody sees', () => {
    const log = new EventLog();
    log.note(event('a', 'p', 'tides', 1));
    log.note(event('b', 'q', 'berths', 1));
    log.note(event('c', 'r', null, 1));
    const seen = log.narrowed((namespace) => namespace === 'tides');
    expect([seen.size, seen.about(pod('p')).length]).toEqual([1, 1]);
  });
});
