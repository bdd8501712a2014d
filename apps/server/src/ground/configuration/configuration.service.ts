import { Injectable, type OnModuleInit } from '@nestjs/common';
import type {
  ChangeAnswer,
  DocumentKind,
  DocumentOf,
  FileAnswer,
  FileInput,
  RevisionInput,
  RevisionSheet,
  RevisionsAnswer,
} from '@zetopsis/contract';
import pLimit from 'p-limit';
import type { EntityManager } from 'typeorm';
import { LiveService } from '../live/live.service.ts';
import { Refusal } from '../platform/refusals.ts';
import { writeFile } from './configurationFile.ts';
import { differenceOf, kindOfChange } from './differences.ts';
import { DocumentsStore } from './documents.store.ts';
import {
  type DocumentChange,
  type DocumentProblem,
  Documents,
  type Revision,
  sameDocument,
  type Wish,
} from './documents.ts';
import { readApart } from './fileReader.ts';

const PAGE = 40;
type Check = (wanted: Documents, changes: readonly DocumentChange[]) => DocumentProblem[] | Promise<DocumentProblem[]>;
type AllApplied<K extends DocumentKind> = (changes: readonly DocumentChange<K>[]) => void | Promise<void>;
/** What applying a change would bring about now; null: nothing that is known. */
type Preview = (changes: readonly DocumentChange[]) => Promise<ReadonlyMap<DocumentChange, string>>;
/** With what it would change, where that is only tried. */
type Answered = ChangeAnswer & { readonly tried: readonly DocumentChange[] };
type Applied<K extends DocumentKind> = (change: DocumentChange<K>) => void | Promise<void>;

/**
 * The one way in which anything configured changes: checked as a whole, kept as a revision, told to whom it concerns,
 * taken back when somebody wants.
 */
@Injectable()
export class ConfigurationService implements OnModuleInit {
  private documents = Documents.of([]);
  private revision = 0;
  private readonly checks: Check[] = [];
  private readonly previews: Preview[] = [];
  private readonly listeners = new Map<DocumentKind, Applied<DocumentKind>[]>();
  private readonly listenersToAll = new Map<DocumentKind, AllApplied<DocumentKind>[]>();
  /** One change after the other. */
  private readonly inOrder = pLimit(1);

  constructor(
    private readonly store: DocumentsStore,
    private readonly live: LiveService,
  ) {}

  async onModuleInit(): Promise<void> {
    this.documents = Documents.of(await this.store.all());
    this.revision = await this.store.newestId();
  }

  all<K extends DocumentKind>(kind: K): ReadonlyMap<string, DocumentOf[K]> {
    return this.documents.all(kind);
  }
  get<K extends DocumentKind>(kind: K, key: string): DocumentOf[K] | null {
    return this.documents.get(kind, key);
  }
  /** Looks at what would be configured, before it is. */
  addCheck(check: Check): void {
    this.checks.push(check);
  }
  /** Told of each document that changed, after it was kept. */
  onApplied<K extends DocumentKind>(kind: K, listener: Applied<K>): void {
    this.listeners.set(kind, [...(this.listeners.get(kind) ?? []), listener as Applied<DocumentKind>]); // told of its kind only
  }

  /** Told once of all documents of a kind that changed together. */
  onAllApplied<K extends DocumentKind>(kind: K, listener: AllApplied<K>): void {
    const told = listener as AllApplied<DocumentKind>; // of its kind only
    this.listenersToAll.set(kind, [...(this.listenersToAll.get(kind) ?? []), told]);
  }

  /** Changes documents or refuses with what is wrong; `more` is done in the same transaction. Answers null when nothing differs. */
  async change({
    by,
    what,
    wishes,
    more = async () => undefined,
  }: {
    readonly by: string;
    readonly what: string;
    readonly wishes: readonly Wish[];
    readonly more?: (manager: EntityManager) => Promise<void>;
  }): Promise<Revision | null> {
    return this.exclusive(async () => {
      for (const { kind, key, fresh } of wishes)
        if (fresh && this.documents.get(kind, key) !== null)
          throw new Refusal('conflict', `There is a ${kind} ${key} already. Look at it, or choose another name.`);
      const changes = this.changesFor(wishes);
      const [first, ...others] = await this.problems(changes);
      if (first)
        throw new Refusal(
          'conflict',
          others.length === 0 ? first.text : `${first.text} (and ${others.length} more)`,
          [first, ...others].map(({ path, text }) => ({ path: path.join('.'), text })),
        );
      if (changes.length === 0) return null;
      return this.apply({ by, what, changes, more });
    });
  }

