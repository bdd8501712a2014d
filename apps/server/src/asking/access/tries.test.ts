import { describe, expect, it } from 'vitest';
import 'reflect-metadata';
import { AddressLimits, LIMITS_BY_ADDRESS } from './tries.guard.ts';
import { SignInTries } from './tries.ts';

const NOW = 1_700_000_000_000;

describe('wrong passwords', () => {
  const failing = (tries: SignInTries, name: string, browser: string | null, times: number, at = NOW) => {
    for (let i = 0; i < times; i++) tries.failed(name, browser, at);
  };
  it('slow down the next try for the same account, longer each time, whoever tries', () => {
    const tries = new SignInTries();
    failing(tries, 'maren', null, 4);
    expect(() => tries.check('maren', null, NOW)).not.toThrow();
    failing(tries, 'Maren', null, 1);
    expect(() => tries.check('maren', null, NOW + 1999)).toThrow(/try again in 1 s/);
    expect(() => tries.check('maren', null, NOW + 2000)).not.toThrow();
    failing(tries, 'maren', null, 1, NOW + 2000);
    expect(() => tries.check('maren', null, NOW + 2000 + 3999)).toThrow(/1 s/);
    failing(tries, 'maren', null, 100, NOW + 6000);
    expect(() => tries.check('maren', null, NOW + 6000 + 14 * 60_000)).toThrow(/60 s/);
    expect(() => tries.check('maren', null, NOW + 6000 + 15 * 60_000)).not.toThrow();
    expect(() => tries.check('idris', null, NOW)).not.toThrow();
  });
  it('of strangers keep no browser out that has signed in before', () => {
    const tries = new SignInTries();
    failing(tries, 'maren', null, 100);
    expect(() => tries.check('maren', 'known', NOW)).not.toThrow();
    failing(tries, 'maren', 'known', 5);
    expect(() => tries.check('maren', 'known', NOW)).toThrow(/too many wrong passwords/);
    tries.right('maren', 'known');
    expect(() => tries.check('maren', 'known', NOW)).not.toThrow();
    // what strangers did goes on counting for them
    expect(() => tries.check('maren', null, NOW)).toThrow();
  });
  it('are forgotten after a while, and never fill the memory', () => {
    const tries = new SignInTries();
    failing(tries, 'maren', null, 5);
    failing(tries, 'maren', null, 1, NOW + 31 * 60_000);
    expect(() => tries.check('maren', null, NOW + 31 * 60_000)).not.toThrow();
    for (let i = 0; i < 50_000; i++) tries.failed(`made up ${i}`, null, NOW);
    expect((tries as unknown as { tries: Map<string, unknown> }).tries.size).toBeLessThanOrEqual(20_000);
  });
});

describe('limits by address', () => {
  class Shown extends AddressLimits {
    key = (context: object, address: string, name: string) => this.generateKey(context as never, address, name);
  }
  it('count all routes together, and each address by itself', () => {
    const limits = new Shown(LIMITS_BY_ADDRESS, {} as never, {} as never); // what is asked needs neither
    const route = (name: string) => ({ getHandler: () => ({ name }), getClass: () => ({ name }) });
    const keys = ['usage', 'find', 'session'].map((name) => limits.key(route(name), '10.0.0.1', 'all'));
    expect(new Set(keys).size).toBe(1);
    expect(limits.key(route('usage'), '10.0.0.2', 'all')).not.toBe(keys[0]);
    expect(limits.key(route('usage'), '10.0.0.1', 'tries')).not.toBe(keys[0]);
  });
});
