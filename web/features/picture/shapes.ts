import {
  DEVICE_TYPES,
  logFrequencies,
  responseCurve,
  type Device,
  type Rack,
  type Slot,
} from '../../../core/index.ts';
import { voiceOf } from '../../../core/devices/doubler.ts';
import { corners } from '../../../core/devices/multiband.ts';
import { delayMs } from '../../../core/devices/delay.ts';

const FREQS = logFrequencies(40);

/** A device's character as an SVG path in a box of w × h: what the tile on the line shows. */
export function shapeOf(
  d: Slot,
  w: number,
  h: number,
  sampleRate: number,
  tempo: number,
): { line: string; fill?: string } {
  if (d.kind === 'rack') return rackShape(d, w, h);
  const on: Device = { ...d, state: 'on' };
  const p = (k: string) => d.params[k] as number;
  switch (DEVICE_TYPES[d.type].picture) {
    case 'response': {
      const y = (v: number) => h / 2 - Math.max(-1, Math.min(1, v / 15)) * (h / 2 - 1);
      const pts = Array.from(
        responseCurve([on], FREQS, sampleRate),
        (v, i) => `${((i / 39) * w).toFixed(1)} ${y(v).toFixed(1)}`,
      );
      return { line: 'M' + pts.join('L'), fill: `M0 ${h / 2}L${pts.join('L')}L${w} ${h / 2}Z` };
    }
    case 'transfer': {
      const x = (v: number) => ((v + 60) / 60) * w;
      const y = (v: number) => h - 1 - ((v + 60) / 60) * (h - 2);
      const pts = Array.from({ length: 31 }, (_, i) => -60 + i * 2).map(
        (v) =>
          `${x(v).toFixed(1)} ${y(Math.max(-62, Math.min(0, DEVICE_TYPES[d.type].curve!(v, d.params)))).toFixed(1)}`,
      );
      return { line: 'M' + pts.join('L') };
    }
    case 'taps': {
      const ms = delayMs(d.params, tempo);
      const fb = (d.params.feedback as number) / 100;
      const span = Math.max(600, ms * 4);
      const taps = Array.from({ length: 8 }, (_, i) => ({
        x: ((ms * (i + 1)) / span) * w,
        g: Math.pow(fb, i),
      })).filter((t) => t.x < w && t.g > 0.03);
      return {
        line: [{ x: 1, g: 1 }, ...taps]
          .map((t) => `M${t.x.toFixed(1)} ${h - 1}V${(h - 1 - t.g * (h - 3)).toFixed(1)}`)
          .join(''),
      };
    }
    case 'decay': {
      const rt = d.params.decay as number;
      const pre = (d.params.preDelay as number) / 1000;
      const span = 4;
      const pts = Array.from({ length: 24 }, (_, i) => (i / 23) * span).map(
        (t) =>
          `${((t / span) * w).toFixed(1)} ${(h - 1 - (t < pre ? 0 : Math.pow(10, (-2 * (t - pre)) / rt)) * (h - 3)).toFixed(1)}`,
      );
      return { line: 'M' + pts.join('L'), fill: `M0 ${h}L${pts.join('L')}L${w} ${h}Z` };
    }
    case 'level': {
      const g = (d.params.gain as number) / 36;
      const y = h / 2 - g * (h / 2 - 2);
      return { line: `M2 ${h / 2}H${w / 2 - 4}L${w / 2 + 4} ${y.toFixed(1)}H${w - 2}` };
    }
    case 'bands': {
      const fr = corners(d.params, sampleRate);
      const n = fr.length + 1;
      const x = (f: number) => (Math.log(f / 20) / Math.log(1000)) * w;
      const edges = [0, ...fr.map(x), w];
      return {
        line: Array.from(
          { length: n },
          (_, i) =>
            `M${(edges[i] + 1).toFixed(1)} ${h - 1}V${(h * 0.3).toFixed(1)}Q${((edges[i] + edges[i + 1]) / 2).toFixed(1)} ${(h * 0.05).toFixed(1)} ${(edges[i + 1] - 1).toFixed(1)} ${(h * 0.3).toFixed(1)}V${h - 1}`,
        ).join(''),
      };
    }
    case 'sibilance': {
      const x = (Math.log(p('frequency') / 500) / Math.log(40)) * w;
      const drop = (-p('range') / 24) * (h - 6);
      return {
        line: `M1 4H${Math.max(2, x - 6).toFixed(1)}C${x.toFixed(1)} 4 ${x.toFixed(1)} ${(4 + drop).toFixed(1)} ${Math.min(w - 2, x + 6).toFixed(1)} ${(4 + drop).toFixed(1)}H${w - 1}`,
      };
    }
    case 'voices': {
      if (d.type === 'chorus') {
        const a = Math.min(1, p('depth') / 8) * (h / 2 - 2) + 1;
        return {
          line:
            'M' +
            Array.from(
              { length: 25 },
              (_, i) =>
                `${((i / 24) * w).toFixed(1)} ${(h / 2 + a * Math.sin((i / 24) * Math.PI * 4)).toFixed(1)}`,
            ).join('L'),
        };
      }
      const vs = Array.from({ length: Number(d.params.voices) }, (_, k) => voiceOf(d.params, k));
      return {
        line:
          `M${w / 2} ${h - 1}V${h * 0.35}` +
          vs
            .map(
              (v) =>
                `M${(w / 2 + v.place * (w / 2 - 3)).toFixed(1)} ${h - 1}V${(h * 0.15 + (v.ms / 100) * h * 0.5).toFixed(1)}`,
            )
            .join(''),
      };
    }
    case 'field': {
      const s = Math.min(1, p('width') / 200) * (w / 2 - 2);
      return {
        line: `M${w / 2} ${h - 1}L${(w / 2 - s).toFixed(1)} 3M${w / 2} ${h - 1}L${(w / 2 + s).toFixed(1)} 3M${(w / 2 - s).toFixed(1)} 3H${(w / 2 + s).toFixed(1)}`,
      };
    }
    case 'note': {
      const up = d.type === 'pitchshift' ? (p('semitones') + p('cents') / 100) / 12 : 0;
      const y = h / 2 - up * (h / 2 - 3);
      return {
        line:
          d.type === 'pitchshift'
            ? `M2 ${h / 2}H${w / 2 - 4}L${w / 2 + 4} ${y.toFixed(1)}H${w - 2}`
            : `M2 ${h * 0.75}Q${w * 0.2} ${h * 0.2} ${w * 0.35} ${h / 2}T${w * 0.6} ${h / 2}H${w - 2}`,
      };
    }
    case 'loop':
      return {
        line: `M2 ${h / 2}H${w * 0.3}V${h - 2}H${w * 0.7}V${h / 2}H${w - 2}M${w * 0.45} ${h - 5}L${w * 0.52} ${h - 2}L${w * 0.45} ${h + 1}`,
      };
    case 'pads': {
      const parts = DEVICE_TYPES[d.type].instrument!.parts(d.params).filter((x) => x.kind === 'part');
      const n = Math.min(16, parts.length);
      const cols = Math.min(n, Math.max(1, Math.floor(w / 8)));
      const rows = Math.max(1, Math.ceil(n / cols));
      const s = Math.min(w / cols, h / rows);
      return {
        line: parts
          .slice(0, n)
          .map((x, i) => {
            const px = (i % cols) * (w / cols) + 1;
            const py = Math.floor(i / cols) * (h / rows) + 1;
            return `M${px.toFixed(1)} ${py.toFixed(1)}h${(s - 3).toFixed(1)}v${(s - 3).toFixed(1)}h${(3 - s).toFixed(1)}Z${x.out === 'main' ? '' : `M${px.toFixed(1)} ${(py + s - 3).toFixed(1)}l${(s - 3).toFixed(1)} ${(3 - s).toFixed(1)}`}`;
          })
          .join(''),
      };
    }
    case 'steps': {
      const layers = DEVICE_TYPES[d.type].pattern!(d.params);
      const cell = w / 16;
      const row = h / Math.max(1, layers.length);
      return {
        line:
          layers
            .flatMap((l, k) =>
              Array.from({ length: 16 }, (_, i) =>
                l.steps.length && l.steps[i % l.steps.length] > 0
                  ? `M${(i * cell + 0.5).toFixed(1)} ${(k * row + row / 2).toFixed(1)}h${Math.max(1, cell - 1).toFixed(1)}`
                  : '',
              ),
            )
            .join('') || `M2 ${h / 2}H${w - 2}`,
      };
    }
    case 'meter':
      return {
        line: [0.3, 0.7, 0.5, 0.9, 0.6]
          .map((g, i) => `M${((i + 0.7) * w) / 5.4} ${h - 1}V${h - 1 - g * (h - 4)}`)
          .join(''),
      };
    default:
      return { line: `M4 ${h / 2}H${w - 4}` };
  }
}

