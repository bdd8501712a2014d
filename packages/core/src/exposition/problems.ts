/** Why one line of a page counts for nothing, or what is wrong with it. Lines and columns start at 1. */
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
    | 'badUnit'
    | 'badBucket'
    | 'badHistogram'
    | 'badQuantile'
    | 'badState'
    | 'duplicateLabel'
    | 'duplicateSample'
    | 'duplicateDeclaration'
    | 'nameClash'
    | 'timeOrder'
    | 'counterValue'
    | 'wrongSuffix'
    | 'lateDeclaration'
    | 'interleaved'
    | 'tooLong'
    | 'tooManyLabels'
    | 'blankLine'
    | 'tornLine'
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

/** Thrown and caught inside this folder only: ends the reading of one line. */
export class LineError extends Error {
  readonly code: LineProblem['code'];
  readonly column: number;
  constructor(code: LineProblem['code'], column: number, text: string) {
    super(text);
    this.code = code;
    this.column = column;
  }
}

/** Collects problems; past the limit they are only counted. */
export class Problems {
  readonly kept: LineProblem[] = [];
  count = 0;
  private readonly limit: number;
  constructor(limit: number) {
    this.limit = limit;
  }
  report(code: LineProblem['code'], line: number, column: number, text: string): void {
    this.count++;
    if (this.kept.length < this.limit) this.kept.push({ code, line, column, text });
  }
}
