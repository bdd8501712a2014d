import { DOCUMENT_KINDS, DOCUMENT_SCHEMAS, type DocumentKind, type DocumentOf } from '@zetopsis/contract';

/** One document before and after; null where there is none. */
export interface DocumentChange<K extends DocumentKind = DocumentKind> {
  readonly kind: K;
  readonly key: string;
  readonly before: DocumentOf[K] | null;
  readonly after: DocumentOf[K] | null;
}
/** `fresh`: there must be none of this key yet; looked at when its turn comes, so that of two only one is made. */
export type Wish = {
  [K in DocumentKind]: Omit<DocumentChange<K>, 'before'> & { readonly fresh?: boolean };
}[DocumentKind];

export interface Revision {
  readonly id: number;
  readonly at: number;
  readonly by: string;
  readonly what: string;
  readonly changes: readonly DocumentChange[];
}

export interface DocumentProblem {
  readonly kind: DocumentKind;
  readonly key: string;
  /** Within the document. */
  readonly path: readonly (string | number)[];
  readonly text: string;
}

/** Everything configured at one revision. */
export class Documents {
  private readonly tables: ReadonlyMap<DocumentKind, ReadonlyMap<string, DocumentOf[DocumentKind]>>;
  private constructor(tables: ReadonlyMap<DocumentKind, ReadonlyMap<string, DocumentOf[DocumentKind]>>) {
    this.tables = tables;
  }
  static of(rows: readonly { kind: DocumentKind; key: string; body: DocumentOf[DocumentKind] }[]): Documents {
    const tables = new Map<DocumentKind, Map<string, DocumentOf[DocumentKind]>>(
      DOCUMENT_KINDS.map((kind) => [kind, new Map()]),
    );
    for (const { kind, key, body } of [...rows].sort((a, b) => (a.key < b.key ? -1 : 1)))
      tables.get(kind)?.set(key, inSchemaOrder(kind, body));
    return new Documents(tables);
  }

  all<K extends DocumentKind>(kind: K): ReadonlyMap<string, DocumentOf[K]> {
    return this.tables.get(kind) as ReadonlyMap<string, DocumentOf[K]>; // the table of a kind holds that kind
  }
  get<K extends DocumentKind>(kind: K, key: string): DocumentOf[K] | null {
    return this.all(kind).get(key) ?? null;
  }
  /** What is not wished for stays as it is: there may be very many of it. */
  with(wishes: readonly Wish[]): Documents {
    const tables = new Map(this.tables);
    for (const kind of new Set(wishes.map((wish) => wish.kind))) {
      const table = new Map(tables.get(kind));
      for (const wish of wishes) {
        if (wish.kind !== kind) continue;
        if (wish.after === null) table.delete(wish.key);
        else table.set(wish.key, inSchemaOrder(kind, wish.after));
      }
      tables.set(kind, new Map([...table].sort(([one], [other]) => (one < other ? -1 : 1))));
    }
    return new Documents(tables);
  }
}

/** The database keeps fields in an order of its own; what an older version kept and the schema refuses stays as it is. */
function inSchemaOrder(kind: DocumentKind, body: DocumentOf[DocumentKind]): DocumentOf[DocumentKind] {
  const read = DOCUMENT_SCHEMAS[kind].safeParse(body);
  return read.success ? read.data : body;
}

export const sameDocument = (a: unknown, b: unknown): boolean =>
  JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));

/** Fields in one order, whoever wrote them. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, inner]) => [name, sorted(inner)]),
  );
}
