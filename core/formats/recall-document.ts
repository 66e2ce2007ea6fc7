import type { Session } from '../model/types.ts';
import { mapPicture, type MapPicture } from './recall-map.ts';
import { sheetOf, type SheetFigure } from './recall-sheet.ts';

/** Points of a page's margin, and sizes of letters. */
const MARGIN = 48;
const SIZE = { title: 20, part: 15, text: 9.5, note: 8 };
const LINE = '#999999';

interface Block {
  text?: string;
  svg?: string;
  fit?: [number, number];
  fontSize?: number;
  bold?: boolean;
  color?: string;
  margin?: number[];
  pageBreak?: 'before';
  preserveLeadingSpaces?: boolean;
  layout?: object;
  table?: { widths: (string | number)[]; dontBreakRows: boolean; body: Block[][] };
}

/** What a page layout program is told: blocks of text and tables, one page a line, black on white. */
export interface SheetDocument {
  info: { title: string; creator: string };
  pageSize: 'A4';
  pageMargins: number;
  defaultStyle: { font: string; fontSize: number };
  footer: (page: number, pages: number) => object;
  content: Block[];
}

/** Rules between rows only. */
const LAYOUT = {
  hLineWidth: (i: number, node: { table: { body: unknown[] } }) =>
    i === 0 || i === node.table.body.length ? 0 : 0.5,
  vLineWidth: () => 0,
  hLineColor: () => LINE,
  paddingLeft: () => 0,
};

/** Room for the map on a page under its title, points; a small one is not blown up. */
const MAP_ROOM = { w: 499, h: 640 };
const fitting = ({ width, height }: MapPicture): [number, number] => [
  Math.min(MAP_ROOM.w, width),
  Math.min(MAP_ROOM.h, height),
];

/**
 * The recall sheet as pages (A4, points): each line begins a page, what follows the lines goes on where there is room.
 * @param font the name under which the layout program knows the font that is embedded
 */
export function recallDocument(
  session: Session,
  figures: readonly SheetFigure[],
  font: string,
): SheetDocument {
  const { title, about, parts } = sheetOf(session, figures);
  const lines = session.tracks.length;
  const map = mapPicture(session, font);
  return {
    info: { title: `${title}, recall sheet`, creator: 'Rope Shelf' },
    pageSize: 'A4',
    pageMargins: MARGIN,
    defaultStyle: { font, fontSize: SIZE.text },
    footer: (page, pages) => ({
      text: `${title} · page ${page} of ${pages}`,
      alignment: 'center',
      fontSize: SIZE.note,
    }),
    content: [
      { text: title, fontSize: SIZE.title, bold: true },
      { text: about, color: '#333333', margin: [0, 0, 0, 8] },
      ...parts.flatMap((p, i): Block[] => [
        {
          text: p.title,
          fontSize: SIZE.part,
          bold: true,
          margin: [0, i === 0 || i > lines ? 10 : 0, 0, 0],
          ...(i > 0 && i <= lines ? { pageBreak: 'before' as const } : {}),
        },
        { text: p.about, color: '#333333', margin: [0, 0, 0, 4] },
        ...(p.isMap && map ? [{ svg: map.svg, fit: fitting(map), margin: [0, 4, 0, 12] }] : []),
        {
          layout: LAYOUT,
          table: {
            widths: [170, '*'],
            dontBreakRows: true,
            body: p.rows.map((r) => [
              { text: r.what, bold: true, preserveLeadingSpaces: true },
              { text: r.value },
            ]),
          },
        },
      ]),
    ],
  };
}
