import { nearestOf, WrongMeasure } from './problem.ts';
import type { Scanner } from './scanner.ts';
import {
  readAcross,
  readAmount,
  readConditions,
  readDuration,
  readLabels,
  readPlain,
  readSignedAmount,
  readStretch,
  readZone,
} from './syntaxParts.ts';
import { ACROSS, type Across, OVER_TIME, type Step } from './tree.ts';

type Bare = Step extends infer One ? (One extends { comments?: unknown } ? Omit<One, 'comments'> : never) : never;

/** Words that steps begin with, for what is nearest to one that is none. */
export const STEP_WORDS = [
  'where',
  'treat',
  'whatever',
  'growth',
  'per',
  'change',
  'slope',
  ...OVER_TIME,
  'percentile',
  'time',
  'share',
  'satisfaction',
  'top',
  'bottom',
  'keep',
  'add',
  'rename',
  'shorten',
  'called',
  'fill',
  'missing',
  'forecast',
  'usual',
] as const;

/** One step of a chain; null where none begins. */
export function readStep(scanner: Scanner): Step | null {
  const begun = scanner.offset;
  if (scanner.numberBegins()) {
    const comments = scanner.takeComments();
    const by = readDuration(scanner);
    scanner.expectWords('earlier');
    return { step: 'earlier', by, ...(comments.length === 0 ? {} : { comments }) };
  }
  const word = scanner.peekWord();
  const read = word === null ? undefined : READERS.get(word);
  if (word === null || read === undefined) {
    if (word === null) throw scanner.wrong('a step, a name and “=”, or “show”');
    throw scanner.wrong('a step, a name and “=”, or “show”', nearestOf(word, [...STEP_WORDS, 'show']));
  }
  const comments = scanner.takeComments();
  scanner.words(word);
  const step = read(scanner, begun);
  return comments.length === 0 ? step : ({ ...step, comments } as Step);
}

function acrossOr(scanner: Scanner, expected: string): Across {
  const across = readAcross(scanner);
  if (across === null) throw scanner.wrong(expected);
  return across;
}
const OVER_OR_ACROSS = '“over” and a duration, “by” hour, day or week, “for each” and labels, or “overall”';
const stands = (scanner: Scanner, ...any: readonly string[]): boolean => any.includes(scanner.peekWord() ?? '');
const percentage = (scanner: Scanner): number =>
  readPlain(scanner, 'a percentile between 0 and 100', (value) => value >= 0 && value <= 100);
const counted = (scanner: Scanner): number =>
  readPlain(
    scanner,
    'a whole number from 1 to 10000',
    (value) => Number.isInteger(value) && value >= 1 && value <= 10_000,
  );

const READERS: ReadonlyMap<string, (scanner: Scanner, begun: number) => Bare> = new Map<
  string,
  (scanner: Scanner, begun: number) => Bare
