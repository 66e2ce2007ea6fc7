import { diffPresets, logFrequencies, responseCurve, type Preset } from '../../../core/index.ts';

/** What is further does nothing alike that anybody would call so. */
export const FAR = 0.75;

/** How near something is, in words: what a distance between presets means. */
export function nearText(distance: number): string {
  if (distance === 0) return 'the same sound';
  if (distance <= 0.2) return 'nearly the same';
  if (distance <= 0.5) return 'alike';
  return 'somewhat alike';
}

/** differences that are named */
const NAMED = 2;

/** What differs between two presets, the first of it by name. */
export function differText(a: Preset, b: Preset): string {
  const all = diffPresets(a.content, b.content);
  if (!all.length) return 'nothing in the settings';
  // of one line, its name says nothing
  const line = a.content.tracks.length === 1 ? `${a.content.tracks[0].name} · ` : '';
  const labelOf = (label: string) => (label.startsWith(line) ? label.slice(line.length) : label);
  const named = all.slice(0, NAMED).map((d) => `${labelOf(d.label)}: ${d.from} → ${d.to}`);
  const more = all.length > NAMED ? [`${all.length - NAMED} more`] : [];
  return [...named, ...more].join('; ');
}

const POINTS = 90;
const FREQUENCIES = logFrequencies(POINTS);
const RATE = 48000;
/** dB that the picture reaches, up and down */
const REACH = 18;

/** The response of a preset's first line from 20 Hz to 20 kHz as an SVG path in a box of that size. */
export function responsePath(p: Preset, width: number, height: number): string {
  const chain = p.content.tracks[0]?.chain ?? [];
  const curve = responseCurve(chain, FREQUENCIES, RATE);
  const at = (db: number, i: number) => {
    const held = Math.max(-REACH, Math.min(REACH, db));
    const x = (i / (POINTS - 1)) * width;
    const y = ((REACH - held) / (2 * REACH)) * height;
    return `${x.toFixed(1)} ${y.toFixed(1)}`;
  };
  return `M${Array.from(curve, at).join('L')}`;
}
