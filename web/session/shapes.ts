import { DEVICE_TYPES, logFrequencies, responseCurve, type Device } from '../../core/index.ts';
import { staticCurve } from '../../core/devices/compressor.ts';
import { delayMs } from '../../core/devices/delay.ts';

const FREQS = logFrequencies(40);

/** A device's character as an SVG path in a box of w × h: what the tile on the line shows. */
export function shapeOf(d: Device, w: number, h: number, sampleRate: number, tempo: number): { line: string; fill?: string } {
  const on: Device = { ...d, state: 'on' };
  switch (DEVICE_TYPES[d.type].picture) {
    case 'response': {
      const y = (v: number) => h / 2 - Math.max(-1, Math.min(1, v / 15)) * (h / 2 - 1);
      const pts = Array.from(responseCurve([on], FREQS, sampleRate), (v, i) => `${((i / 39) * w).toFixed(1)} ${y(v).toFixed(1)}`);
      return { line: 'M' + pts.join('L'), fill: `M0 ${h / 2}L${pts.join('L')}L${w} ${h / 2}Z` };
    }
    case 'transfer': {
      const x = (v: number) => ((v + 60) / 60) * w, y = (v: number) => h - 1 - ((v + 60) / 60) * (h - 2);
      const pts = Array.from({ length: 31 }, (_, i) => -60 + i * 2).map((v) => `${x(v).toFixed(1)} ${y(staticCurve(v, d.params)).toFixed(1)}`);
      return { line: 'M' + pts.join('L') };
    }
    case 'taps': {
      const ms = delayMs(d.params, tempo), fb = (d.params.feedback as number) / 100;
      const span = Math.max(600, ms * 4);
      const taps = Array.from({ length: 8 }, (_, i) => ({ x: ((ms * (i + 1)) / span) * w, g: Math.pow(fb, i) })).filter((t) => t.x < w && t.g > 0.03);
      return { line: [{ x: 1, g: 1 }, ...taps].map((t) => `M${t.x.toFixed(1)} ${h - 1}V${(h - 1 - t.g * (h - 3)).toFixed(1)}`).join('') };
    }
    case 'decay': {
      const rt = d.params.decay as number, pre = (d.params.preDelay as number) / 1000, span = 4;
      const pts = Array.from({ length: 24 }, (_, i) => (i / 23) * span).map((t) => `${((t / span) * w).toFixed(1)} ${(h - 1 - (t < pre ? 0 : Math.pow(10, (-2 * (t - pre)) / rt)) * (h - 3)).toFixed(1)}`);
      return { line: 'M' + pts.join('L'), fill: `M0 ${h}L${pts.join('L')}L${w} ${h}Z` };
    }
    case 'level': {
      const g = (d.params.gain as number) / 36;
      const y = h / 2 - g * (h / 2 - 2);
      return { line: `M2 ${h / 2}H${w / 2 - 4}L${w / 2 + 4} ${y.toFixed(1)}H${w - 2}` };
    }
    default: return { line: `M4 ${h / 2}H${w - 4}` };
  }
}

/** The state in words, for screen readers and titles. */
export const stateWord: Record<Device['state'], string> = { on: 'on', bypassed: 'bypassed', inactive: 'inactive' };
