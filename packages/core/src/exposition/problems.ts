/** Why one line of a page counts for nothing. Lines and columns start at 1. */
export interface LineProblem {
  readonly code:
    | 'badName'
    | 'badLabels'
    | 'badEscape'
    | 'badValue'
    | 'badTimestamp'
    | 'badExemplar'
    | 'badComment'
    | 'badText'
    | 'duplicateLabel'
    | 'duplicateSample'
    | 'counterValue'
    | 'wrongSuffix'
    | 'lateDeclaration'
    | 'interleaved'
    | 'tooLong'
    | 'tooManyLabels'
    | 'blankLine'
    | 'afterEnd';
  readonly line: number;
  readonly column: number;
  readonly text: string;
}

/** Why a whole page counts for nothing. */
export interface PageRefusal {
  readonly code: 'pageTooLarge' | 'lineTooLong' | 'tooManySamples' | 'noEnd';
  readonly text: string;
}
