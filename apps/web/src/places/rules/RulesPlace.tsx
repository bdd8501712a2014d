import type { RuleAnswer, RulesAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { keepPlaces } from '@zetopsis/core/measures';
import { conditionOf, STARTER_RULES } from '@zetopsis/core/rules';
import { clsx } from 'clsx';
import { useState } from 'react';
import { Link, useLocation, useNavigate, useParams } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { TableHead } from '../../drawing/TableHead.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useRulesQuery } from '../../state/rulesApi.ts';
import { AlertHistory } from './AlertHistory.tsx';
import { Channels } from './Channels.tsx';
import { Deliveries } from './Deliveries.tsx';
import { draftOfBegin, draftOfStarter, readBegin } from './draftOfRule.ts';
import { Hushes } from './Hushes.tsx';
import { Noise } from './Noise.tsx';
import { RuleEditor } from './RuleEditor.tsx';
import { RulePage } from './RulePage.tsx';
import { EMPTY_DRAFT } from './ruleDraft.ts';
import { costWords, judgedWords, sentenceOf } from './ruleWords.ts';
import { Stretches } from './Stretches.tsx';

const ABOUT = [...new Set(STARTER_RULES.map(({ about }) => about))];
/** The page of a rule that is not there yet. */
const NEW = 'new';

/** When should somebody be told, and who? */
export function RulesPlace() {
  const { data, error, refetch } = useRulesQuery();
  const { rule } = useParams();
  const { link } = useView();
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={6} height={60} />}
      </div>
    );
  if (rule === undefined) return <RulesList data={data} />;
  return (
    <div className="h-full overflow-auto px-5 py-4">
      <p className="mb-2 text-sm">
        <Link className="button-plain" to={link('/rules', { measure: '' })}>
          all rules
        </Link>
      </p>
      {rule === NEW ? <NewRule data={data} /> : <RulePage key={rule} ruleKey={rule} answer={data} />}
    </div>
  );
}

function NewRule({ data }: { data: RulesAnswer }) {
  const { view, link } = useView();
  const navigate = useNavigate();
  const team = data.everywhere ? '' : (data.teams[0]?.key ?? '');
  const [begun, setBegun] = useState('');
  const starter = STARTER_RULES.find(({ title }) => title === begun);
  const begin = readBegin(useLocation().state);
  const first = begin ? draftOfBegin(begin, { team }) : { ...EMPTY_DRAFT, text: keepPlaces(view.measure), team };
  return (
    <>
      <div className="mb-3 flex items-baseline gap-4">
        <h2 className="text-xl">A new rule</h2>
        <label className="ml-auto text-sm">
          begin with{' '}
          <select className="field w-80" value={begun} onChange={({ target }) => setBegun(target.value)}>
            <option value="">
              {begin ? 'what led here' : view.measure === '' ? 'an empty one' : 'the measure that led here'}
            </option>
            {ABOUT.map((about) => (
              <optgroup key={about} label={about}>
                {STARTER_RULES.filter((rule) => rule.about === about).map(({ title }) => (
                  <option key={title}>{title}</option>
                ))}
              </optgroup>
            ))}
          </select>
        </label>
      </div>
      <RuleEditor
        key={begun}
        first={starter ? draftOfStarter(starter, { team }) : first}
        ruleKey={null}
        answer={data}
        done={(key) => void navigate(link(`/rules/${key}`, { measure: '' }))}
        cancel={() => void navigate(link('/rules', { measure: '' }))}
      />
    </>
  );
}

function RulesList({ data }: { data: RulesAnswer }) {
  const { link } = useView();
  const mayWrite = data.everywhere || data.teams.length > 0;
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(320px,28%)]">
      <div className="overflow-auto px-5 py-4">
        <div className="mb-2 flex items-baseline gap-4">
          <h2 className="section-title">Rules</h2>
          {mayWrite ? (
            <Link className="button-plain" to={link('/rules/new', {})}>
              write a rule
            </Link>
          ) : (
            <p className="text-sm text-soft">
              Rules are written by administrators, and by members of a team for what it owns.
            </p>
          )}
        </div>
        <Table data={data} />
        <div className="mt-6">
          <AlertHistory alerts={data.history} title="What was raised" span="last 7 days" />
        </div>
        <Noise mayChange={new Set(data.rules.flatMap(({ key, mayChange }) => (mayChange ? [key] : [])))} />
      </div>
      <div className="overflow-auto border-l border-line bg-sheet px-5 py-4">
        {data.unowned.length > 0 && (
          <p className="mb-4 text-sm">
            <b>Nobody would be told</b> about {data.unowned.join(', ')}: no team owns{' '}
            {data.unowned.length === 1 ? 'it' : 'them'}.{' '}
            {data.everywhere && (
              <Link className="button-plain" to={link('/admin/teams')}>
                give them an owner
              </Link>
            )}
          </p>
        )}
        <Hushes rules={data} />
        <Stretches />
        <Channels teams={data.teams} />
        <Deliveries mail={data.mail} newest={data.deliveries} administrator={data.everywhere} />
      </div>
    </div>
  );
}

function Table({ data }: { data: RulesAnswer }) {
  const now = useNow();
  const teams = new Map(data.teams.map(({ key, name }) => [key, name]));
  if (data.rules.length === 0) return <p className="text-soft">There is no rule: nobody is told anything.</p>;
  return (
    <table className="w-full text-sm" aria-label="rules">
      <TableHead of={['rule', 'whose', 'state', 'matched', 'raised', 'last raised', 'one judging']} />
      <tbody>
        {data.rules.map((rule) => (
          <Row key={rule.key} rule={rule} teams={teams} now={now} />
        ))}
      </tbody>
    </table>
  );
}
function Row({ rule, teams, now }: { rule: RuleAnswer; teams: ReadonlyMap<string, string>; now: number }) {
  const { link } = useView();
  const { document, matched, building, raised, lastRaisedAt, worst, problem, tookMs, owner } = rule;
  return (
    <tr className="border-b border-hair align-baseline">
      <td className="py-1.5 pr-3">
        <Link className="font-semibold hover:text-petrol" to={link(`/rules/${rule.key}`, {})}>
          {document.name}
        </Link>
        <span className="block max-w-[560px] text-soft">{sentenceOf(rule, teams)}</span>
        {problem !== null && <span className="block text-critical">{problem}</span>}
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap">{owner ?? 'platform'}</td>
      <td className="py-1.5 pr-3 whitespace-nowrap" title={judgedWords(rule, now)}>
        <span className={clsx(document.state === 'off' && 'text-soft')}>{document.state}</span>
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap">
        {matched === null || document.state === 'off' ? '' : matched}
        {matched !== null && document.state !== 'off' && !isToMatch(rule) && <span className="text-soft"> found</span>}
        {matched === 0 && document.state !== 'off' && isToMatch(rule) && (
          <span className="text-critical"> none fits</span>
        )}
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap">
        {worst && <Diamond severity={worst} size={9} />} {raised > 0 ? raised : ''}
        {building !== null && building > 0 && <span className="text-soft"> {building} building</span>}
      </td>
      <td className="py-1.5 pr-3 whitespace-nowrap text-soft">
        {lastRaisedAt === null ? 'never' : formatClock(lastRaisedAt, now)}
      </td>
      <td className="py-1.5 whitespace-nowrap text-soft">{costWords(tookMs)}</td>
    </tr>
  );
}
/** Of what is found or is silent, none is as it should be. */
const isToMatch = ({ document: { when } }: RuleAnswer): boolean => !conditionOf(when).finds;
