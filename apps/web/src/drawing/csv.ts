/** Cells that a spreadsheet would run are made plain text. */
const plain = (text: string): string => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text);
const quoted = (text: string): string => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
const written = (cell: string | number | null): string =>
  cell === null ? '' : typeof cell === 'number' ? String(cell) : quoted(plain(cell));

/** Rows as a file of comma-separated values; null is an empty cell, and names of strangers run nothing. */
export const csvOfRows = (rows: readonly (readonly (string | number | null)[])[]): string =>
  `${rows.map((cells) => cells.map(written).join(',')).join('\r\n')}\r\n`;
