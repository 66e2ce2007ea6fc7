import { DEVICE_TYPES, isListed, isUsed, valueIn } from '../devices/index.ts';
import { positionText, positionsOf } from '../hardware/positions.ts';
import { colourOf } from '../model/colours.ts';
import type { UnitUse } from '../model/hardware.ts';
import type { Device, Session, Slot, Track } from '../model/types.ts';
import { formatDb, formatPan, formatValue } from '../model/units.ts';
import { planPrint } from '../print/plan.ts';
import { signalGraph } from '../session/graph.ts';
import { addressText } from '../session/midi.ts';
import type { PrintFileMade } from './print-files.ts';
import { mapPicture } from './recall-map.ts';
import { csvText } from './spreadsheet.ts';

/**
 * The recall sheet: everything from which a session can be built again by hand. One part a line, with every value that
 * is not the factory's, then the connections, the hardware, what is printed, and what came from which preset.
 */

export const SHEET_FORMATS = ['html', 'markdown', 'csv'] as const;
export type SheetFormat = (typeof SHEET_FORMATS)[number];

interface Row {
  what: string;
  value: string;
}
interface Part {
  title: string;
  /** under the title: role, colour, state */
  about: string;
  rows: Row[];
  /** the signal map stands above its rows */
  isMap?: true;
}
export interface Sheet {
  title: string;
  about: string;
  parts: Part[];
}

/** What was measured of one file of a print. */
export type SheetFigure = Pick<PrintFileMade, 'title' | 'frames' | 'sampleRate' | 'loudness'>;

/**
 * Writes the recall sheet of a session.
 * @param figures of what was printed of it last
 * @returns the whole file as text: HTML with a print style of one page a line, Markdown, or CSV (RFC 4180)
 */
export function recallSheet(
  session: Session,
  format: SheetFormat,
  figures: readonly SheetFigure[] = [],
): string {
  const sheet = sheetOf(session, figures);
  switch (format) {
    case 'html':
      return html(sheet, mapPicture(session)?.svg ?? '');
    case 'markdown':
      return markdown(sheet);
    case 'csv':
      return csv(sheet);
  }
}

/** Two sheets held against each other: what changed from one to the other, part by part. */
export function compareSheets(
  before: Session,
  after: Session,
): { part: string; what: string; from: string; to: string }[] {
  const [a, b] = [before, after].map((s) => toldApart(sheetOf(s)));
  return [...new Map([...a, ...b])].flatMap(([key, { part, what }]) => {
    const [from, to] = [a.get(key)?.value ?? '', b.get(key)?.value ?? ''];
    return from === to ? [] : [{ part, what, from, to }];
  });
}

/** Rows by their part and name; a second one of the same name counts as the second. */
function toldApart({ parts }: Sheet): Map<string, { part: string; what: string; value: string }> {
  const rows = new Map<string, { part: string; what: string; value: string }>();
  for (const p of parts) {
    for (const r of p.rows) {
      let key = JSON.stringify([p.title, r.what.trim(), 1]);
      for (let n = 2; rows.has(key); n++) key = JSON.stringify([p.title, r.what.trim(), n]);
      rows.set(key, { part: p.title, what: r.what.trim(), value: r.value });
    }
  }
  return rows;
}

/** All that a sheet says, in whatever form it is written. */
export function sheetOf(s: Session, figures: readonly SheetFigure[] = []): Sheet {
  const names = new Map(s.tracks.map((t) => [t.id, t.name]));
  const nameOf = (id: string) => names.get(id) ?? 'a line that is gone';
  const facts = [
    `${s.tempo} bpm, ${s.meter.join('/')}`,
    `${s.sampleRate / 1000} kHz, ${s.bitDepth} bit`,
    `pan law ${formatDb(s.panLaw)}`,
    s.setup ? `in ${s.setup.name}` : '',
  ];
  return {
    title: s.name,
    about: [...facts.filter(Boolean), s.note].filter(Boolean).join(' · '),
    parts: [
      ...s.tracks.map((t) => linePart(t, nameOf)),
      connections(s, nameOf),
      hardwarePart(s),
      printPart(s, nameOf),
      figuresPart(figures),
      originsPart(s),
    ].filter((p) => p.rows.length > 0),
  };
}

function linePart(t: Track, nameOf: (id: string) => string): Part {
  const state = [t.mute ? 'muted' : '', t.state === 'inactive' ? 'inactive' : '', t.printed ? 'printed' : ''];
  const about = [
    t.role,
    t.channels === 1 ? 'mono' : 'stereo',
    colourOf(t.colour).label.toLowerCase(),
    ...state,
  ];
  return {
    title: t.name,
    about: about.filter(Boolean).join(' · '),
    rows: [
      { what: 'Input', value: inputText(t, nameOf) },
      ...(t.inputTrim ? [{ what: 'Trim before the chain', value: formatDb(t.inputTrim, false) }] : []),
      ...t.chain.flatMap((slot) => slotRows(slot, nameOf, '')),
      ...t.sends.map((x) => ({
        what: `Send to ${nameOf(x.to)}`,
        value: [formatDb(x.level), `${x.tap}-fader`, x.on ? '' : 'off'].filter(Boolean).join(', '),
      })),
      { what: 'Level', value: formatDb(t.level) },
      { what: 'Pan', value: formatPan(t.pan) },
      { what: 'Output', value: outputText(t, nameOf) },
      ...(t.polarity ? [{ what: 'Polarity', value: 'turned over' }] : []),
      ...(t.note ? [{ what: 'Note', value: t.note }] : []),
    ],
  };
}

