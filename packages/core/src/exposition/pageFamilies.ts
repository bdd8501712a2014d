import { type Declaration, endingsOf, type Family, typeOf } from './families.ts';
import type { Form } from './forms.ts';
import type { PageLimits } from './limits.ts';
import { type LineCursor, readName } from './lineCursor.ts';
import type { MetricGroups } from './metricGroups.ts';
import { LineError, type Problems } from './problems.ts';

export interface KnownFamily {
  readonly family: Family;
  readonly index: number;
  readonly declared: Set<Declaration>;
  declaredBy: number;
  finished: boolean;
  settled: boolean;
  /** A counter that also says when it began: its lines belong together. */
  created: boolean;
}

/** The families of a page as its lines come: what declares them, which one is being read, and what they are as a whole. */
export class PageFamilies {
  readonly byName = new Map<string, KnownFamily>();
  readonly declared = new Map<string, Family>();
  /** Something was wrong about how families stand to each other. */
  outOfOrder = false;
  /** Names that samples of settled families may bear. */
  private readonly claimed = new Map<string, Family>();
  private current: KnownFamily | null = null;
  private declarations = 0;

  constructor(
    private readonly form: Form,
    private readonly limits: PageLimits,
    private readonly problems: Problems,
    private readonly groups: MetricGroups,
  ) {}

  /** Reads what `word` declares, from the cursor on: a name and a text. Throws LineError. */
  declare(word: Declaration, cursor: LineCursor, lineNumber: number): KnownFamily {
    const name = readName(cursor, true);
    const { line } = cursor;
    if (!cursor.ended || !cursor.plain || word === 'TYPE') {
      const c = cursor.peek();
      if (c !== 32 && !(cursor.plain && c === 9)) cursor.fail('badComment', 'expected one blank after the metric name');
      cursor.at++;
      cursor.passBlanks();
    }
    const text = cursor.plain && word === 'TYPE' ? line.slice(cursor.at).trimEnd() : line.slice(cursor.at);
    if (word !== 'HELP' && text.length > this.limits.nameLength)
      cursor.fail('tooLong', `${word} has more than ${this.limits.nameLength} characters`);
    const type = word === 'TYPE' ? typeOf(text, this.form) : undefined;
    if (word === 'TYPE' && type === undefined)
      cursor.fail('badComment', `“${text.slice(0, 40)}” is not a type of metric`);
    if (word === 'UNIT' && !/^[a-zA-Z0-9_:]*$/.test(text))
      cursor.fail('badUnit', `“${text.slice(0, 40)}” is not a unit`);
    if (word === 'HELP' && !cursor.plain && /(^|[^\\])(\\\\)*\\$/.test(text))
      cursor.fail('badEscape', 'a backslash is followed by a character');
    const known = this.enter(name, lineNumber);
    const { family } = known;
    if (family.samples > 0) throw new LineError('lateDeclaration', 1, `${word} of ${name} comes after its samples`);
    if (known.declared.has(word)) throw new LineError('duplicateDeclaration', 1, `${word} of ${name} stands twice`);
    known.declared.add(word);
    known.declaredBy = ++this.declarations;
    this.declared.set(name, family);
    if (type !== undefined) family.type = type;
    else if (word === 'UNIT') family.unit = text;
    else family.help = unescaped(text, this.form).slice(0, this.limits.labelValueLength);
    return known;
  }

  enter(name: string, line: number): KnownFamily {
    let known = this.byName.get(name);
    if (!known) {
      known = {
        family: { name, type: 'unknown', unit: '', help: '', samples: 0 },
        index: this.byName.size,
        declared: new Set(),
        declaredBy: 0,
        finished: false,
        settled: false,
        created: false,
      };
      this.byName.set(name, known);
    }
    this.moveTo(known, line);
    return known;
  }
  moveTo(known: KnownFamily, line: number): void {
    if (known === this.current) return;
    this.leave(line);
    this.current = known;
    if (known.finished && this.form === 'openmetrics') {
      known.finished = false;
      this.outOfOrder = true;
      const text = `lines of ${known.family.name} stand in more than one place of the page`;
      this.problems.report('interleaved', line, 1, text);
    }
  }
  /** The family that was being read is over: what it is as a whole is looked at. */
  leave(line: number): void {
    const known = this.current;
    if (!known) return;
    known.finished = true;
    if (this.form === 'plain') return;
    const before = this.problems.count;
    this.groups.leaveFamily();
    this.settle(known, line);
    if (this.problems.count > before) this.outOfOrder = true;
  }
  private settle(known: KnownFamily, line: number): void {
    if (known.settled) return;
    known.settled = true;
    const { family } = known;
    const report = (code: 'badUnit' | 'nameClash', text: string) => this.problems.report(code, line, 1, text);
    if (family.unit !== '') {
      if (family.type === 'info' || family.type === 'stateset')
        report('badUnit', `${family.name} is of type ${family.type}, which has no unit`);
      else if (!family.name.endsWith(`_${family.unit}`))
        report('badUnit', `the name ${family.name} does not end with its unit, _${family.unit}`);
    }
    for (const ending of new Set(['', ...endingsOf(family.type, 'openmetrics')])) {
      const name = `${family.name}${ending}`;
      const other = this.claimed.get(name);
      if (other) report('nameClash', `${name} may be a sample of ${other.name} as well as of ${family.name}`);
      else this.claimed.set(name, family);
    }
  }
}

/** As it was meant: a line break is written as a backslash and n, a backslash as two, in the strict form a quote with one. */
const unescaped = (help: string, form: Form): string =>
  help.replace(form === 'plain' ? /\\([n\\])/g : /\\([n\\"])/g, (_, one: string) => (one === 'n' ? '\n' : one));
