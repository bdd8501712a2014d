import { RE2JS } from 're2js';
import type { LabelMatch } from '../series/index.ts';
import type { Labels } from './evaluate/lines.ts';
import type { Condition } from './tree.ts';

/** Whether labels fit; a pattern has to match the whole value, in linear time. A label that is missing is the empty text. */
export function matcher(where: readonly Condition[]): (labels: Labels) => boolean {
  const all = where.map(one);
  return (labels) => all.every((fits) => fits(labels));
}
/** What of these an index of labels can answer: no series that fits lacks it. The rest is asked of each series. */
export const indexedOf = (where: readonly Condition[]): LabelMatch[] =>
  where.flatMap((condition): LabelMatch[] => {
    const { label } = condition;
    // the cluster is where a series was read, and none of its own labels; what is missing is in no index
    if (label === 'cluster') return [];
    if (condition.is === 'is' && condition.text !== '') return [{ label, is: condition.text }];
    if (condition.is === 'is any of' && !condition.texts.includes(''))
      return [{ label, isOneOf: new Set(condition.texts) }];
    return [];
  });
function one(condition: Condition): (labels: Labels) => boolean {
  const value = (labels: Labels): string => (Object.hasOwn(labels, condition.label) ? labels[condition.label]! : '');
  switch (condition.is) {
    case 'is':
      return (labels) => value(labels) === condition.text;
    case 'is not':
      return (labels) => value(labels) !== condition.text;
    case 'contains':
      return (labels) => value(labels).includes(condition.text);
    case 'starts with':
      return (labels) => value(labels).startsWith(condition.text);
    case 'ends with':
      return (labels) => value(labels).endsWith(condition.text);
    case 'matches':
    case 'does not match': {
      const pattern = RE2JS.compile(condition.text);
      return (labels) => pattern.matches(value(labels)) === (condition.is === 'matches');
    }
    case 'is any of': {
      const texts = new Set(condition.texts);
      return (labels) => texts.has(value(labels));
    }
    case 'is none of': {
      const texts = new Set(condition.texts);
      return (labels) => !texts.has(value(labels));
    }
    case 'is present':
      return (labels) => value(labels) !== '';
    case 'is missing':
      return (labels) => value(labels) === '';
  }
}
/** The first group of a value that matches, else the value. */
export function shortener(text: string): (value: string) => string {
  const pattern = RE2JS.compile(text);
  return (value) => {
    const match = pattern.matcher(value);
    return match.matches() && match.groupCount() > 0 ? (match.group(1) ?? '') : value;
  };
}
