import type {
  Across,
  Amount,
  Binding,
  Body,
  Chain,
  Condition,
  Duration,
  Expression,
  Source,
  Step,
  Stretch,
} from './tree.ts';

const INDENT = '  ';

/** Tree → canonical text: reading it gives the same tree again. */
export function printMeasure({ bindings, result, comments }: Body): string {
  const lines = [
    ...bindings.flatMap(printBinding),
    ...commentLines(result.comments, ''),
    ...(result.is === 'chain' ? printChain(result.chain, '') : [printShow(result)]),
    ...commentLines(comments, ''),
  ];
  return `${lines.join('\n')}\n`;
}

/** The line that a body of bindings ends with. */
export const printShow = ({ expression: own, as }: Extract<Body['result'], { is: 'show' }>): string =>
  `show ${expression(own)}${as === null ? '' : ` as ${unit(as)}`}`;
const commentLines = (comments: readonly string[] | undefined, indent: string): string[] =>
  (comments ?? []).map((text) => `${indent}#${text === '' ? '' : ` ${text}`}`);
const printBinding = ({ name, chain, comments }: Binding): string[] => [
  ...commentLines(comments, ''),
  ...printChain(chain, `${name} = `),
];
function printChain({ source, steps }: Chain, before: string): string[] {
  return [
    `${before}${printSource(source)}`,
    ...steps.flatMap((step) => [...commentLines(step.comments, INDENT), `${INDENT}${printStep(step)}`]),
  ];
}

const LONG_NAME = /^[A-Za-z_][A-Za-z0-9_:.]*$/;
const quoted = (text: string): string =>
  `"${text.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('\n', '\\n')}"`;
const longName = (name: string): string => (LONG_NAME.test(name) ? name : quoted(name));
/** Words behind `read` that say what is read. */
const READ_WORDS = new Set(['vital', 'measure', 'the']);
const metric = (name: string): string => (READ_WORDS.has(name) ? quoted(name) : longName(name));
const unit = (name: string): string => (name === 'per second' ? name : name === 'per' ? quoted(name) : longName(name));
/** A slash is written with a backslash before it; one that has it already is read without. */
const pattern = (text: string): string => {
  let out = '';
  for (let i = 0; i < text.length; i++) {
    const letter = text[i]!;
    if (letter === '\\' && i + 1 < text.length) out += letter + text[++i];
    else out += letter === '/' ? '\\/' : letter;
  }
  return `/${out}/`;
};
const printAmount = ({ value, unit: own }: Amount): string => `${value}${own ?? ''}`;
const printDuration = ({ value, unit: own }: Duration): string => `${value}${own}`;

export function printSource(source: Source): string {
  switch (source.is) {
    case 'metric':
      return `read ${metric(source.name)}`;
    case 'vital':
      return `read vital ${longName(source.name)}`;
    case 'measure':
      return `read measure ${quoted(source.title)}`;
    case 'from':
      return `from ${expression(source.expression)}`;
  }
}
const conditions = (all: readonly Condition[]): string => all.map(condition).join(' and ');
function condition(one: Condition): string {
  const label = longName(one.label);
  switch (one.is) {
    case 'is present':
    case 'is missing':
      return `${label} ${one.is}`;
    case 'is any of':
    case 'is none of':
      return `${label} ${one.is} (${one.texts.map(quoted).join(', ')})`;
    case 'matches':
    case 'does not match':
      return `${label} ${one.is} ${pattern(one.text)}`;
    case 'is':
    case 'is not':
    case 'contains':
    case 'starts with':
    case 'ends with':
      return `${label} ${one.is} ${quoted(one.text)}`;
  }
}
const stretch = (own: Stretch): string =>
  'over' in own ? `over ${printDuration(own.over)}` : `by ${own.by} in ${own.zone}`;
const labels = (all: readonly string[]): string => all.map(longName).join(', ');
const across = (own: Across | null): string =>
  own === null ? '' : 'overall' in own ? ' overall' : ` for each ${labels(own.each)}`;

export function printStep(step: Step): string {
  switch (step.step) {
    case 'where':
      return `where ${conditions(step.where)}`;
    case 'treat as counter':
    case 'whatever the scope':
    case 'missing counts 0':
      return step.step;
    case 'growth':
    case 'per second':
    case 'change':
    case 'slope':
      return `${step.step} ${stretch(step.stretch)}`;
    case 'over time':
      return `${step.what} ${stretch(step.stretch)}`;
    case 'percentile over time':
      return `percentile ${step.percentile} ${stretch(step.stretch)}`;
    case 'time above':
    case 'time below':
      return `${step.step} ${printAmount(step.bound)} ${stretch(step.stretch)}`;
    case 'across':
      return `${step.what}${across(step.across)}`;
    case 'percentile across':
      return `percentile ${step.percentile}${across(step.across)}`;
    case 'percentile of buckets':
      return `percentile ${step.percentile} of buckets${across(step.across)}`;
    case 'share below of buckets':
      return `share below ${printAmount(step.bound)} of buckets${across(step.across)}`;
    case 'satisfaction':
      return `satisfaction with target ${printAmount(step.target)}${across(step.across)}`;
    case 'top':
    case 'bottom':
      return `${step.step} ${step.count}`;
    case 'keep above':
    case 'keep below':
      return `${step.step} ${printAmount(step.bound)}`;
    case 'earlier':
      return `${printDuration(step.by)} earlier`;
    case 'add labels':
      return `add labels ${labels(step.labels)}`;
    case 'rename label':
      return `rename label ${longName(step.label)} to ${longName(step.to)}`;
    case 'shorten label':
      return `shorten label ${longName(step.label)} with ${pattern(step.pattern)}`;
    case 'called':
      return `called ${quoted(step.template)}`;
    case 'fill gaps':
      return `fill gaps up to ${printDuration(step.upTo)} with ${step.with}`;
    case 'forecast':
      return `forecast ${printDuration(step.ahead)} from ${printDuration(step.from)}${step.rhythm ? ' with daily rhythm' : ''}`;
    case 'time until':
      return `time until ${printAmount(step.bound)} from ${printDuration(step.from)}`;
    case 'usual':
      return `usual from ${printDuration(step.from)}${step.zone === null ? '' : ` in ${step.zone}`}`;
  }
}

/** Above every operator. */
const HIGHEST = 3;
const RANK = { '+': 1, '-': 1, '*': 2, '/': 2 } as const;
function expression(own: Expression): string {
  switch (own.is) {
    case 'name':
      return own.name;
    case 'number':
      return printAmount(own.amount);
    case 'minus':
      return `-${inside(own.of, HIGHEST)}`;
    case 'smaller':
    case 'larger': {
      const left = expression(own.left);
      // the comma would go on with the labels of a pairing
      return `${own.is} of (${endsPaired(own.left) ? `(${left})` : left}, ${expression(own.right)})`;
    }
    case 'operator': {
      const rank = RANK[own.operator];
      const paired = own.pairedBy === null ? '' : ` paired by ${labels(own.pairedBy)}`;
      // a pairing belongs to the operator right before it
      const right = inside(own.right, paired === '' ? rank + 1 : HIGHEST);
      return `${inside(own.left, rank)} ${own.operator} ${right}${paired}`;
    }
  }
}
/** In parentheses where it binds less than what stands around it. */
function inside(own: Expression, rank: number): string {
  const text = expression(own);
  return own.is === 'operator' && RANK[own.operator] < rank ? `(${text})` : text;
}
const endsPaired = (own: Expression): boolean =>
  own.is === 'operator' && (own.pairedBy !== null || endsPaired(own.right));
