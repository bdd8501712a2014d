import { Link } from 'react-router';
import { useView } from './useView.ts';

/** Leads to the place Measures, where the same is asked; its answer is drawn as suits it. */
export function ShowMeasure({
  text,
  of,
  word = 'its measure',
}: {
  text: string | null | undefined;
  of: string;
  word?: string;
}) {
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
