import type { DurationMs, EpochMs } from '../../units/index.ts';
import type { Node } from '../node.ts';
import type { Labels, Line, SeriesIn } from './lines.ts';
import type { Readings } from './readings.ts';

/** Labels of the object that a series belongs to, as it was, oldest first; none where it belongs to none. */
export type ObjectLabels = (
  labels: Labels,
  wanted: readonly string[],
) => readonly { readonly from: EpochMs; readonly labels: Labels }[];

/** What steps may ask of the evaluation that they are a part of. */
export interface Context {
  /** Nothing after this is read. */
  readonly end: EpochMs;
  readonly instant: boolean;
  /** What is said beside the result. */
  readonly notes: Set<string>;
  readonly objectLabels: ObjectLabels | undefined;
  /** Tells that so many values were touched; throws to end the work. */
  worked(values: number): void;
  at(node: Node, times: Float64Array): readonly Line[];
  /** Lines as samples at whole multiples of a step in [from, to]. */
  samplesBetween(node: Node, from: EpochMs, to: EpochMs, step: DurationMs): readonly SeriesIn[];
  readonly readings: Pick<Readings, 'samplesOf' | 'countsOf' | 'intervalOf' | 'bucketOf'>;
  /** The name that a computed series was given. */
  nameOf(series: SeriesIn): string | null;
}
