import { describe, expect, it } from 'vitest';
import { SAYING_FIELDS, type SayingField, saying, sayingProblem } from './saying.ts';

const fields = Object.fromEntries(SAYING_FIELDS.map((field) => [field, `<${field}>`])) as Record<SayingField, string>;
describe('what a rule calls its alerts', () => {
  it('knows every field, and names those that there are for one that there is not', () => {
    for (const field of SAYING_FIELDS) {
      expect(sayingProblem(`a {${field}} b`)).toBeNull();
      expect(saying(`a {${field}} b`, fields)).toBe(`a <${field}> b`);
    }
    expect(sayingProblem('{objekt}')).toContain('there are object, place');
  });
  it('fills each field once: what an object is called is no template', () => {
    expect(saying('{object} of {team}', { ...fields, object: '{team}', team: 'tides' })).toBe('{team} of tides');
  });
  it('leaves braces alone that hold no name', () => {
    expect(sayingProblem('{} { object } {1}')).toBeNull();
    expect(saying('{} { object } {1}', fields)).toBe('{} { object } {1}');
  });
});
