import { EndpointDocument, type GivenAnswer, SourceKey } from '@zetopsis/contract';
import { z } from 'zod';
import { dropText, labelText, readDrops, readLabels } from './lists.ts';

/** The document as it is typed: labels and drop rules as lines. */
export const Typed = z.object({
  key: SourceKey,
  address: EndpointDocument.shape.address,
  group: EndpointDocument.shape.group,
  intervalSeconds: z.union([
    z.literal(''),
    z.coerce.number<string>().int('whole seconds').min(1, 'at least 1 s').max(3600, 'at most 1 h'),
  ]),
  timeoutSeconds: z.union([z.literal(''), z.coerce.number<string>().min(0.5, 'at least half a second').max(60)]),
  proof: EndpointDocument.shape.proof,
  user: z.string(),
  secret: z.string(),
  certificate: z.string(),
  authority: EndpointDocument.shape.authority,
  through: z.string(),
  host: z.string(),
  labels: z.string().superRefine((text, context) => {
    const { problem } = readLabels(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  }),
  drop: z.string().superRefine((text, context) => {
    const { problem } = readDrops(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  }),
});
export type Typed = z.input<typeof Typed>;

export const documentOf = (typed: z.output<typeof Typed>, use: z.infer<typeof EndpointDocument>['use']) => ({
  address: typed.address,
  group: typed.group,
  intervalSeconds: typed.intervalSeconds === '' ? null : typed.intervalSeconds,
  timeoutSeconds: typed.timeoutSeconds === '' ? null : typed.timeoutSeconds,
  labels: readLabels(typed.labels).labels,
  proof: typed.proof,
  user: typed.proof === 'basic' ? typed.user : '',
  certificate: typed.proof === 'certificate' ? typed.certificate : '',
  authority: typed.authority,
  through: typed.through === '' ? null : typed.through,
  host: typed.host,
  drop: readDrops(typed.drop).rules,
  use,
});

/** What stands in the form at first. */
export function typedOf(given: GivenAnswer | null): Typed {
  const known = given?.document;
  return {
    key: given?.key ?? '',
    address: known?.address ?? '',
    group: known?.group ?? '',
    intervalSeconds: known?.intervalSeconds == null ? '' : String(known.intervalSeconds),
    timeoutSeconds: known?.timeoutSeconds == null ? '' : String(known.timeoutSeconds),
    proof: known?.proof ?? 'none',
    user: known?.user ?? '',
    secret: '',
    certificate: known?.certificate ?? '',
    authority: known?.authority ?? '',
    through: known?.through ?? '',
    host: known?.host ?? '',
    labels: labelText(known?.labels ?? {}),
    drop: dropText(known?.drop ?? []),
  };
}
