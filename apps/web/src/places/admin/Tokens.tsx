import { zodResolver } from '@hookform/resolvers/zod';
import { type TokenAnswer, TokenInput } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { asFailure } from '../../state/failure.ts';
import { useMakeTokenMutation, useRemoveTokenMutation, useTokensQuery } from '../../state/tokensApi.ts';
import { LEVEL_WORDS, placeWords } from './Permits.tsx';

/** One's own tokens for the API: never more than oneself may, and less where they are bound. */
export function Tokens() {
  const { data, error, refetch } = useTokensQuery();
  const [making, setMaking] = useState(false);
  const [told, setTold] = useState<string | null>(null);
  return (
    <section aria-label="your tokens">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="section-title">Your tokens</h2>
        <p className="text-sm text-soft">for the API, sent as “Authorization: Bearer …”</p>
        {!making && (
          <button type="button" className="button ml-auto" onClick={() => setMaking(true)}>
            make a token
          </button>
        )}
      </div>
      {told !== null && (
        <div role="status" className="mb-3 border border-ink p-3">
          <p className="mb-1 text-sm font-semibold">Take it now: it is not shown again.</p>
          <p className="font-mono text-xs break-all select-all">{told}</p>
          <button type="button" className="button-plain mt-2 text-sm" onClick={() => setTold(null)}>
            I have it
          </button>
        </div>
      )}
      {making && (
        <MakeToken
          close={() => setMaking(false)}
          made={(token) => {
            setTold(token);
            setMaking(false);
          }}
        />
      )}
      {!data &&
        (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={3} height={44} />)}
      {data?.length === 0 && <p className="text-soft">None.</p>}
      <ul>
        {data?.map((token) => (
          <TokenRow key={token.id} token={token} />
        ))}
      </ul>
    </section>
  );
}

function TokenRow({ token }: { token: TokenAnswer }) {
  const [remove, { error }] = useRemoveTokenMutation();
  return <TokenLine token={token} may="you may" remove={() => void remove(token.id)} error={error} />;
}

/** A token with what it may, how long it holds, and when it was used last. */
export function TokenLine({
  token,
  may,
  remove,
  error,
}: {
  token: TokenAnswer;
  may: string;
  remove: () => void;
  error: unknown;
}) {
  const now = useNow(60_000);
  return (
    <li className="border-b border-hair py-1.5">
      <div className="flex items-baseline gap-3">
        <b className="font-semibold">{token.name}</b>
        <span className="text-sm text-soft">
          may {LEVEL_WORDS[token.bound.level]} {placeWords(token.bound)}, as far as {may}
        </span>
        <button
          type="button"
          className="button-plain ml-auto text-sm"
          onClick={remove}
          aria-label={`remove token ${token.name}`}
        >
          remove
        </button>
      </div>
      <p className="text-sm text-soft">
        {token.expiresAt <= now ? 'expired' : `expires in ${formatDuration(token.expiresAt - now)}`},{' '}
        {token.lastUsedAt === null ? 'not used yet' : `last used ${formatClock(token.lastUsedAt, now)}`}
      </p>
      <FailureText error={error} className="text-sm" />
    </li>
  );
}

const Form = TokenInput.omit({ bound: true }).extend({
  level: TokenInput.shape.bound.shape.level,
  cluster: z.string(),
  namespace: z.string(),
});

function MakeToken({ close, made }: { close: () => void; made: (token: string) => void }) {
  const [make, { error, isLoading }] = useMakeTokenMutation();
  const { register, handleSubmit, formState } = useForm<z.input<typeof Form>, unknown, z.output<typeof Form>>({
    resolver: zodResolver(Form),
    defaultValues: { name: '', days: 30, level: 'read', cluster: '', namespace: '' },
  });
  const submit = handleSubmit(async ({ name, days, level, cluster, namespace }) => {
    const bound = { level, cluster: cluster.trim() || null, namespace: namespace.trim() || null };
    const done = await make({ name, days, bound });
    if (done.data) made(done.data.token);
  });
  return (
    <form
      onSubmit={(event) => void submit(event)}
      className="mb-3 border border-structure bg-sheet p-4"
      noValidate
      aria-label="make a token"
    >
      <div className="grid grid-cols-2 gap-x-4">
        <Field id="token-name" label="What for" error={formState.errors.name?.message}>
          <input id="token-name" className="field" autoFocus autoComplete="off" {...register('name')} />
        </Field>
        <Field id="token-days" label="Days until it expires" error={formState.errors.days?.message}>
          <input id="token-days" className="field" inputMode="numeric" {...register('days')} />
        </Field>
        <Field id="token-level" label="May">
          <select id="token-level" className="field" {...register('level')}>
            {TokenInput.shape.bound.shape.level.options.map((level) => (
              <option key={level} value={level}>
                {LEVEL_WORDS[level]}
              </option>
            ))}
          </select>
        </Field>
        <div className="grid grid-cols-2 gap-x-3">
          <Field id="token-cluster" label="Cluster (empty: every)">
            <input id="token-cluster" className="field" autoComplete="off" {...register('cluster')} />
          </Field>
          <Field id="token-namespace" label="Namespace (empty: all)">
            <input id="token-namespace" className="field" autoComplete="off" {...register('namespace')} />
          </Field>
        </div>
      </div>
      <FormFailure error={error} />
      {error !== undefined && asFailure(error).fields.length > 0 && (
        <p role="alert" className="mb-2 text-critical">
          {asFailure(error)
            .fields.map(({ path, text }) => `${path}: ${text}`)
            .join('; ')}
        </p>
      )}
      <button type="submit" className="button" disabled={isLoading}>
        Make it
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}
