import type { Form } from './forms.ts';
import type { PageLimits } from './limits.ts';
import { LineError, type LineProblem } from './problems.ts';

const isNameStart = (c: number) => (c >= 97 && c <= 122) || (c >= 65 && c <= 90) || c === 95;
const isNamePart = (c: number) => isNameStart(c) || (c >= 48 && c <= 57);
const TAB = 9;
const SPACE = 32;
const COLON = 58;

/** Owns the offset into one line; every small function here and in parseSample.ts moves it. */
export class LineCursor {
  at = 0;
  readonly line: string;
  readonly limits: PageLimits;
  readonly plain: boolean;
  constructor(line: string, limits: PageLimits, form: Form) {
    this.line = line;
    this.limits = limits;
    this.plain = form === 'plain';
  }
  peek(): number {
    return this.at < this.line.length ? this.line.charCodeAt(this.at) : -1;
  }
  get ended(): boolean {
    return this.at >= this.line.length;
  }
  fail(code: LineProblem['code'], text: string): never {
    throw new LineError(code, this.at + 1, text);
  }
  /** The plain form allows any blanks and tabs between its parts; the strict one none but those it asks for. */
  passBlanks(): void {
    if (!this.plain) return;
    for (let c = this.peek(); c === SPACE || c === TAB; c = this.peek()) this.at++;
  }
  /** The blank before the next part: exactly one, or any number of them in the plain form. */
  expectBlank(before: string): void {
    const c = this.peek();
    if (c !== SPACE && !(this.plain && c === TAB)) this.fail('badValue', `expected one blank before ${before}`);
    this.at++;
    this.passBlanks();
  }
  readToken(): string {
    const start = this.at;
    for (let c = this.peek(); c !== -1 && c !== SPACE && !(this.plain && c === TAB); c = this.peek()) this.at++;
    return this.line.slice(start, this.at);
  }
}

export function readName(cursor: LineCursor, colonAllowed: boolean): string {
  const start = cursor.at;
  const allowed = (c: number, first: boolean) =>
    (first ? isNameStart(c) : isNamePart(c)) || (colonAllowed && c === COLON);
  if (!allowed(cursor.peek(), true)) cursor.fail('badName', 'a name starts with a letter or an underscore');
  while (allowed(cursor.peek(), false)) cursor.at++;
  if (cursor.at - start > cursor.limits.nameLength)
    cursor.fail('tooLong', `a name has more than ${cursor.limits.nameLength} characters`);
  return cursor.line.slice(start, cursor.at);
}
