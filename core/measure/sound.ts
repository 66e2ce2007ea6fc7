import { integratedLoudness } from './loudness.ts';
import { measureKey, measureTempo, type Key, type Tempo } from './music.ts';
import { measureTake } from './takes.ts';
import { truePeak } from './truepeak.ts';

/**
 * What can be told of a sound by measuring it. Levels in dBFS, true peak in dBTP, loudness in LUFS; crest is
 * sample peak over RMS in dB.
 */
export interface SoundFigures {
  peak: number;
  truePeak: number;
  rms: number;
  crest: number;
  loudness: number;
  floor: number | null;
  tempo: Tempo | null;
  key: Key | null;
}

/** Measures a stretch of sound: levels, loudness (BS.1770), noise between phrases, tempo and key. */
export function measureSound(l: Float32Array, r: Float32Array, sampleRate: number): SoundFigures {
  const mono = new Float32Array(l.length);
  let top = 0;
  let sum = 0;
  for (let i = 0; i < l.length; i++) {
    mono[i] = 0.5 * (l[i] + r[i]);
    top = Math.max(top, Math.abs(l[i]), Math.abs(r[i]));
    sum += l[i] * l[i] + r[i] * r[i];
  }
  const db = (x: number) => (x > 0 ? 20 * Math.log10(x) : -200);
  const peak = db(top);
  const rms = db(Math.sqrt(sum / (2 * Math.max(1, l.length))));
  return {
    peak,
    truePeak: truePeak([l, r], sampleRate),
    rms,
    crest: peak - rms,
    loudness: integratedLoudness([l, r], sampleRate),
    floor: measureTake(l, r, 0, l.length, sampleRate).floor,
    tempo: measureTempo(mono, sampleRate),
    key: measureKey(mono, sampleRate),
  };
}
