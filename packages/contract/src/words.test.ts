import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { z } from 'zod';
import * as contract from './index.ts';

/** Everything that reads what somebody sent. */
const SCHEMAS = Object.entries(contract as Record<string, unknown>).flatMap(([name, one]): [string, z.ZodType][] =>
  typeof one === 'object' && one !== null && 'safeParse' in one ? [[name, one as z.ZodType]] : [],
);
const VALIDATORS = /invalid|expected|, received|unrecognized|too (small|big)|pattern|>=|<=|\bNaN\b|undefined|ZodError/i;

describe('what is wrong with a value', () => {
  it('is said in our words by every schema, whatever it is given', () => {
    expect(SCHEMAS.length).toBeGreaterThan(80);
    const values = fc.sample(fc.anything({ maxDepth: 2, withNullPrototype: false }), { numRuns: 60, seed: 7 });
    for (const [name, schema] of SCHEMAS)
      for (const value of [...values, {}, [], undefined, '', 'x', Number.NaN, { kind: 'x', document: {} }]) {
        const issues = schema.safeParse(value).error?.issues ?? [];
        expect([name, issues.map(({ message }) => message).filter((message) => VALIDATORS.test(message))]).toEqual([
          name,
          [],
        ]);
      }
  });
  it.each([
    [contract.SignIn, { password: 'x' }, 'name', 'is missing: a text'],
    [contract.RetentionDocument, {}, 'samplesDays', 'this is not a number'],
    [contract.RuleDocument, { state: 'perhaps' }, 'state', 'one of on, on trial, off'],
    [contract.TeamDocument, { name: 'x', email: 'nobody', more: 1 }, 'email', 'this is no email address'],
    [contract.EndpointDocument, { address: 'http://a/', colour: 1 }, '', 'there is no field called colour here'],
    [contract.GrantDocument, { person: 'a', may: 'read', cluster: 7 }, 'cluster', 'this is not a text'],
  ] as const)('%# is told at its field', (schema, value, path, words) => {
    const issues = schema.safeParse(value).error?.issues ?? [];
    expect(issues.map((issue) => [issue.path.join('.'), issue.message])).toContainEqual([path, words]);
  });
});
