import { WrongMeasure } from './problem.ts';

const NAME = /[A-Za-z_][A-Za-z0-9_]*/y;
/** Metrics and labels may have points and colons. */
const LONG_NAME = /[A-Za-z_][A-Za-z0-9_:.]*/y;
const NUMBER = /(?:\d+(?:\.\d+)?|\.\d+)(?:[eE][+-]?\d+)?/y;
const UNIT = /%|[A-Za-z]+/y;
const ZONE = /[A-Za-z][A-Za-z0-9_+\-/]*/y;

/** Walks over a text as the parser asks for it: what a word means depends on where it stands. */
export class Scanner {
  private at = 0;
  /** Comments since they were last taken. */
  private comments: string[] = [];

  constructor(readonly text: string) {
    this.space();
  }

  private space(): void {
    const { text } = this;
    for (;;) {
      while (this.at < text.length && /\s/.test(text[this.at]!)) this.at++;
      if (text[this.at] !== '#') return;
      const end = text.indexOf('\n', this.at);
      const line = text.slice(this.at + 1, end < 0 ? text.length : end).trim();
      this.comments.push(line);
      this.at = end < 0 ? text.length : end;
    }
  }
  takeComments(): string[] {
    const taken = this.comments;
    this.comments = [];
    return taken;
  }
  get offset(): number {
    return this.at;
  }
  get atEnd(): boolean {
    return this.at >= this.text.length;
  }
  private match(pattern: RegExp): string | null {
    pattern.lastIndex = this.at;
    return pattern.exec(this.text)?.[0] ?? null;
  }
  private take(length: number): void {
    this.at += length;
    this.space();
  }

  /** What stands here, for a person. */
  get here(): string {
    if (this.atEnd) return 'the text ends';
    const word =
      this.match(LONG_NAME) ?? this.match(NUMBER) ?? String.fromCodePoint(this.text.codePointAt(this.at) ?? 0);
    return `“${word.slice(0, 40)}” stands here`;
  }
  wrong(expected: string, nearest: string | null = null, offset = this.at): WrongMeasure {
    return new WrongMeasure(`${expected} was expected; ${this.here}`, offset, nearest);
  }

  /** The word that stands here, untaken; null where none does. */
  peekWord(): string | null {
    return this.match(NAME);
  }
  /** Whether these words stand here, one after the other; taken only when all do. */
  words(...wanted: readonly string[]): boolean {
    const before = this.at;
    const comments = this.comments.length;
    for (const word of wanted) {
      if (this.match(NAME) !== word) {
        this.at = before;
        this.comments.length = comments;
        return false;
      }
      this.take(word.length);
    }
    return true;
  }
  expectWords(...wanted: readonly string[]): void {
    const begun = this.at;
    for (const word of wanted)
      if (!this.words(word)) throw this.wrong(`“${wanted.join(' ')}”`, null, this.at === begun ? begun : this.at);
  }
  mark(mark: string): boolean {
    if (!this.text.startsWith(mark, this.at)) return false;
    this.take(mark.length);
    return true;
  }
  expectMark(mark: string): void {
    if (!this.mark(mark)) throw this.wrong(`“${mark}”`);
  }
  /** Minus, as keyboards and typesetters write it. */
  minus(): boolean {
    return this.mark('-') || this.mark('−');
  }

  /** A binding's own name. */
  name(): string | null {
    const name = this.match(NAME);
    if (name !== null) this.take(name.length);
    return name;
  }
  /** Of a metric or a label; any text in quotes is one, too. */
  longName(what: string): string {
    if (this.text[this.at] === '"') {
      const quoted = this.string(what);
      if (quoted === '') throw new WrongMeasure(`${what} has at least one letter`, this.at);
      return quoted;
    }
    const name = this.match(LONG_NAME);
    if (name === null) throw this.wrong(what);
    this.take(name.length);
    return name;
  }
  /** Whether a name and then “=” stand here: where a binding begins. */
  bindingBegins(): boolean {
    const name = this.match(NAME);
    if (name === null) return false;
    let next = this.at + name.length;
    while (next < this.text.length && /\s/.test(this.text[next]!)) next++;
    return this.text[next] === '=';
  }
  numberBegins(): boolean {
    return this.match(NUMBER) !== null;
  }
  /** A number without its sign, and the unit that is written on to it. */
  number(): { readonly value: number; readonly unit: string | null } {
    const begun = this.at;
    const written = this.match(NUMBER);
    if (written === null) throw this.wrong('a number');
    this.at += written.length;
    const value = Number(written);
    if (!Number.isFinite(value)) throw new WrongMeasure(`${written} is too large a number`, begun);
    const unit = this.match(UNIT);
    this.take(unit === null ? 0 : unit.length);
    return { value, unit };
  }
  string(what: string): string {
    if (this.text[this.at] !== '"') throw this.wrong(`${what} in double quotes`);
    const begun = this.at;
    let out = '';
    let i = this.at + 1;
    for (; i < this.text.length; i++) {
      const letter = this.text[i]!;
      if (letter === '"') {
        this.at = i + 1;
        this.space();
        return out;
      }
      if (letter !== '\\') {
        out += letter;
        continue;
      }
      const next = this.text[++i];
      const meant = next === 'n' ? '\n' : next === '"' || next === '\\' ? next : undefined;
      if (meant === undefined)
        throw new WrongMeasure('a string knows \\", \\\\ and \\n; write \\\\ for a backslash', i - 1);
      out += meant;
    }
    throw new WrongMeasure('the string that begins here has no end: a “"” is missing', begun);
  }
  /** Between slashes; “\/” is a slash. */
  pattern(): string {
    if (this.text[this.at] !== '/') throw this.wrong('a pattern between slashes');
    const begun = this.at;
    let out = '';
    for (let i = this.at + 1; i < this.text.length; i++) {
      const letter = this.text[i]!;
      if (letter === '/') {
        this.at = i + 1;
        this.space();
        return out;
      }
      if (letter === '\\' && this.text[i + 1] === '/') {
        out += '/';
        i++;
      } else if (letter === '\\' && i + 1 < this.text.length) {
        out += letter + this.text[++i];
      } else out += letter;
    }
    throw new WrongMeasure('the pattern that begins here has no end: a “/” is missing', begun);
  }
  zone(): { readonly name: string; readonly offset: number } {
    const offset = this.at;
    const name = this.match(ZONE);
    if (name === null) throw this.wrong('a time zone such as Europe/Oslo');
    this.take(name.length);
    return { name, offset };
  }
}
