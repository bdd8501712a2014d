import { CRITICALITIES } from '@zetopsis/core/findings';
import { z } from 'zod';
import { LabelKey, NamespaceName, WorkloadKey } from './objectNames.ts';

/** How much hangs on a namespace or a workload: what fails there weighs more, or wakes nobody. */
export const CriticalityIs = z.enum(CRITICALITIES);
/** Of one cluster. */
export const CriticalityDocument = z
  .strictObject({
    /** The label by which namespaces and workloads say it themselves. */
    label: LabelKey.default('criticality'),
    places: z
      .array(
        z.strictObject({
          namespace: NamespaceName,
          /** Null: the whole namespace. */
          workload: WorkloadKey.nullable().default(null),
          is: CriticalityIs,
        }),
      )
      .max(2000)
      .default([]),
  })
  .superRefine(({ places }, context) => {
    const said = new Set<string>();
    places.forEach(({ namespace, workload }, place) => {
      const key = `${namespace}/${workload ?? ''}`;
      if (said.has(key))
        context.addIssue({ code: 'custom', path: ['places', place], message: 'this place stands there twice' });
      said.add(key);
    });
  });
export type CriticalityDocument = z.infer<typeof CriticalityDocument>;
export const CriticalityAnswer = z.object({
  cluster: z.string(),
  label: z.string(),
  /** What people say, and what labels say where nobody says otherwise. */
  places: z.array(
    z.object({
      namespace: z.string(),
      workload: z.string().nullable(),
      is: CriticalityIs,
      because: z.string(),
      /** Nothing of that name is there (any more). */
      gone: z.boolean(),
      byPerson: z.boolean(),
    }),
  ),
});
export type CriticalityAnswer = z.infer<typeof CriticalityAnswer>;
