import type { RuleSheet, RulesAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { conditionOf } from '@zetopsis/core/rules';
import { useState } from 'react';
import { Link, useLocation, useNavigate } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { LineDifference } from '../../drawing/LineDifference.tsx';
import { pathWords } from '../../drawing/names.ts';
import { SafeMarkdown } from '../../drawing/SafeMarkdown.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { TableHead } from '../../drawing/TableHead.tsx';
import { RemoveButton } from '../../forms/RemoveButton.tsx';
import { ShowMeasure } from '../../frame/ShowMeasure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useJudgeRuleMutation, useRemoveRuleMutation, useRuleQuery } from '../../state/rulesApi.ts';
import { AlertHistory } from './AlertHistory.tsx';
import { draftOf, draftSuggested, readSuggested } from './draftOfRule.ts';
import { Late } from './Late.tsx';
import { RuleEditor } from './RuleEditor.tsx';
import { costWords, judgedWords, sentenceOf } from './ruleWords.ts';
import { Stricter } from './Stricter.tsx';

/** One rule: what it says, what it looks at and how that stands, what it raised, how it came to be what it is. */
export function RulePage({ ruleKey, answer }: { ruleKey: string; answer: RulesAnswer }) {
  const { data, error, refetch } = useRuleQuery(ruleKey);
  const suggested = readSuggested(useLocation().state);
  const [editing, setEditing] = useState(suggested !== null);
  const { link } = useView();
  const navigate = useNavigate();
  const now = useNow();
  const [judge, judging] = useJudgeRuleMutation();
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={8} height={36} />;
  const { rule } = data;
  const { document } = rule;
  const teams = new Map(answer.teams.map(({ key, name }) => [key, name]));
  return (
    <article aria-label={document.name}>
      <div className="mb-1 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="text-xl">{document.name}</h2>
        <span className="text-soft">
          {rule.owner === null ? 'the platform’s' : `of ${rule.owner}`} · {document.state}
        </span>
        <span className="ml-auto flex flex-wrap items-baseline gap-3 text-sm">
          <ShowMeasure text={conditionOf(document.when).measure(document.when)} of={`the rule ${document.name}`} />
          {rule.mayChange && document.state !== 'off' && (
            <button
              type="button"
              className="button-plain"
              disabled={judging.isLoading}
              onClick={() => void judge(ruleKey)}
            >
              judge it now
            </button>
          )}
          {rule.mayChange && !editing && (
            <button type="button" className="button-plain" onClick={() => setEditing(true)}>
              change it
            </button>
          )}
          {rule.mayChange && (
            <Remove name={document.name} ruleKey={ruleKey} removed={() => void navigate(link('/rules', {}))} />
          )}
        </span>
      </div>
      <p className="mb-1 max-w-[900px]">{sentenceOf(rule, teams)}</p>
      <p className={rule.problem === null ? 'mb-3 text-sm text-soft' : 'mb-3 text-sm text-critical'}>
        {judgedWords(rule, now)}
        {rule.tookMs !== null && ` · one judging took ${costWords(rule.tookMs)}`}
      </p>
      {document.note !== '' && <p className="mb-3 max-w-[900px] whitespace-pre-wrap">{document.note}</p>}
      {editing ? (
        <RuleEditor
          first={
            suggested === null ? draftOf(document, rule.unit) : draftSuggested(draftOf(document, rule.unit), suggested)
          }
          ruleKey={ruleKey}
          answer={answer}
          done={() => setEditing(false)}
          cancel={() => setEditing(false)}
        />
      ) : (
        <div className="grid grid-cols-[minmax(0,1.3fr)_minmax(0,1fr)] gap-8">
          <Objects sheet={data} now={now} />
          <div>
            <AlertHistory alerts={data.history} title="What it raised" span="last 30 days" />
            {document.links.length > 0 && (
              <p className="mt-3 flex flex-wrap gap-x-4 text-sm">
                {document.links.map(({ name, address }) => (
                  <a
                    key={address}
                    href={address}
                    target="_blank"
                    rel="noreferrer noopener"
                    className="text-petrol underline"
                  >
                    {name}
                  </a>
                ))}
              </p>
            )}
            {document.runbook !== '' && (
              <section aria-label="runbook" className="mt-5">
                <h3 className="section-title mb-1">Runbook</h3>
                <SafeMarkdown text={document.runbook} />
              </section>
            )}
            <Stricter rule={rule} teams={answer.teams} />
            {rule.mayChange && document.state !== 'off' && conditionOf(document.when).measured && (
              <Late ruleKey={ruleKey} />
            )}
            <Versions sheet={data} now={now} />
          </div>
        </div>
      )}
    </article>
  );
}

function Objects({ sheet: { objects, left, rule }, now }: { sheet: RuleSheet; now: number }) {
  const { link } = useView();
  return (
    <section aria-label="what it looks at">
      <h3 className="section-title mb-1">What it looks at</h3>
      {objects.length === 0 && (
        <p className="text-soft">
          {rule.document.state === 'off'
            ? 'Nothing: it is switched off.'
            : rule.problem !== null
              ? 'It cannot be judged as it stands.'
              : conditionOf(rule.document.when).finds
                ? 'Nothing of it is found now.'
                : 'No object fits now.'}
        </p>
      )}
      {objects.length > 0 && (
        <table className="w-full text-sm">
          <TableHead of={['', 'object', 'stands at', 'state']} />
          <tbody>
            {objects.map((one) => (
              <tr key={`${one.path.join('/')} ${one.name}`} className="border-b border-hair align-baseline">
                <td className="w-5 py-1">{one.severity && <Diamond severity={one.severity} size={9} />}</td>
                <td className="py-1 pr-3">
                  <Link className="hover:text-petrol" to={link('/usage', { path: one.path, sheet: true })}>
                    {one.name}
                  </Link>{' '}
                  <span className="text-soft">{pathWords(one.path.slice(0, 2))}</span>
                </td>
                <td className="py-1 pr-3">{one.value}</td>
                <td className="py-1 whitespace-nowrap">
                  {one.state === 'clear' ? (
                    <span className="text-soft">clear</span>
                  ) : (
                    <>
                      {one.state}
                      {one.since !== null && ` for ${formatDuration(now - one.since)}`}
                      {one.unseenSince !== null && `, unseen for ${formatDuration(now - one.unseenSince)}`}
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {left > 0 && <p className="py-1 text-sm text-soft">and {left} more, all clear or further down</p>}
    </section>
  );
}

function Versions({ sheet: { versions }, now }: { sheet: RuleSheet; now: number }) {
  if (versions.length === 0) return null;
  return (
    <section aria-label="versions" className="mt-5">
      <h3 className="section-title mb-1">How it came to be so</h3>
      <ol>
        {versions.map(({ revision, at, by, lines }, i) => (
          <li key={revision} className="border-b border-hair py-1">
            <p className="text-xs">
              <b>{formatClock(at, now, { seconds: true })}</b> {by} · revision {revision}
            </p>
            <LineDifference lines={lines} fresh={i === versions.length - 1} className="max-h-40" />
          </li>
        ))}
      </ol>
    </section>
  );
}

function Remove({ name, ruleKey, removed }: { name: string; ruleKey: string; removed: () => void }) {
  const [remove, { error, isLoading }] = useRemoveRuleMutation();
  return (
    <RemoveButton
      title={`Remove the rule “${name}”?`}
      text="What it has raised ends, told as such. It can be taken back in Admin, Configuration."
      remove={() => remove(ruleKey)}
      error={error}
      busy={isLoading}
      removed={removed}
    />
  );
}
