import type { FindingCode } from '@zetopsis/core/findings';
import { Link } from 'react-router';
import { useView } from './useView.ts';

interface Props {
  /** Of the measure; nothing stands here without one. */
  readonly text: string | null | undefined;
  readonly of: string;
  readonly word?: string;
}
/** Leads to a draft of a rule about a measure, with a threshold proposed from what was. */
export function TellMeWhen({ text, of, word = 'tell me when…' }: Props) {
  const { link } = useView();
  if (text == null || text.trim() === '') return null;
  return (
    <Link
      className="shrink-0 whitespace-nowrap underline-offset-2 hover:text-petrol hover:underline"
      to={link('/rules/new', { measure: text })}
      aria-label={`tell me when: a rule about ${of}`}
    >
      {word}
    </Link>
  );
}
/** Leads to the place Measures, where the same is asked; its answer is drawn as suits it. */
export function ShowMeasure({ text, of, word = 'its measure' }: Props) {
  const { link } = useView();
  if (text == null) return null;
  return (
    <Link
      className="shrink-0 whitespace-nowrap underline-offset-2 hover:text-petrol hover:underline"
      to={link('/measures', { measure: text, saved: '', drawn: '', every: null })}
      aria-label={`show the measure of ${of}`}
    >
      {word}
    </Link>
  );
}

/** What a rule may begin with that is about no measure, as it is handed from page to page. */
export type RuleBegin =
  | { readonly of: 'finding'; readonly code: FindingCode; readonly path: readonly string[]; readonly name: string }
  | { readonly of: 'event'; readonly reason: string; readonly path: readonly string[]; readonly name: string }
  | { readonly of: 'silence' };
/** Leads to a draft of a rule about what is found, heard or silent here. */
export function TellMeOf({ begin, of }: { begin: RuleBegin; of: string }) {
  const { link } = useView();
  return (
    <Link
      className="shrink-0 text-xs whitespace-nowrap text-soft underline-offset-2 hover:text-petrol hover:underline"
      to={link('/rules/new', { measure: '' })}
      state={{ begin }}
      aria-label={`tell me when: a rule about ${of}`}
    >
      tell me when…
    </Link>
  );
}
