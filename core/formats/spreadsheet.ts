import Papa from 'papaparse';

/** A text for a table: what a spreadsheet would take for a formula is kept from it by an apostrophe. */
export const cellText = (text: string): string => (/^[=+@\t\r]|^-(?!\d)/.test(text) ? `'${text}` : text);

/** The text behind such an apostrophe. */
export const textBehind = (text: string): string =>
  /^'(?:[=+@\t\r]|-(?!\d))/.test(text) ? text.slice(1) : text;

/** A table as CSV (RFC 4180) that no spreadsheet takes for formulas. */
export const csvText = (fields: readonly string[], rows: readonly (readonly string[])[]): string =>
  `${Papa.unparse({ fields: [...fields], data: rows.map((r) => r.map(cellText)) }, { newline: '\r\n' })}\r\n`;
