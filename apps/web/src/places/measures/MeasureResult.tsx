import type { MeasureAnswer } from '@zetopsis/contract';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { useState } from 'react';
import { StateNote } from '../../drawing/StateNote.tsx';
import { LineTable } from './LineTable.tsx';
import { keyOf, type MeasureLine, NO_PICKS, type Picks, shownLines } from './measuresModel.ts';
import { BandsPicture } from './pictures/BandsPicture.tsx';
import { HeatPicture } from './pictures/HeatPicture.tsx';
import { LinesPicture } from './pictures/LinesPicture.tsx';
import { hasBuckets, type Picture, pictureOf } from './pictures/pictureModel.ts';
import { BarsPicture, FiguresPicture, MomentsTable, SpreadPicture } from './pictures/StillPictures.tsx';
import { ResultTools } from './ResultTools.tsx';
import { Steps } from './Steps.tsx';

interface Props {
  readonly answer: MeasureAnswer;
  /** The same of the window compared with, at its own times; null: nothing is compared. */
  readonly against: MeasureAnswer | null;
  /** How much earlier that window lies, ms. */
  readonly shift: number;
  readonly drawnAs: string;
  /** What the API was asked. */
  readonly body: object;
}

/** A picture of the lines, a table of their last values, and what must be known to read them. */
export function MeasureResult({ answer, against, shift, drawnAs, body }: Props) {
  const [picks, setPicks] = useState<Picks>(NO_PICKS);
  const { all, drawn } = shownLines(answer.series, picks);
  const then = new Map((against?.series ?? []).map((line) => [keyOf(line), earlier(line, shift)] as const));
  return (
    <section aria-label="result of the measure">
      <ul className="mb-2 text-sm text-soft">
        <li>
          read {formatCount(answer.read.series, 'series', 'series')}, {formatCount(answer.read.samples, 'sample')} in{' '}
          {formatDuration(Math.max(1, answer.took))}
          {answer.left > 0 && `; ${answer.left} lines more than can be shown: narrow it`}
        </li>
        {answer.notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
        {against !== null && against.nothing !== null && <li>The window compared with: {against.nothing}</li>}
      </ul>
      {answer.nothing === null ? (
        <>
          <ResultTools answer={answer} picture={pictureOf(drawnAs, answer.series)} body={body} />
          {drawn.length === 0 ? (
            <StateNote title="Every line is left out">
              <p>Lines are hidden, or none gets above the value that was given below.</p>
              <button type="button" className="button" onClick={() => setPicks(NO_PICKS)}>
                show all lines
              </button>
            </StateNote>
          ) : (
            <Drawing picture={pictureOf(drawnAs, answer.series)} answer={answer} drawn={drawn} against={then} />
          )}
          <LineTable all={all} picks={picks} setPicks={setPicks} shownAs={answer.shownAs} against={then} />
        </>
      ) : (
        <StateNote title="Nothing to draw">
          <p>{answer.nothing}</p>
        </StateNote>
      )}
      <Steps steps={answer.steps} resolution={answer.read.resolution} />
    </section>
  );
}
/** At the times of the window that it is compared with. */
const earlier = (line: MeasureLine, shift: number): MeasureLine => ({
  ...line,
  points: line.points.map(([at, value]) => [at + shift, value]),
});

function Drawing({
  picture,
  answer,
  drawn,
  against,
}: {
  picture: Picture;
  answer: MeasureAnswer;
  drawn: ReturnType<typeof shownLines>['drawn'];
  against: ReadonlyMap<string, MeasureLine>;
}) {
  const unit = drawn[0]?.line.unit ?? '';
  const words = (value: number | null) => valueWords(value, unit, answer.shownAs);
  const buckets = hasBuckets(answer.series);
  // what buckets count are observations, whatever they are of
  const cellWords = buckets ? (value: number | null) => valueWords(value, '', null) : words;
  switch (picture) {
    case 'lines':
    case 'areas':
      return <LinesPicture drawn={drawn} against={against} words={words} stacked={picture === 'areas'} />;
    case 'bands':
      return <BandsPicture drawn={drawn} buckets={buckets} examples={answer.examples} words={words} />;
    case 'heat':
      return <HeatPicture drawn={drawn} words={words} cellWords={cellWords} />;
    case 'spread':
      return <SpreadPicture drawn={drawn} words={words} cellWords={cellWords} />;
    case 'bars':
      return <BarsPicture drawn={drawn} words={words} />;
    case 'figures':
      return <FiguresPicture drawn={drawn} words={words} />;
    case 'table':
      return <MomentsTable drawn={drawn} words={words} />;
  }
}
