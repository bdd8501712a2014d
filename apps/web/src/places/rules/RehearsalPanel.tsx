import { nanoid } from '@reduxjs/toolkit';
import type { RehearsalAnswer, RuleDocument } from '@zetopsis/contract';
import { formatDuration, formatPercent } from '@zetopsis/core/format';
import { DAY } from '@zetopsis/core/units';
import { useEffect, useRef, useState } from 'react';
import { TableHead } from '../../drawing/TableHead.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { asFailure } from '../../state/failure.ts';
import { useRehearsalProgressQuery, useRehearseMutation } from '../../state/rulesApi.ts';
import { boundOf, isProposable, probingDraft, proposedFrom, withBound } from './proposal.ts';
import { Rehearsal } from './Rehearsal.tsx';
import { comparedRows } from './rehearsalModel.ts';
import { lowestOf, type RuleDraft, sideOf } from './ruleDraft.ts';
import { documentOf } from './ruleOfDraft.ts';

const SPANS = [
  { words: '6 h', ms: DAY / 4 },
  { words: '24 h', ms: DAY },
  { words: '7 days', ms: 7 * DAY },
  { words: '21 days', ms: 21 * DAY },
] as const;
const SINCE_A_DAY = 'since';
interface Kept {
  readonly name: string;
  readonly answer: RehearsalAnswer;
}

/** What a draft would have done: over the last days, or as if it had been there since a day; beside another draft. */
export function RehearsalPanel({
  draft,
  setDraft,
  read,
  proposeAtOnce,
}: {
  draft: RuleDraft;
  setDraft: (draft: RuleDraft) => void;
  /** The document that it says; null where something is wrong, which stands at its field then. */
  read: (of: RuleDraft) => RuleDocument | null;
  /** What leads here with a measure gets a number to begin with. */
  proposeAtOnce: boolean;
}) {
  const [span, setSpan] = useState<number | typeof SINCE_A_DAY>(SPANS[1].ms);
  const [day, setDay] = useState('');
  const [unknown, setUnknown] = useState(false);
  const [kept, setKept] = useState<Kept | null>(null);
  const [begun, setBegun] = useState<{ readonly at: number; readonly id: string } | null>(null);
  const [rehearse, rehearsing] = useRehearseMutation();
  // what is tried to find a number is nobody's rehearsal
  const [probe, probing] = useRehearseMutation();
  const running = useRef<{ abort: () => void } | null>(null);
  const busy = rehearsing.isLoading || probing.isLoading;
  const error = rehearsing.error ?? probing.error;
  const failed = error === undefined ? null : asFailure(error);
  const now = useNow();
  const windowOf = (): { from: number; to: number } | null => {
    const to = Date.now();
    if (span !== SINCE_A_DAY) return { from: to - span, to };
    const from = Date.parse(day);
    return Number.isNaN(from) || from >= to ? null : { from, to };
  };
  const begin = (): string => {
    const id = nanoid();
    setBegun({ at: Date.now(), id });
    return id;
  };
  const tryOut = (of: RuleDraft) => {
    const document = read(of.name.trim() === '' ? { ...of, name: 'a draft' } : of);
    const window = windowOf();
    if (document === null || window === null) return;
    const id = begin();
    const work = rehearse({ document, ...window, id });
    running.current = work;
  };
  /** A number is tried that everything is past: what others would have come to does not hang on it. */
  const propose = async (of: RuleDraft) => {
    const level = lowestOf(of);
    const window = windowOf();
    if (level === null || window === null || !isProposable(of)) return;
    const document = read(probingDraft(of, level));
    if (document === null) return;
    const id = begin();
    const work = probe({ document, ...window, id });
    running.current = work;
    const answered = await work;
    const bound = answered.data ? proposedFrom(answered.data, sideOf(of) === 'below' ? 'below' : 'above') : null;
    setUnknown(bound === null && answered.data !== undefined);
    if (bound === null) return;
    const next = withBound(of, level, bound, answered.data?.unit ?? null);
    setDraft(next);
    tryOut(next);
  };
  const asked = useRef(false);
  useEffect(() => {
    if (asked.current || !proposeAtOnce) return;
    asked.current = true;
    const lowest = lowestOf(draft);
    if (lowest !== null && draft.levels[lowest].bound === '') void propose(draft);
  });
  const lowest = lowestOf(draft);
  const answer = rehearsing.data;
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-baseline gap-3">
        <h3 className="font-bold">Rehearse it</h3>
        <select
          aria-label="rehearsed over"
          className="field w-36"
          value={span}
          onChange={({ target }) => setSpan(target.value === SINCE_A_DAY ? SINCE_A_DAY : Number(target.value))}
        >
          {SPANS.map(({ words, ms }) => (
            <option key={ms} value={ms}>
              the last {words}
            </option>
          ))}
          <option value={SINCE_A_DAY}>as if since …</option>
        </select>
        {span === SINCE_A_DAY && (
          <input
            type="date"
            aria-label="as if it had been there since"
            className="field w-40"
            value={day}
            max={new Date(now).toISOString().slice(0, 10)}
            onChange={({ target }) => setDay(target.value)}
          />
        )}
        <button
          type="button"
          className="button"
          disabled={busy || (span === SINCE_A_DAY && windowOf() === null)}
          onClick={() => tryOut(draft)}
        >
          See what it would have done
        </button>
        {isProposable(draft) && (
          <button type="button" className="button-plain" disabled={busy} onClick={() => void propose(draft)}>
            propose a threshold
          </button>
        )}
      </div>
      {busy && (
        <p role="status" className="mb-2">
          {begun === null ? 'Looking back …' : <Progress of={begun} now={now} />}{' '}
          <button type="button" className="button-plain" onClick={() => running.current?.abort()}>
            stop
          </button>
        </p>
      )}
      {failed?.kind === 'stopped' && !busy && <p role="status">{failed.text}</p>}
      {failed !== null && failed.kind !== 'stopped' && !busy && <FormFailure error={{ ...failed, fields: [] }} />}
      {unknown && <p role="status">Nothing of it was read over this time: no threshold can be proposed.</p>}
      {kept && (
        <Compared kept={kept} other={answer === kept.answer ? null : (answer ?? null)} forget={() => setKept(null)} />
      )}
      {answer && !busy ? (
        <>
          {kept === null && (
            <button
              type="button"
              className="button-plain mb-1"
              onClick={() => setKept({ name: boundWords(draft), answer })}
            >
              keep this to compare another draft with it
            </button>
          )}
          <Rehearsal
            answer={answer}
            bound={boundOf(draft)}
            choose={(bound) => lowest !== null && setDraft(withBound(draft, lowest, bound, answer.unit))}
          />
        </>
      ) : (
        failed === null && !busy && <p className="text-soft">{helpWords(draft)}</p>
      )}
    </div>
  );
}

