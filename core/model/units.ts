import type { ParamSpec } from './param.ts';
import { MIN_LEVEL, type ParamValue } from './types.ts';
import { power } from './power.ts';

/** Straight, dotted and triplet note lengths in quarter notes; id as stored ("1/8d"), label as shown. */
export const NOTES = ['1/1', '1/2', '1/4', '1/8', '1/16', '1/32'].flatMap((n) => {
  const q = 4 / Number(n.slice(2));
  return [
    { id: n, label: n, quarters: q },
    { id: n + 'd', label: n + ' dotted', quarters: q * 1.5 },
    { id: n + 't', label: n + ' triplet', quarters: (q * 2) / 3 },
  ];
});

/** Length of a note value in ms at a tempo in bpm: a quarter is 60000 / bpm, dotted × 1.5, triplet × 2/3. */
export function noteMs(note: string, bpm: number): number {
  const n = NOTES.find((x) => x.id === note);
  if (!n) throw new Error(`There is no note value “${note}”.`);
  return (60000 / bpm) * n.quarters;
}

/**
 * The note value that a time in ms stands for at a tempo, within `tolerance` (a share of the time); straight
 * values first.
 */
export function noteFor(ms: number, bpm: number, tolerance = 0.006): string | null {
  for (const suffix of ['', 'd', 't']) {
    const hit = NOTES.find(
      (n) => n.id.replace(/[\d/]/g, '') === suffix && Math.abs(noteMs(n.id, bpm) / ms - 1) <= tolerance,
    );
    if (hit) return hit.id;
  }
  return null;
}

const MINUS = '−';
const fixed = (v: number, digits: number) =>
  v
    .toFixed(digits)
    .replace(/^-(?=0(\.0*)?$)/, '')
    .replace('-', MINUS);

/** Digits behind the point: three figures in all. */
function digits(n: number): number {
  if (n < 10) return 2;
  return n < 100 ? 1 : 0;
}

const SHA256 = /^[0-9a-f]{64}$/;
/** A text by its name, where it has one; a sound’s sha-256 by its beginning. */
function nameIn(spec: ParamSpec, v: string): string {
  if (SHA256.test(v)) return `own sound ${v.slice(0, 8)}…`;
  return spec.choices?.find((c) => c.id === v)?.label ?? v;
}

/** A value as a person reads it, with its unit: "−24.0 dB", "2.50 kHz", "4.0:1", "1/8 dotted", "∞:1". */
export function formatValue(spec: ParamSpec, v: ParamValue): string {
  if (spec.kind === 'switch') return v ? 'on' : 'off';
  if (spec.kind === 'choice') return spec.choices!.find((c) => c.id === v)?.label ?? String(v);
  if (spec.kind === 'text') return nameIn(spec, String(v));
  const n = v as number;
  switch (spec.unit) {
    case 'dB':
      return (spec.min ?? 0) < 0 ? formatDb(n, spec.min === MIN_LEVEL) : `${fixed(n, 1)} dB`;
    case 'Hz':
      return n >= 1000 ? `${fixed(n / 1000, n >= 10000 ? 1 : 2)} kHz` : `${fixed(n, digits(n))} Hz`;
    case 'ms':
      return n >= 1000 ? `${fixed(n / 1000, 2)} s` : `${fixed(n, digits(n))} ms`;
    case 's':
      return `${fixed(n, 2)} s`;
    case '%':
      return `${fixed(n, 0)} %`;
    case ':1':
      return n >= 100 ? '∞:1' : `${fixed(n, n < 10 ? 1 : 0)}:1`;
    case 'pan':
      return formatPan(n);
    case 'Q':
      return fixed(n, 2);
    case 'st':
    case 'ct':
      return `${n > 0 ? '+' : ''}${fixed(n, 0)} ${spec.unit}`;
    default:
      return String(Number(n.toFixed(2))).replace('-', MINUS) + (spec.unit ? ' ' + spec.unit : '');
  }
}

/** A level in dB; MIN_LEVEL and below read as −∞ where `silence` is possible. */
export const formatDb = (n: number, silence = true): string =>
  silence && n <= MIN_LEVEL ? `${MINUS}∞ dB` : `${n > 0 ? '+' : ''}${fixed(n, 1)} dB`;
export const formatPan = (n: number): string =>
  Math.round(n) === 0 ? 'C' : `${Math.abs(Math.round(n))} ${n < 0 ? 'L' : 'R'}`;

/**
 * Reads what a person types: units in any case and spacing ("2k", "1.5 khz", "250 ms", "0.2s"), a true minus
 * sign, "inf", "4:1" and "inf:1" for ratios,
 * "1:20" for a ratio written the other way round, "L20" or "20 R" for a pan, a choice's label or id ("1/8
 * dotted", "1/8d").
 * @returns the value inside the range, or an error sentence that says what is possible
 */
