import { parseMeasure } from './parse.ts';
import { printMeasure } from './print.ts';
import type { Body, Chain, Step } from './tree.ts';

/** Labels that a chain is narrowed to one value of, in the order in which they are asked for. */
function narrowedTo({ steps }: Chain): string[] {
  const labels = steps.flatMap((step) =>
    step.step === 'where' ? step.where.flatMap(({ label, is }) => (is === 'is' ? [label] : [])) : [],
  );
  return [...new Set(labels)];
}
const isOverall = (step: Step): boolean => step.step === 'across' && step.what === 'total' && 'overall' in step.across;

/**
 * The same measure whose lines say where they stand: what is narrowed to one place and totalled overall is totalled for that
 * place. As it was where its parts are narrowed otherwise, and would not fit each other any more.
 */
export function keepPlaces(text: string): string {
  const parsed = parseMeasure(text);
  if (!('body' in parsed)) return text;
  const { body } = parsed;
  const { result } = body;
  const chains = [...body.bindings.map(({ chain }) => chain), ...(result.is === 'chain' ? [result.chain] : [])];
  const read = chains.filter(({ source }) => source.is === 'vital' || source.is === 'metric');
  const [first, ...others] = read.map(narrowedTo);
  if (first === undefined || first.length === 0 || read.length !== chains.length) return text;
  const same = others.every((own) => own.length === first.length && own.every((label) => first.includes(label)));
  if (!same || !read.every(({ steps }) => steps.some(isOverall))) return text;
  const placed = (chain: Chain): Chain => ({
    ...chain,
    steps: chain.steps.map((step) => (isOverall(step) ? ({ ...step, across: { each: first } } as Step) : step)),
  });
  const kept: Body = {
    ...body,
    bindings: body.bindings.map((binding) => ({ ...binding, chain: placed(binding.chain) })),
    result: result.is === 'chain' ? { ...result, chain: placed(result.chain) } : result,
  };
  return printMeasure(kept);
}
