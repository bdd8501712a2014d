import { skipToken } from '@reduxjs/toolkit/query';
import type { MapAnswer, SavedMeasuresAnswer } from '@zetopsis/contract';
import { MINUTE } from '@zetopsis/core/units';
import { useMemo } from 'react';
import { asFailure } from '../../state/failure.ts';
import { useMeasureQuery, useSavedMeasuresQuery } from '../../state/measuresApi.ts';
import { type Measured, measuredBoxes, measuredLinks } from './mapMeasures.ts';

/** A value is of the moment of the map, or of so long before it. */
const LATELY = 10 * MINUTE;

export interface MapMeasure {
  readonly title: string;
  /** Null: it is being worked out. */
  readonly values: Measured | null;
  /** Why it shows nothing; null where it shows something. */
  readonly problem: string | null;
}
/** A saved measure at the moment of the map, on its boxes or its links; null: none is chosen. */
export function useMapMeasure(answer: MapAnswer, key: string | null, on: 'boxes' | 'links'): MapMeasure | null {
  const { data: saved } = useSavedMeasuresQuery(undefined, { skip: key === null });
  const measure = saved?.measures.find((one) => one.key === key);
  const { data, error } = useMeasureQuery(
    measure
      ? {
          text: measure.text,
          explain: false,
          path: [],
          whose: 'all',
          window: { from: answer.at - LATELY, to: answer.at },
          every: null,
          earlier: 0,
        }
      : skipToken,
  );
  const values = useMemo(
    () => (data ? (on === 'boxes' ? measuredBoxes(answer, data) : measuredLinks(answer, data)) : null),
    [answer, data, on],
  );
  if (key === null) return null;
  const title = measure?.title ?? key;
  return { title, values, problem: problemOf({ saved, known: measure !== undefined, error, values, on }) };
}
function problemOf({
  saved,
  known,
  error,
  values,
  on,
}: {
  readonly saved: SavedMeasuresAnswer | undefined;
  readonly known: boolean;
  readonly error: unknown;
  readonly values: Measured | null;
  readonly on: 'boxes' | 'links';
}): string | null {
  if (saved && !known) return 'There is no such measure, or none that you may read.';
  if (error) return asFailure(error).text;
  if (values === null || values.size > 0) return null;
  return on === 'boxes'
    ? 'It has no value at a box of this moment: its lines must bear cluster, k8s_namespace_name and workload.'
    : 'It has no value at a link of this moment: its lines must bear from_cluster, from_namespace, from_workload and the same of to.';
}