  private exclusive<T>(work: () => Promise<T>): Promise<T> {
    return this.inOrder(work);
  }
  private changesFor(wishes: readonly Wish[]): DocumentChange[] {
    return wishes
      .map(
        ({ kind, key, after }): DocumentChange =>
          ({ kind, key, after, before: this.documents.get(kind, key) }) as DocumentChange, // of its kind
      )
      .filter(({ before, after }) => !sameDocument(before, after));
  }
  private async problems(changes: readonly DocumentChange[]): Promise<DocumentProblem[]> {
    const wanted = this.documents.with(changes as readonly Wish[]); // a change is a wish with its past
    return (await Promise.all(this.checks.map((check) => check(wanted, changes)))).flat();
  }
  private async apply({
    by,
    what,
    changes,
    more = async () => undefined,
  }: {
    readonly by: string;
    readonly what: string;
    readonly changes: readonly DocumentChange[];
    readonly more?: (manager: EntityManager) => Promise<void>;
  }): Promise<Revision> {
    const revision = await this.store.write({ by, what, changes, more });
    this.documents = this.documents.with(changes as readonly Wish[]);
    this.revision = revision.id;
    for (const change of changes) for (const told of this.listeners.get(change.kind) ?? []) await told(change);
    for (const [kind, listeners] of this.listenersToAll) {
      const own = changes.filter((change) => change.kind === kind);
      if (own.length > 0) for (const told of listeners) await told(own);
    }
    this.live.touch('configuration');
    return revision;
  }

  // ---- files ------------------------------------------------------------------------------------------------------

  write(form: 'yaml' | 'json'): FileAnswer {
    return { text: writeFile(this.documents, form), revision: this.revision };
  }
  async read(by: string, { text, tryOnly }: FileInput): Promise<ChangeAnswer> {
    const answered = await this.exclusive(async (): Promise<Answered> => {
      const file = await readApart(text, this.documents);
      const changes = this.changesFor(file.wishes);
      const problems = [...file.problems];
      if (problems.length === 0) {
        const found = await this.problems(changes);
        const { places } = found.length === 0 ? { places: [] } : await readApart(text, this.documents, found);
        for (const [i, { text: words }] of found.entries()) problems.push({ ...places[i]!, text: words }); // one for each
      }
      if (problems.length > 0) return { problems, differences: [], revision: null, along: [], tried: [] };
      return this.answer({ by, what: 'read a configuration file', changes, tryOnly });
    });
    return this.previewed(answered);
  }
  private async answer({
    by,
    what,
    changes,
    tryOnly,
    along = [],
  }: {
    readonly by: string;
    readonly what: string;
    readonly changes: readonly DocumentChange[];
    readonly tryOnly: boolean;
    readonly along?: ChangeAnswer['along'];
  }): Promise<Answered> {
    const told = { problems: [], differences: changes.map(differenceOf), along };
    if (tryOnly || changes.length === 0) return { ...told, revision: null, tried: changes };
    return { ...told, revision: (await this.apply({ by, what, changes })).id, tried: [] };
  }

  addPreview(preview: Preview): void {
    this.previews.push(preview);
  }
  /** Others may change what is configured meanwhile: looking ahead may take long. */
  private async previewed({ tried, ...answer }: Answered): Promise<ChangeAnswer> {
    if (tried.length === 0) return answer;
    const told = await Promise.all(this.previews.map((preview) => preview(tried)));
    const differences = answer.differences.map((difference, i) => {
      const words = told.flatMap((known) => known.get(tried[i]!) ?? []);
      return words.length === 0 ? difference : { ...difference, warning: words.join(' ') };
    });
    return { ...answer, differences };
  }

  // ---- revisions --------------------------------------------------------------------------------------------------

