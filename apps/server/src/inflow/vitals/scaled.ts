import type { Samples } from '@zetopsis/core/samples';

/** Samples in another unit. */
export function scaled({ times, values }: Samples, factor: number): Samples {
  if (factor === 1) return { times, values };
  const out = Float64Array.from(values);
  // an end marker is a NaN with a tag, which arithmetic would lose
  for (let i = 0; i < out.length; i++) if (!Number.isNaN(out[i]!)) out[i] = out[i]! * factor;
  return { times, values: out };
}