function inputText({ input }: Track, nameOf: (id: string) => string): string {
  switch (input.kind) {
    case 'none':
      return 'nothing';
    case 'hardware':
      return [input.port, ...(input.units ?? []).map((u) => u.unit.name)].reverse().join(' → ');
    case 'track':
      return `${nameOf(input.track)}, ${input.tap}-fader`;
    case 'deviceOutput':
      return `output ${input.output} of ${nameOf(input.track)}, ${input.take}`;
    case 'midi':
      return addressText(input);
  }
}
function outputText({ output }: Track, nameOf: (id: string) => string): string {
  switch (output.kind) {
    case 'track':
      return nameOf(output.track);
    case 'hardware':
      return output.port;
    case 'midi':
      return addressText(output);
    case 'none':
      return 'nowhere';
  }
}

/** A device with every value that is not the factory's; a rack with its strands. */
function slotRows(slot: Slot, nameOf: (id: string) => string, indent: string): Row[] {
  const state = slot.state === 'on' ? '' : slot.state;
  if (slot.kind === 'device') {
    const values = [DEVICE_TYPES[slot.type].label, state, ...valuesOf(slot), keyText(slot, nameOf)];
    return [{ what: `${indent}${slot.name}`, value: values.filter(Boolean).join(', ') }];
  }
  return [
    { what: `${indent}${slot.name}`, value: ['rack', state].filter(Boolean).join(', ') },
    ...slot.handles.map((h) => ({ what: `${indent}  ${h.name}`, value: `handle at ${h.value}` })),
    ...slot.strands.flatMap((strand) => [
      {
        what: `${indent}  ${strand.name}`,
        value: [formatDb(strand.level), formatPan(strand.pan), strand.mute ? 'muted' : '']
          .filter(Boolean)
          .join(', '),
      },
      ...strand.chain.flatMap((x) => slotRows(x, nameOf, `${indent}    `)),
    ]),
  ];
}
function valuesOf(d: Device): string[] {
  const spec = DEVICE_TYPES[d.type];
  return spec.params
    .filter((p) => isUsed(d, p.id) && isListed(d, p.id) && valueIn(d, p) !== p.default)
    .map((p) => `${p.label} ${formatValue(p, valueIn(d, p))}`);
}
const keyText = (d: Device, nameOf: (id: string) => string): string =>
  d.key.kind === 'track' ? `key from ${nameOf(d.key.track)}, ${d.key.tap}-fader` : '';

const ABOUT_MAP =
  'what leads where; drawn: outputs in full, sends in dashes, keys in dots, MIDI in long dashes, grey what carries nothing now';
function connections(s: Session, nameOf: (id: string) => string): Part {
  const { nodes, flows } = signalGraph(s);
  const labels = new Map(nodes.map((n) => [n.id, n.label]));
  const label = (id: string) => labels.get(id) ?? nameOf(id);
  const rows = flows.map((f) => ({
    what: `${label(f.from)} → ${label(f.to)}`,
    value: [
      f.kind,
      f.level === undefined ? '' : formatDb(f.level),
      f.detail ?? '',
      f.live ? '' : 'carries nothing now',
    ]
      .filter(Boolean)
      .join(', '),
  }));
  return { title: 'Connections', about: ABOUT_MAP, rows, isMap: true };
}

function hardwarePart(s: Session): Part {
  const rows = s.tracks.flatMap((t) => {
    const before = t.input.kind === 'hardware' ? (t.input.units ?? []) : [];
    const loops = [...devicesOf(t.chain)].flatMap((d) => d.hardware?.units ?? []);
    return [...before, ...loops].map((use) => ({
      what: `${use.unit.name} on ${t.name}`,
      value: panelText(use),
    }));
  });
  const cables = (s.setup?.studio?.cables ?? []).map((c) => ({
    what: 'Cable',
    value: `${c.from} to ${c.to}`,
  }));
  return { title: 'Hardware', about: s.setup?.name ?? '', rows: [...rows, ...(rows.length ? cables : [])] };
}
function panelText(use: UnitUse): string {
  const at = positionsOf(use);
  return use.unit.panel.map((c) => `${c.label} ${positionText(c, at[c.id])}`).join(', ');
}
function* devicesOf(chain: readonly Slot[]): Generator<Device> {
  for (const slot of chain) {
    if (slot.kind === 'device') yield slot;
    else for (const strand of slot.strands) yield* devicesOf(strand.chain);
  }
}