/** How far it is, asked every second. */
function Progress({ of: { at, id }, now }: { of: { readonly at: number; readonly id: string }; now: number }) {
  const { currentData } = useRehearsalProgressQuery(id, { pollingInterval: 1000, skip: now - at < 1000 });
  const share = currentData?.share ?? null;
  const doing = currentData?.doing === 'judging' ? 'Judging what was read' : 'Looking back';
  return (
    <>
      {doing}
      {share === null ? '' : `, ${formatPercent(share)} of it`}
      {now - at > 1000 ? `, for ${formatDuration(now - at)} so far` : ''} …
    </>
  );
}

const boundWords = (draft: RuleDraft): string => {
  const lowest = lowestOf(draft);
  const own = lowest === null ? '' : draft.levels[lowest].bound;
  return own === '' ? 'the draft that was kept' : `at ${own}, held ${draft.levels[lowest!].holds}`;
};
function helpWords(draft: RuleDraft): string {
  const found = documentOf({ ...draft, name: draft.name || 'a draft' });
  return 'document' in found && found.document.when.is === 'itself'
    ? 'This kind is judged by how things stand: put it on trial to see what it raises.'
    : 'The same judging over what is kept: when it would have been raised, for how long, how many messages to whom.';
}

/** Two drafts beside each other. */
function Compared({ kept, other, forget }: { kept: Kept; other: RehearsalAnswer | null; forget: () => void }) {
  const rows = comparedRows(kept.answer, other);
  return (
    <section aria-label="two drafts" className="mb-3 border-y border-line py-2">
      <table className="w-full text-sm">
        <TableHead of={['', kept.name, 'this draft']} />
        <tbody>
          {rows.map(({ name, one, other: own }) => (
            <tr key={name} className="border-b border-hair align-baseline">
              <td className="py-0.5 pr-3 text-soft">{name}</td>
              <td className="py-0.5 pr-3">{one}</td>
              <td className="py-0.5">{own}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <button type="button" className="button-plain mt-1" onClick={forget}>
        compare no more
      </button>
    </section>
  );
}