export function parseValue(spec: ParamSpec, typed: string): { value: ParamValue } | { error: string } {
  const t = typed
    .trim()
    .toLowerCase()
    .replace(/[−–]/g, '-')
    .replace(/,(?=\d)/g, '.');
  if (spec.kind === 'switch') {
    if (['on', 'yes', 'true', '1'].includes(t)) return { value: true };
    if (['off', 'no', 'false', '0'].includes(t)) return { value: false };
    return { error: `${spec.label}: type on or off.` };
  }
  if (spec.kind === 'choice') {
    const plain = (x: string) =>
      x
        .toLowerCase()
        .replace(/[\s.-]/g, '')
        .replace(/dotted/, 'd')
        .replace(/triplet/, 't');
    const hit =
      spec.choices!.find((c) => plain(c.id) === plain(t) || plain(c.label) === plain(t)) ??
      (t.length > 1 ? spec.choices!.find((c) => plain(c.label).startsWith(plain(t))) : undefined);
    return hit
      ? { value: hit.id }
      : { error: `${spec.label} is one of ${spec.choices!.map((c) => c.label).join(', ')}.` };
  }
  if (spec.kind === 'text') {
    const named = spec.choices?.find((c) => c.label === typed.trim());
    return typed.trim() && typed.trim().length <= 80
      ? { value: named?.id ?? typed.trim() }
      : { error: `${spec.label} is a text of 1 to 80 characters.` };
  }
  const n = readNumber(spec, t);
  if (n === null) {
    const unit = spec.unit ? ` in ${unitWord(spec)}` : '';
    const hint = `Type a number${unit}, such as ${formatValue(spec, spec.default)}.`;
    return { error: `${spec.label}: “${typed.trim()}” is not a value. ${hint}` };
  }
  if (n < spec.min! || n > spec.max!) {
    const range = `from ${formatValue(spec, spec.min!)} to ${formatValue(spec, spec.max!)}`;
    return { error: `${spec.label} goes ${range}; ${formatValue({ ...spec, min: -1e9 }, n)} is outside.` };
  }
  return { value: n };
}

const unitWord = (s: ParamSpec) => {
  if (s.unit === ':1') return 'n:1';
  if (s.unit === 'pan') return 'L or R';
  return s.unit;
};

function readNumber(spec: ParamSpec, t: string): number | null {
  if (spec.unit === ':1') {
    if (/^(inf|infinity|∞)(\s*:\s*1)?$/.test(t)) return 100;
    const m = /^(\d+(?:\.\d+)?)(?:\s*:\s*(\d+(?:\.\d+)?))?$/.exec(t);
    if (!m) return null;
    const [a, b] = [Number(m[1]), Number(m[2] ?? 1)];
    if (b === 0 || a === 0) return null;
    if (a < b) return b / a;
    return a / b;
  }
  if (spec.unit === 'pan') {
    if (/^(c|centre|center|0)$/.test(t)) return 0;
    const m = /^(?:(l|r)\s*)?(-?\d+(?:\.\d+)?)\s*(l|r)?$/.exec(t);
    if (!m) return null;
    const side = m[1] ?? m[3];
    return side ? (side === 'l' ? -1 : 1) * Math.abs(Number(m[2])) : Number(m[2]);
  }
  if (spec.unit === 'dB' && /^-?\s*(inf|infinity|∞|off)(\s*db)?$/.test(t)) {
    return spec.min === MIN_LEVEL ? MIN_LEVEL : null;
  }
  const m = /^(?:q\s*)?([+-]?(?:\d+\.?\d*|\.\d+))\s*(k|khz|hz|ms|s|sec|db|%|q|ct|st|x)?$/.exec(t);
  if (!m) return null;
  const n = Number(m[1]);
  const u = m[2] ?? '';
  const scale: Record<string, Record<string, number>> = {
    Hz: { '': 1, hz: 1, k: 1000, khz: 1000 },
    ms: { '': 1, ms: 1, s: 1000, sec: 1000 },
    s: { '': 1, s: 1, sec: 1, ms: 0.001 },
    dB: { '': 1, db: 1 },
    '%': { '': 1, '%': 1 },
    Q: { '': 1, q: 1 },
  };
  const factor = (scale[spec.unit ?? ''] ?? { '': 1, [spec.unit ?? '']: 1 })[u];
  return factor === undefined ? null : n * factor;
}

/**
 * Position 0…1 of a value on its slider, by its taper; the inverse is fromPosition. What lies under −60 dB of
 * a level has the lowest fiftieth of the way, straight in dB.
 */
export function toPosition(spec: ParamSpec, v: number): number {
  const [a, b] = [spec.min!, spec.max!];
  if (spec.taper === 'log') return Math.log(Math.max(v, a) / a) / Math.log(b / a);
  if (spec.taper === 'level') {
    if (v < -60) return Math.max(0, ((v - a) / (-60 - a)) * 0.02);
    return Math.min(1, 0.02 + 0.98 * power((v + 60) / (b + 60), 1.8));
  }
  if (spec.taper === 'square') return Math.sqrt((v - a) / (b - a));
  return (v - a) / (b - a);
}

export function fromPosition(spec: ParamSpec, p: number): number {
  const [a, b] = [spec.min!, spec.max!];
  const q = Math.min(1, Math.max(0, p));
  if (spec.taper === 'log') return a * power(b / a, q);
  if (spec.taper === 'level') {
    if (q < 0.02) return a + ((-60 - a) * q) / 0.02;
    return -60 + (b + 60) * power((q - 0.02) / 0.98, 1 / 1.8);
  }
  if (spec.taper === 'square') return a + (b - a) * q * q;
  return a + (b - a) * q;
}

/** A value snapped to the number of digits that is shown, so that dragging gives tidy numbers. */
export function tidy(spec: ParamSpec, v: number): number {
  const step = stepAt(spec, v);
  const r = Math.round(v / step) * step;
  return Math.min(spec.max!, Math.max(spec.min!, Number(r.toFixed(6))));
}

/** The step in which a value is set at its place: about three figures for frequencies and times. */
function stepAt(spec: ParamSpec, v: number): number {
  if (spec.unit !== 'Hz' && spec.unit !== 'ms') return spec.step ?? 0.01;
  const coarsest = spec.unit === 'Hz' ? [1000, 100, 10] : [Infinity, 100, 10];
  const place = coarsest.findIndex((from) => v >= from);
  return [10, 1, 0.1, 0.01][place < 0 ? 3 : place];
}