function printPart(s: Session, nameOf: (id: string) => string): Part {
  // without a plan of its own a session is printed by the first one
  const print = s.print ?? planPrint(s);
  const { file, level, range, marks = [] } = print;
  const ceiling = level.kind === 'as it is' ? '' : `, never over ${level.ceiling} dBTP`;
  const target = level.kind === 'loudness' ? ` of ${level.target} LUFS` : '';
  return {
    title: 'Print',
    about: `${file.format.toUpperCase()}, ${file.bits} bit, ${(file.rate ?? s.sampleRate) / 1000} kHz, level ${level.kind}${target}${ceiling}`,
    rows: [
      ...(print.mix ? [{ what: 'Mix', value: 'everything' }] : []),
      ...print.versions.map((v) => ({
        what: v.name,
        value: `without ${v.muted.map(nameOf).join(', ') || 'nothing'}`,
      })),
      ...print.stems.map((x) => ({ what: x.name, value: `${x.lines.map(nameOf).join(', ')} (${x.depth})` })),
      ...(range ? [{ what: 'Range', value: `${range.from} to ${range.to} s` }] : []),
      ...marks.map((m) => ({ what: `Mark ${m.name}`, value: `${m.at} s` })),
    ],
  };
}

/** What was printed last, as it was measured. */
function figuresPart(figures: readonly SheetFigure[]): Part {
  const text = ({ frames, sampleRate, loudness: x }: SheetFigure) =>
    [
      `${decibels(x.integrated)} LUFS`,
      `range ${x.range.toFixed(1)} LU`,
      `true peak ${decibels(x.truePeak)} dBTP`,
      `${(frames / sampleRate).toFixed(1)} s`,
    ].join(', ');
  return {
    title: 'Levels',
    about: 'of what was printed last',
    rows: figures.map((f) => ({ what: f.title, value: text(f) })),
  };
}
const decibels = (db: number): string => (Number.isFinite(db) ? db.toFixed(1).replace('-', '−') : '−∞');

function originsPart(s: Session): Part {
  const rows = s.tracks.flatMap((t) => [
    ...(t.origin ? [{ what: t.name, value: `“${t.origin.name}”, version ${t.origin.version}` }] : []),
    ...t.chain.flatMap((d) =>
      d.origin
        ? [{ what: `${t.name} · ${d.name}`, value: `“${d.origin.name}”, version ${d.origin.version}` }]
        : [],
    ),
  ]);
  return { title: 'From the shelf', about: 'what came from which preset', rows };
}

/** Text in Markdown: what would be taken for a mark is written as itself. */
const mark = (text: string): string => text.replace(/([\\`*_{}[\]<>#|])/g, '\\$1').replace(/\s*\n\s*/g, ' ');
function markdown({ title, about, parts }: Sheet): string {
  const part = (p: Part) =>
    [
      `## ${mark(p.title)}`,
      ...(p.about ? ['', mark(p.about)] : []),
      '',
      '| what | value |',
      '| --- | --- |',
      ...p.rows.map((r) => `| ${mark(r.what)} | ${mark(r.value)} |`),
    ].join('\n');
  return [`# ${mark(title)}`, '', mark(about), '', parts.map(part).join('\n\n'), ''].join('\n');
}

const csv = ({ parts }: Sheet): string => {
  const rows = parts.flatMap((p) => p.rows.map((r) => [p.title, p.about, r.what.trim(), r.value]));
  return csvText(['part', 'about', 'what', 'value'], rows);
};

const escape = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');
/** Black on white, one page a line, readable without anything beside the file. */
const STYLE = `body{font:15px/1.45 sans-serif;margin:2em;color:#000;background:#fff}
h1{font-size:26px;margin:0}h2{font-size:20px;margin:1.4em 0 0}p{margin:.2em 0 .6em;color:#333}
table{border-collapse:collapse;width:100%}td{border-top:1px solid #999;padding:3px 10px 3px 0;vertical-align:top}
svg{max-width:100%;height:auto;max-height:90vh;margin:0 0 1em}
td:first-child{width:30%;font-weight:600;white-space:pre-wrap}
@media print{body{margin:0}section{break-before:page}section:first-of-type{break-before:auto}tr{break-inside:avoid}}`;
function html({ title, about, parts }: Sheet, map: string): string {
  const row = (r: Row) => `<tr><td>${escape(r.what)}</td><td>${escape(r.value)}</td></tr>`;
  const part = (p: Part) =>
    `<section><h2>${escape(p.title)}</h2><p>${escape(p.about)}</p>${p.isMap ? map : ''}<table>${p.rows.map(row).join('\n')}</table></section>`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escape(title)}, recall sheet</title><style>${STYLE}</style></head>
<body><h1>${escape(title)}</h1><p>${escape(about)}</p>
${parts.map(part).join('\n')}
</body></html>
`;
}
