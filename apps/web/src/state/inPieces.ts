import { MapAnswer, MapBox, MapLink, TableAnswer, TableRow, UsageAnswer, UsageRow } from '@zetopsis/contract';
import { z } from 'zod';

/** So many rows are checked at a time; in between the browser draws. */
const AT_ONCE = 200;
const pause = () => new Promise((next) => setTimeout(next));

/** Rows as they are expected, or it throws as a schema does. */
async function rowsOf<T>(schema: z.ZodType<T>, rows: readonly unknown[]): Promise<T[]> {
  const list = z.array(schema);
  const checked: T[] = [];
  for (let at = 0; at < rows.length; at += AT_ONCE) {
    if (at > 0) await pause();
    for (const row of list.parse(rows.slice(at, at + AT_ONCE))) checked.push(row);
  }
  return checked;
}
/** What is frozen is not gone through once more by who keeps it. */
const frozen = <T extends object>(answer: T): T => Object.freeze(answer);

const WithRows = z.looseObject({ rows: z.array(z.unknown()) });
const WithColumns = z.looseObject({ columns: z.array(WithRows) });

/** An answer of thousands of rows, checked in full, but not in one go. */
export async function usageInPieces(data: unknown): Promise<UsageAnswer> {
  const { columns, ...rest } = WithColumns.parse(data);
  const checked = UsageAnswer.parse({ ...rest, columns: columns.map((column) => ({ ...column, rows: [] })) });
  const rows: UsageRow[][] = [];
  for (const column of columns) rows.push(await rowsOf(UsageRow, column.rows));
  return frozen({ ...checked, columns: checked.columns.map((column, i) => ({ ...column, rows: rows[i]! })) });
}
const WithLinks = z.looseObject({ boxes: z.array(z.unknown()), links: z.array(z.unknown()) });
export async function mapInPieces(data: unknown): Promise<MapAnswer> {
  const { boxes, links, ...rest } = WithLinks.parse(data);
  const checked = MapAnswer.parse({ ...rest, boxes: [], links: [] });
  return frozen({ ...checked, boxes: await rowsOf(MapBox, boxes), links: await rowsOf(MapLink, links) });
}
export async function tableInPieces(data: unknown): Promise<TableAnswer> {
  const { rows, ...rest } = WithRows.parse(data);
  const checked = TableAnswer.parse({ ...rest, rows: [] });
  return frozen({ ...checked, rows: await rowsOf(TableRow, rows) });
}
