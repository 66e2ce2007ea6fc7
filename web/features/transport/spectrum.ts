import { Spectrum, logFrequencies } from '../../../core/index.ts';
import { useAudio } from './store.ts';
import { themeColour } from '../../ui/frame.ts';

const LOW = 20;
const HIGH = 20000;
const POINTS = 220;
export const FREQS = logFrequencies(POINTS);

/**
 * The spectrum before (dotted) and after (filled) the watched device, smoothed for the eye; call `draw` once
 * a frame. −96 to 0 dBFS over the height, 20 Hz to 20 kHz over the width.
 */
export function useSpectrum(sampleRate: () => number) {
  const audio = useAudio();
  const spectrum = new Spectrum(4096);
  const smooth = [new Float64Array(POINTS).fill(-120), new Float64Array(POINTS).fill(-120)];
  function fold(ring: Float32Array | null, into: Float64Array) {
    const bins = ring ? spectrum.analyse(ring, 0) : null;
    const step = Math.pow(HIGH / LOW, 0.5 / (POINTS - 1));
    for (let i = 0; i < POINTS; i++) {
      let top = -120;
      if (bins) {
        const from = Math.floor((FREQS[i] / step / sampleRate()) * 4096);
        const to = Math.max(from + 1, Math.ceil(((FREQS[i] * step) / sampleRate()) * 4096));
        for (let k = from; k < to && k < bins.length; k++) top = Math.max(top, bins[k]);
      }
      into[i] += (top > into[i] ? 0.5 : 0.08) * (top - into[i]);
    }
  }
  function draw(g: CanvasRenderingContext2D, w: number, h: number) {
    fold(audio.scope.before, smooth[0]);
    fold(audio.scope.after, smooth[1]);
    smooth.forEach((s, k) => {
      g.beginPath();
      for (let i = 0; i < POINTS; i++) {
        const px = (i / (POINTS - 1)) * w;
        const py = h - Math.max(0, (s[i] + 96) / 96) * h;
        if (i === 0) g.moveTo(px, py);
        else g.lineTo(px, py);
      }
      if (k === 1) {
        g.lineTo(w, h);
        g.lineTo(0, h);
        g.fillStyle = themeColour('spectrum');
        g.fill();
      } else {
        g.lineWidth = 1;
        g.strokeStyle = themeColour('edge');
        g.setLineDash([2, 3]);
        g.stroke();
        g.setLineDash([]);
      }
    });
  }
  return { draw };
}
