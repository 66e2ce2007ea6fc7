import type { PatternLayer } from '../instrument-type.ts';
import type { Params } from '../../model/types.ts';

/** What a picture is drawn with: the part of a canvas's 2D context that pictures need; sizes in CSS pixels. */
export interface Pen {
  font: string;
  lineWidth: number;
  globalAlpha: number;
  strokeStyle: unknown;
  fillStyle: unknown;
  beginPath(): void;
  closePath(): void;
  moveTo(x: number, y: number): void;
  lineTo(x: number, y: number): void;
  arc(x: number, y: number, radius: number, from: number, to: number): void;
  bezierCurveTo(x1: number, y1: number, x2: number, y2: number, x: number, y: number): void;
  stroke(): void;
  fill(): void;
  fillRect(x: number, y: number, w: number, h: number): void;
  strokeRect(x: number, y: number, w: number, h: number): void;
  fillText(text: string, x: number, y: number, maxWidth?: number): void;
  setLineDash(segments: number[]): void;
}

/** A device as its pictures see it. */
export interface Pictured {
  params: Params;
  /** bpm */
  tempo: number;
  /** Hz */
  sampleRate: number;
  /** steady level out (dB) for a steady level in (dB), of a device that has such a curve */
  curve(level: number): number;
  /** gain in dB at a frequency in Hz, of a linear device */
  gain(f: number): number;
  /** parts of an instrument: where each goes out */
  parts(): { kind: 'part' | 'mic'; out: string }[];
  /** layers of a pattern */
  layers(): PatternLayer[];
  /** a value that is one of several, in words */
  word(param: string): string;
}

/** What is live while a picture is looked at. */
export interface PictureView extends Pictured {
  playing: boolean;
  /** dB, the detector's level and the gain reduction, smoothed for the eye */
  level: number;
  reduction: number;
  /** the device's own figures, in the order of its `readings` */
  readings: ArrayLike<number> | null | undefined;
  /** a colour of the theme by its name */
  colour(name: string): string;
  /** the spectrum before and after the device */
  spectrum(w: number, h: number): void;
  /** what a picture keeps from one frame to the next */
  memory: { trace?: [number, number][] };
}

/** An SVG path, and an area under it. */
export interface Shape {
  line: string;
  fill?: string;
}

/** How the interface draws a device: small on its line, and large in its panel. */
export interface Picture {
  /** what the large one shows, for people who hear it read; empty when there is none */
  name: string;
  /** the spectrum is part of it already */
  overSpectrum?: boolean;
  /** the small one: a path in a box of w × h */
  shape(d: Pictured, w: number, h: number): Shape;
  /** the large one, about 30 times a second */
  draw?(g: Pen, v: PictureView, w: number, h: number): void;
}

export const num = (v: Pictured, id: string): number => v.params[id] as number;
/** A figure with a true minus sign. */
export const minus = (t: string | number): string => String(t).replace('-', '−');
export const at = (x: number): string => x.toFixed(1);
/** A path through points. */
export const through = (points: [number, number][]): string =>
  'M' + points.map(([x, y]) => `${at(x)} ${at(y)}`).join('L');

const FONT = '"Source Sans 3 Variable", sans-serif';
export const small = `10px ${FONT}`;
export const medium = `11px ${FONT}`;
export const large = `12px ${FONT}`;

/** Lines across with their words: places in px. */
export function grid(
  g: Pen,
  v: PictureView,
  w: number,
  h: number,
  xs: [number, string][],
  ys: [number, string][],
): void {
  g.font = small;
  g.lineWidth = 1;
  g.strokeStyle = v.colour('rule');
  g.fillStyle = v.colour('soft');
  for (const [px, t] of xs) {
    line(g, px, 0, px, h);
    g.fillText(t, px + 2, h - 3);
  }
  for (const [py, t] of ys) {
    line(g, 0, py, w, py);
    g.fillText(t, 2, py - 2);
  }
}

export function line(g: Pen, x1: number, y1: number, x2: number, y2: number): void {
  g.beginPath();
  g.moveTo(x1, y1);
  g.lineTo(x2, y2);
  g.stroke();
}

export function dot(g: Pen, x: number, y: number, radius: number): void {
  g.beginPath();
  g.arc(x, y, radius, 0, 7);
  g.fill();
}

/** Ends of the frequency axis in Hz. */
export const LOW = 20;
export const HIGH = 20000;
/** Place of a frequency on an axis of w px. */
export const xOf = (f: number, w: number): number => (Math.log(f / LOW) / Math.log(HIGH / LOW)) * w;

/** Lines and numbers of the frequency axis. */
export function frequencyGrid(g: Pen, colour: (name: string) => string, w: number, h: number): void {
  g.font = small;
  g.lineWidth = 1;
  for (const f of [50, 100, 200, 500, 1000, 2000, 5000, 10000]) {
    const x = xOf(f, w);
    g.strokeStyle = colour('rule');
    line(g, x, 0, x, h);
    g.fillStyle = colour('soft');
    g.fillText(f >= 1000 ? f / 1000 + 'k' : String(f), x + 2, h - 3);
  }
}

/** Gain reduction as a bar at the right edge, 24 dB high, with its number. */
export function reductionBar(g: Pen, v: PictureView, w: number, h: number): void {
  g.fillStyle = v.colour('rule');
  g.fillRect(w - 34, 14, 14, h - 32);
  g.fillStyle = v.colour('warn');
  g.fillRect(w - 34, 14, 14, Math.min(1, -v.reduction / 24) * (h - 32));
  g.fillStyle = v.colour('soft');
  g.fillText('GR', w - 34, 10);
  g.fillText(minus(v.reduction.toFixed(1)), w - 38, h - 5);
}