>([
  ['where', (scanner) => ({ step: 'where', where: readConditions(scanner) })],
  [
    'treat',
    (scanner) => {
      scanner.expectWords('as', 'counter');
      return { step: 'treat as counter' };
    },
  ],
  [
    'whatever',
    (scanner) => {
      scanner.expectWords('the', 'scope');
      return { step: 'whatever the scope' };
    },
  ],
  ['growth', (scanner) => ({ step: 'growth', stretch: readStretch(scanner) })],
  ['change', (scanner) => ({ step: 'change', stretch: readStretch(scanner) })],
  ['slope', (scanner) => ({ step: 'slope', stretch: readStretch(scanner) })],
  [
    'per',
    (scanner) => {
      scanner.expectWords('second');
      return { step: 'per second', stretch: readStretch(scanner) };
    },
  ],
  ...OVER_TIME.map(
    (what) =>
      [
        what,
        (scanner: Scanner): Bare => {
          if (stands(scanner, 'over', 'by')) return { step: 'over time', what, stretch: readStretch(scanner) };
          const across = ACROSS.find((one) => one === what);
          if (across === undefined) throw scanner.wrong('“over” and a duration, or “by” hour, day or week');
          return { step: 'across', what: across, across: acrossOr(scanner, OVER_OR_ACROSS) };
        },
      ] as const,
  ),
  [
    'percentile',
    (scanner) => {
      const percentile = percentage(scanner);
      if (scanner.words('of', 'buckets'))
        return { step: 'percentile of buckets', percentile, across: readAcross(scanner) };
      if (stands(scanner, 'over', 'by'))
        return { step: 'percentile over time', percentile, stretch: readStretch(scanner) };
      return { step: 'percentile across', percentile, across: acrossOr(scanner, `${OVER_OR_ACROSS}, or “of buckets”`) };
    },
  ],
  [
    'time',
    (scanner) => {
      if (scanner.words('until')) {
        const bound = readSignedAmount(scanner);
        scanner.expectWords('from');
        return { step: 'time until', bound, from: readDuration(scanner) };
      }
      const above = scanner.words('above');
      if (!above && !scanner.words('below')) throw scanner.wrong('“above”, “below” or “until”');
      const bound = readSignedAmount(scanner);
      return { step: above ? 'time above' : 'time below', bound, stretch: readStretch(scanner) };
    },
  ],
  [
    'share',
    (scanner) => {
      scanner.expectWords('below');
      const bound = readSignedAmount(scanner);
      scanner.expectWords('of', 'buckets');
      return { step: 'share below of buckets', bound, across: readAcross(scanner) };
    },
  ],
  [
    'satisfaction',
    (scanner) => {
      scanner.expectWords('with', 'target');
      return { step: 'satisfaction', target: readAmount(scanner), across: readAcross(scanner) };
    },
  ],
  ['top', (scanner) => ({ step: 'top', count: counted(scanner) })],
  ['bottom', (scanner) => ({ step: 'bottom', count: counted(scanner) })],
  [
    'keep',
    (scanner) => {
      const above = scanner.words('above');
      if (!above && !scanner.words('below')) throw scanner.wrong('“above” or “below”');
      return { step: above ? 'keep above' : 'keep below', bound: readSignedAmount(scanner) };
    },
  ],
  [
    'add',
    (scanner) => {
      scanner.expectWords('labels');
      return { step: 'add labels', labels: readLabels(scanner) };
    },
  ],
  [
    'rename',
    (scanner) => {
      scanner.expectWords('label');
      const label = scanner.longName('a label');
      scanner.expectWords('to');
      return { step: 'rename label', label, to: scanner.longName('a label') };
    },
  ],
  [
    'shorten',
    (scanner) => {
      scanner.expectWords('label');
      const label = scanner.longName('a label');
      scanner.expectWords('with');
      return { step: 'shorten label', label, pattern: scanner.pattern() };
    },
  ],
  ['called', (scanner) => ({ step: 'called', template: scanner.string('a name with labels in braces') })],
  [
    'fill',
    (scanner) => {
      scanner.expectWords('gaps', 'up', 'to');
      const upTo = readDuration(scanner);
      scanner.expectWords('with');
      if (scanner.words('last')) return { step: 'fill gaps', upTo, with: 'last' };
      if (scanner.words('zero')) return { step: 'fill gaps', upTo, with: 'zero' };
      if (scanner.words('a', 'straight', 'line')) return { step: 'fill gaps', upTo, with: 'a straight line' };
      throw scanner.wrong('“last”, “zero” or “a straight line”');
    },
  ],
  [
    'missing',
    (scanner, begun) => {
      scanner.expectWords('counts');
      if (readPlain(scanner, '0', (value) => value === 0) !== 0)
        throw new WrongMeasure('missing counts 0, and nothing else', begun);
      return { step: 'missing counts 0' };
    },
  ],
  [
    'forecast',
    (scanner) => {
      const ahead = readDuration(scanner);
      scanner.expectWords('from');
      const from = readDuration(scanner);
      const rhythm = scanner.words('with');
      if (rhythm) scanner.expectWords('daily', 'rhythm');
      return { step: 'forecast', ahead, from, rhythm };
    },
  ],
  [
    'usual',
    (scanner) => {
      scanner.expectWords('from');
      const from = readDuration(scanner);
      return { step: 'usual', from, zone: scanner.words('in') ? readZone(scanner) : null };
    },
  ],
]);
