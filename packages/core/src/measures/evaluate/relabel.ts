import { matcher, shortener } from '../conditions.ts';
import type { Step } from '../tree.ts';
import type { Context } from './context.ts';
import { emptyLine, type Line, lastAtMost } from './lines.ts';

/** Steps that change labels only, or which lines there are. */
export function relabelled(step: Step, lines: readonly Line[], times: Float64Array, context: Context): readonly Line[] {
  switch (step.step) {
    case 'where': {
      const fits = matcher(step.where);
      return lines.filter(({ labels }) => fits(labels));
    }
    case 'rename label':
      return lines.map((line) => {
        const { [step.label]: value, ...rest } = line.labels;
        return value === undefined ? line : { ...line, labels: { ...rest, [step.to]: value } };
      });
    case 'shorten label': {
      const short = shortener(step.pattern);
      return lines.map((line) => {
        const value = line.labels[step.label];
        return value === undefined ? line : { ...line, labels: { ...line.labels, [step.label]: short(value) } };
      });
    }
    case 'called':
      return lines.map((line) => ({
        ...line,
        name: step.template.replaceAll(/\{([^{}]{1,200})\}/g, (_, label: string) =>
          Object.hasOwn(line.labels, label) ? line.labels[label]! : '',
        ),
      }));
    case 'add labels':
      return lines.flatMap((line) => enriched(line, step.labels, times, context));
    default:
      return lines;
  }
}
/** A line is cut where an added label changes. */
function enriched(line: Line, wanted: readonly string[], times: Float64Array, { objectLabels }: Context): Line[] {
  const spans = objectLabels?.(line.labels, wanted) ?? [];
  if (spans.length === 0) return [line];
  const parts = new Map<string, Line>();
  for (let i = 0; i < times.length; i++) {
    const at = lastAtMost(
      spans.map(({ from }) => from),
      times[i]!,
    );
    const labels = { ...line.labels, ...(spans[Math.max(0, at)]?.labels ?? {}) };
    const key = JSON.stringify(labels);
    let part = parts.get(key);
    if (!part) {
      part = emptyLine(labels, times.length, line.name);
      parts.set(key, part);
    }
    part.values[i] = line.values[i]!;
    part.marks[i] = line.marks[i]!;
  }
  return [...parts.values()];
}
