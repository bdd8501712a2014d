import { type MeasureProblem, nearestOf, placeAt, WrongMeasure } from './problem.ts';
import { Scanner } from './scanner.ts';
import { readStep, STEP_WORDS } from './stepSyntax.ts';
import { readAmount } from './syntaxParts.ts';
import type { Binding, Body, Chain, Expression, Operator, Source, Step } from './tree.ts';

/** UTF-16 units; a text that is longer is refused unread. */
export const LONGEST_BODY = 20_000;
const DEEPEST = 50;

/** Text → tree. */
export function parseMeasure(text: string): { readonly body: Body } | { readonly problem: MeasureProblem } {
  if (text.length > LONGEST_BODY)
    return {
      problem: {
        text: `a measure has at most ${LONGEST_BODY} characters; this has ${text.length}`,
        at: null,
        nearest: null,
      },
    };
  try {
    return { body: new Parser(new Scanner(text)).body() };
  } catch (error) {
    if (!(error instanceof WrongMeasure)) throw error;
    return {
      problem: {
        text: error.text,
        at: error.offset === null ? null : placeAt(text, error.offset),
        nearest: error.nearest,
      },
    };
  }
}

const commented = (comments: readonly string[]) => (comments.length === 0 ? {} : { comments });

class Parser {
  private depth = 0;

  constructor(private readonly scanner: Scanner) {}

  body(): Body {
    const { scanner } = this;
    const bindings: Binding[] = [];
    let comments = scanner.takeComments();
    while (scanner.bindingBegins()) {
      bindings.push(this.binding(comments));
      comments = scanner.takeComments();
    }
    const result = this.result(bindings.length === 0, comments);
    if (!scanner.atEnd) throw scanner.wrong('the end');
    return { bindings, result, ...commented(scanner.takeComments()) };
  }

  private binding(comments: readonly string[]): Binding {
    const name = this.scanner.name()!; // one begins here
    this.scanner.expectMark('=');
    return { name, chain: this.chain(true), ...commented(comments) };
  }
  private result(alone: boolean, comments: readonly string[]): Body['result'] {
    const { scanner } = this;
    if (scanner.words('show')) {
      const expression = this.expression();
      return { is: 'show', expression, as: scanner.words('as') ? this.unit() : null, ...commented(comments) };
    }
    const word = scanner.peekWord();
    if (alone && word === 'read') return { is: 'chain', chain: this.chain(false), ...commented(comments) };
    const nearest = word === null ? null : nearestOf(word, alone ? ['read', 'show'] : ['show', ...STEP_WORDS]);
    throw scanner.wrong(alone ? '“read”, “show”, or a name and “=”' : 'a step, a name and “=”, or “show”', nearest);
  }
  private unit(): string {
    const { scanner } = this;
    if (scanner.words('per', 'second')) return 'per second';
    if (scanner.mark('%')) return 'percent';
    return scanner.longName('a unit');
  }

  private chain(inBinding: boolean): Chain {
    const { scanner } = this;
    const source = this.source(inBinding);
    const steps: Step[] = [];
    while (!scanner.atEnd && !scanner.bindingBegins() && scanner.peekWord() !== 'show') {
      const step = readStep(scanner);
      if (step === null) break;
      steps.push(step);
    }
    return { source, steps };
  }
  private source(inBinding: boolean): Source {
    const { scanner } = this;
    if (inBinding && scanner.words('from')) return { is: 'from', expression: this.expression() };
    if (!scanner.words('read')) {
      const word = scanner.peekWord();
      const known = inBinding ? ['read', 'from'] : ['read'];
      throw scanner.wrong(inBinding ? '“read” or “from”' : '“read”', word === null ? null : nearestOf(word, known));
    }
    const vital = scanner.words('vital');
    const measure = !vital && scanner.words('measure');
    const name = measure ? scanner.string('the title of a measure') : scanner.longName(vital ? 'a vital' : 'a metric');
    if (vital) return { is: 'vital', name };
    return measure ? { is: 'measure', title: name } : { is: 'metric', name };
  }

  // ---- expressions ------------------------------------------------------------------------------------------------

  private deeper<T>(read: () => T): T {
    if (++this.depth > DEEPEST)
      throw new WrongMeasure(
        `this is nested more than ${DEEPEST} deep: give a part a name of its own`,
        this.scanner.offset,
      );
    const value = read();
    this.depth--;
    return value;
  }
  private expression(): Expression {
    return this.deeper(() => this.row(['+', '-'], () => this.row(['*', '/'], () => this.operand())));
  }
  private row(operators: readonly Operator[], next: () => Expression): Expression {
    let left = next();
    // a long row nests to the left as deep as it is long
    for (let many = 0; ; many++) {
      const operator = operators.find((one) => (one === '-' ? this.scanner.minus() : this.scanner.mark(one)));
      if (operator === undefined) return left;
      if (many >= DEEPEST)
        throw new WrongMeasure(
          `more than ${DEEPEST} of these in a row: give a part a name of its own`,
          this.scanner.offset,
        );
      const right = next();
      left = { is: 'operator', operator, left, right, pairedBy: this.pairing() };
    }
  }
  private pairing(): readonly string[] | null {
    if (!this.scanner.words('paired', 'by')) return null;
    const labels = [this.scanner.longName('a label')];
    while (this.scanner.mark(',')) labels.push(this.scanner.longName('a label'));
    return labels;
  }
  private operand(): Expression {
    const { scanner } = this;
    if (scanner.minus()) return this.deeper(() => ({ is: 'minus' as const, of: this.operand() }));
    if (scanner.mark('(')) {
      const inside = this.expression();
      scanner.expectMark(')');
      return inside;
    }
    if (scanner.numberBegins()) return { is: 'number', amount: readAmount(scanner) };
    for (const is of ['smaller', 'larger'] as const)
      if (scanner.words(is, 'of')) {
        scanner.expectMark('(');
        const left = this.expression();
        scanner.expectMark(',');
        const right = this.expression();
        scanner.expectMark(')');
        return { is, left, right };
      }
    const name = scanner.name();
    if (name === null) throw scanner.wrong('a name, a number or “(”');
    return { is: 'name', name };
  }
}
