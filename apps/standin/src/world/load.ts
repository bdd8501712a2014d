import { hashOf, shareOf } from './chance.ts';

/**
 * How much a container draws at a moment, in closed form, so that any second of the past can be recomputed and a counter
 * is the exact integral of its rate. Times in seconds.
 */
const HOUR = 3600;

interface Wave {
  readonly period: number;
  readonly swing: number;
  readonly phase: number;
}

function wavesOf(identity: string): Wave[] {
  return [
    { period: 24 * HOUR, swing: 0.18, phase: shareOf(`${identity} day`) * 0.6 },
    { period: (40 + (hashOf(identity) % 50)) * 60, swing: 0.1, phase: shareOf(`${identity} hour`) * 7 },
    { period: 210 + (hashOf(`${identity} m`) % 90), swing: 0.05, phase: shareOf(`${identity} minute`) * 7 },
  ];
}

/** Share of the mean at `at`, around 1. `swing` scales the waves: what runs at its limit hardly moves. */
export function loadAt(identity: string, at: number, swing = 1): number {
  return wavesOf(identity).reduce(
    (sum, wave) => sum + swing * wave.swing * Math.sin((2 * Math.PI * at) / wave.period + wave.phase),
    1,
  );
}

/** Integral of `loadAt` from `from` to `to`. */
export function loadBetween({
  identity,
  from,
  to,
  scale = 1,
}: {
  readonly identity: string;
  readonly from: number;
  readonly to: number;
  readonly scale?: number;
}): number {
  return wavesOf(identity).reduce((sum, { period, swing, phase }) => {
    const turn = (2 * Math.PI) / period;
    return sum + ((scale * swing) / turn) * (Math.cos(turn * from + phase) - Math.cos(turn * to + phase));
  }, to - from);
}
