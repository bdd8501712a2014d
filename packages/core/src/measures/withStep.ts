import { printMeasure, printShow, printStep } from './print.ts';
import type { Body, Step } from './tree.ts';

/** A measure with one more step at its end, as text; what it is shown as is left to the new step. */
export function withStep(body: Body, step: Step | string): string {
  const written = typeof step === 'string' ? step : printStep(step);
  const { bindings, result } = body;
  if (result.is === 'chain') return `${printMeasure(body)}  ${written}\n`;
  const taken = new Set(bindings.map(({ name }) => name));
  const name = freeName(taken);
  const before = bindings.length === 0 ? '' : bound(body);
  return `${before}${name} = from ${printShow({ ...result, as: null }).slice('show '.length)}\n  ${written}\nshow ${name}\n`;
}
/** The bindings alone: the last line is what is shown. */
function bound({ bindings, result }: Body): string {
  const lines = printMeasure({ bindings, result: result.is === 'show' ? withoutComments(result) : result })
    .trimEnd()
    .split('\n');
  return `${lines.slice(0, -1).join('\n')}\n`;
}
const withoutComments = ({ comments: _left, ...result }: Extract<Body['result'], { is: 'show' }>): Body['result'] =>
  result;
function freeName(taken: ReadonlySet<string>): string {
  let name = 'asked';
  for (let n = 2; taken.has(name); n++) name = `asked${n}`;
  return name;
}
