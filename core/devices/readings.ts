import { NOTE_NAMES } from './notes.ts';

/** A live figure in words with its unit, by the label that the device gives it. */
export function readingText(label: string, v: number): string {
  const minus = (t: string) => (/^-0\.?0*( |$)/.test(t) ? t.slice(1) : t).replace('-', '−');
  if (label === 'sung' || label === 'played') return v > 0 ? noteName(v) : '—';
  if (label === 'cents') return minus(`${v >= 0 ? '+' : ''}${v.toFixed(0)} ct`);
  if (label === 'correlation') return minus(`${v >= 0 ? '+' : ''}${v.toFixed(2)}`);
  if (v <= -150) return '−∞';
  if (['momentary', 'short-term', 'integrated'].includes(label)) return minus(`${v.toFixed(1)} LUFS`);
  if (label === 'true peak') return minus(`${v.toFixed(1)} dBTP`);
  return minus(`${v.toFixed(1)} dB${label.startsWith('peak') ? 'FS' : ''}`);
}

/** A pitch in fractional MIDI numbers as a note name with cents: 69 → A4. */
export function noteName(pitch: number): string {
  const n = Math.round(pitch);
  const ct = Math.round((pitch - n) * 100);
  return `${NOTE_NAMES[((n % 12) + 12) % 12].split('/')[0]}${Math.floor(n / 12) - 1}${ct ? (ct > 0 ? ' +' : ' −') + Math.abs(ct) : ''}`;
}
