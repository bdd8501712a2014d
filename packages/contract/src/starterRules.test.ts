import { FINDING_CODES } from '@zetopsis/core/findings';
import {
  checkMeasure,
  INVENTORY_VITALS,
  inventoryVital,
  isInventoryVital,
  parseMeasure,
} from '@zetopsis/core/measures';
import { ruleSentence, STARTER_RULES } from '@zetopsis/core/rules';
import { VITAL_NAMES, vitalOf } from '@zetopsis/core/vitals';
import { describe, expect, it } from 'vitest';
import { RuleDocument } from './rules.ts';

describe('rules to begin with', () => {
  it.each(STARTER_RULES.map((rule) => [rule.title, rule] as const))(
    '%s: is a rule',
    (name, { about: _, title, ...rest }) => {
      expect(RuleDocument.parse({ name: title, ...rest })).toMatchObject({ name, state: 'on', team: null });
    },
  );
  it('each measure can be worked out of vitals', () => {
    const catalogue = {
      metric: () => null,
      metrics: () => [],
      vital: (name: string) => {
        if (isInventoryVital(name)) return inventoryVital(name);
        const vital = VITAL_NAMES.find((one) => one === name);
        if (vital === undefined) return null;
        const { counts, unit } = vitalOf(vital);
        return {
          type: counts ? ('counter' as const) : ('gauge' as const),
          unit: unit === 'seconds' || unit === 'bytes' ? unit : null,
        };
      },
      vitals: () => [...VITAL_NAMES, ...INVENTORY_VITALS],
      measure: () => null,
      measures: () => [],
    };
    for (const { title, when } of STARTER_RULES) {
      if (when.is !== 'measure') continue;
      const read = parseMeasure(when.text);
      const checked = 'body' in read ? checkMeasure(read.body, catalogue) : read;
      expect([title, 'plan' in checked ? checked.plan.notes : checked]).toEqual([title, []]);
    }
  });
  it('their titles differ, and what they are about has several each but sources', () => {
    expect(new Set(STARTER_RULES.map(({ title }) => title)).size).toBe(STARTER_RULES.length);
    expect(STARTER_RULES.length).toBeGreaterThanOrEqual(20);
  });
  it('look at everything that is found works or not, but for what they leave to others', () => {
    const told = new Set(STARTER_RULES.flatMap(({ when }) => (when.is === 'finding' ? when.codes : [])));
    const left = FINDING_CODES.filter((code) => !told.has(code)).sort();
    // fewer ready and near its limit are rules of their own from the beginning; the rest is for whoever asks for it
    expect(left).toEqual([
      'apiSlow',
      'budgetBlocks',
      'cpuAtLimit',
      'deletionStuck',
      'failed',
      'fewerReady',
      'memoryNearLimit',
      'nameServiceDown',
      'notRead',
      'notReady',
      'overAsking',
    ]);
  });
  it('say what they do in a sentence', () => {
    for (const { title, when, levels, clears } of STARTER_RULES) {
      const sentence = ruleSentence({ when, levels, clears, hours: null, tells: null, state: 'on' }, String);
      expect([title, sentence.startsWith('When '), /undefined|null|NaN/.test(sentence)]).toEqual([title, true, false]);
    }
  });
});
