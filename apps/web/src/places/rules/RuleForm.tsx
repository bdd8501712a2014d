import { zodResolver } from '@hookform/resolvers/zod';
import { type RuleAnswer, RuleChange } from '@zetopsis/contract';
import { readDuration, writeDuration } from '@zetopsis/core/format';
import { SECOND } from '@zetopsis/core/units';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field } from '../../forms/Field.tsx';
import { useChangeRuleMutation } from '../../state/rulesApi.ts';

/** The share is edited in percent and times as durations, as they are said. */
const Held = z
  .string()
  .transform((text, context) => {
    const duration = readDuration(text);
    if (duration !== null) return duration / SECOND;
    context.addIssue({ code: 'custom', message: 'write such as 90 s, 5 min or 1 h 30 min' });
    return z.NEVER;
  })
  .pipe(RuleChange.shape.holdsSeconds);
const Form = RuleChange.omit({ above: true }).extend({
  holdsSeconds: Held,
  easesSeconds: Held,
  percent: z.coerce.number<string | number>().gt(0, 'above 0 %').max(1000, 'at most 1000 %').nullable(),
});
const asPercent = (share: number) => Math.round(share * 1000) / 10;

export function RuleForm({ rule, close }: { rule: RuleAnswer; close: () => void }) {
  const [change, { error, isLoading }] = useChangeRuleMutation();
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(Form),
    defaultValues: {
      enabled: rule.enabled,
      severity: rule.severity,
      holdsSeconds: writeDuration(rule.holdsSeconds * SECOND),
      easesSeconds: writeDuration(rule.easesSeconds * SECOND),
      percent: rule.above === null ? null : asPercent(rule.above),
    },
  });
  const submit = handleSubmit(async ({ percent, ...values }) => {
    const done = await change({ id: rule.id, change: { ...values, above: percent === null ? null : percent / 100 } });
    if (!done.error) close();
  });
  const id = (field: string) => `rule-${rule.id}-${field}`;
  return (
    <form onSubmit={(event) => void submit(event)} className="mt-2" noValidate>
      <div className="grid grid-cols-4 gap-3">
        {rule.above !== null && (
          <Field id={id('above')} label="above, % of limit" error={formState.errors.percent?.message}>
            <input id={id('above')} className="field" inputMode="decimal" {...register('percent')} />
          </Field>
        )}
        <Field id={id('holds')} label="holds for" error={formState.errors.holdsSeconds?.message}>
          <input id={id('holds')} className="field" placeholder="5 min" {...register('holdsSeconds')} />
        </Field>
        <Field id={id('eases')} label="clear after" error={formState.errors.easesSeconds?.message}>
          <input id={id('eases')} className="field" placeholder="5 min" {...register('easesSeconds')} />
        </Field>
        <Field id={id('severity')} label="severity">
          <select id={id('severity')} className="field" defaultValue={rule.severity} {...register('severity')}>
            <option value="critical">critical</option>
            <option value="warning">warning</option>
          </select>
        </Field>
      </div>
      <label className="mb-3 flex items-center gap-2">
        <input type="checkbox" {...register('enabled')} /> switched on
      </label>
      <p className="mb-3 text-sm text-soft">
        After a change, what was building starts its hold again; what is raised stays raised and is judged by the new
        rule.
      </p>
      <FailureText error={error} className="mb-2" />
      <button type="submit" className="button" disabled={isLoading}>
        Save
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}