/** A closed rack: its strands split and rejoin. */
function rackShape(r: Rack, w: number, h: number): { line: string } {
  const n = r.strands.length;
  if (n === 1) {
    return {
      line: `M1 ${h / 2}H${w * 0.2}M${w * 0.2} ${h * 0.2}H${w * 0.8}V${h * 0.8}H${w * 0.2}ZM${w * 0.8} ${h / 2}H${w - 1}`,
    };
  }
  return {
    line: r.strands
      .map((_, i) => {
        const y = 2 + ((h - 4) * i) / (n - 1);
        return `M1 ${h / 2}C${w * 0.2} ${h / 2} ${w * 0.12} ${y} ${w * 0.3} ${y}H${w * 0.7}C${w * 0.88} ${y} ${w * 0.8} ${h / 2} ${w - 1} ${h / 2}`;
      })
      .join(''),
  };
}

/** Types whose tile shows gain reduction. */
export const REDUCING = new Set([
  'compressor',
  'gate',
  'deesser',
  'limiter',
  'multiband',
  'clipper',
  'saturator',
  'outboard',
]);

/** The state in words, for screen readers and titles. */
export const stateWord: Record<Device['state'], string> = {
  on: 'on',
  bypassed: 'bypassed',
  inactive: 'inactive',
};