  async revisions(before: number | undefined): Promise<RevisionsAnswer> {
    const found = await this.store.newest(before ?? null, PAGE + 1);
    return { revisions: found.slice(0, PAGE).map(toAnswer), more: found.length > PAGE };
  }
  /** What was changed of one document, newest first. */
  async versionsOf<K extends DocumentKind>(
    kind: K,
    key: string,
    most: number,
  ): Promise<{ readonly revision: Revision; readonly change: DocumentChange<K> }[]> {
    const found = await this.store.newestOf(kind, key, most);
    return found.flatMap((revision) =>
      revision.changes.flatMap((change) =>
        change.kind === kind && change.key === key ? [{ revision, change: change as DocumentChange<K> }] : [],
      ),
    );
  }
  /** What was configured in a time, newest first. */
  async within(from: number, to: number): Promise<RevisionsAnswer['revisions']> {
    return (await this.store.within(from, to, PAGE)).map(toAnswer);
  }
  async sheet(id: number): Promise<RevisionSheet> {
    const revision = await this.mustFind(id);
    return { ...toAnswer(revision), differences: revision.changes.map(differenceOf) };
  }

  /** Takes one revision back, or makes everything as it was after it. */
  async turnBack(by: string, id: number, { act, tryOnly, along }: RevisionInput): Promise<ChangeAnswer> {
    const answered = await this.exclusive(async (): Promise<Answered> => {
      const revision = await this.mustFind(id);
      const back = act === 'undo' ? await this.undoing(revision) : [revision];
      const later = back.filter((one) => one !== revision);
      if (later.length > 0 && !along && !tryOnly)
        throw new Refusal(
          'conflict',
          `What it changed was changed again in revision ${later.map((one) => one.id).join(', ')}. Take those back with it, or return to an earlier revision.`,
        );
      const wishes = wishesBefore(act === 'undo' ? back : await this.store.after(revision.id));
      const changes = this.changesFor(wishes);
      const problems = await this.problems(changes);
      const lines = later.map(({ changes: _, ...line }) => line);
      if (problems.length > 0)
        return {
          problems: problems.map(({ kind, key, text }) => ({ line: null, column: null, path: `${kind} ${key}`, text })),
          differences: [],
          revision: null,
          along: lines,
          tried: [],
        };
      const ids = back.map((one) => one.id).reverse();
      const what =
        act === 'return'
          ? `returned to revision ${id}`
          : `took revision${ids.length > 1 ? 's' : ''} ${ids.join(', ')} back`;
      return this.answer({ by, what, changes, tryOnly, along: lines });
    });
    return this.previewed(answered);
  }
  /**
   * A revision and each after it that changed what it changed, or what one of those changed before; newest first. What was only
   * changed before one of them stays.
   */
  private async undoing(revision: Revision): Promise<Revision[]> {
    if (revision.changes.every(({ kind, key, after }) => sameDocument(this.documents.get(kind, key), after)))
      return [revision];
    const nameOf = ({ kind, key }: Pick<DocumentChange, 'kind' | 'key'>) => `${kind} ${key}`;
    const touched = new Set(revision.changes.map(nameOf));
    const back = [revision];
    for (const later of (await this.store.after(revision.id)).reverse()) {
      if (!later.changes.some((change) => touched.has(nameOf(change)))) continue;
      back.unshift(later);
      for (const change of later.changes) touched.add(nameOf(change));
    }
    return back;
  }
  private async mustFind(id: number): Promise<Revision> {
    const revision = await this.store.get(id);
    if (!revision) throw new Refusal('notFound', 'There is no such revision.');
    return revision;
  }
}

/** Documents as they were before all of these, which come newest first: the earliest has the last word. */
function wishesBefore(revisions: readonly Revision[]): Wish[] {
  const wishes = new Map<string, Wish>();
  for (const { changes } of revisions)
    for (const { kind, key, before } of changes) wishes.set(`${kind} ${key}`, { kind, key, after: before } as Wish); // of its kind
  return [...wishes.values()];
}

const toAnswer = ({ id, at, by, what, changes }: Revision) => ({
  id,
  at,
  by,
  what,
  changes: changes.map((change) => ({ kind: change.kind, key: change.key, was: kindOfChange(change) })),
});
