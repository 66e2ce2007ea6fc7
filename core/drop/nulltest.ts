import { render } from '../engine/render.ts';
import type { Sound } from '../engine/node.ts';
import { createSession, masterOf, trackOf } from '../model/create.ts';
import { clone } from '../model/json.ts';
import { findSlot, mapDevices } from '../model/slots.ts';
import type { Preset, Session, Slot, Track } from '../model/types.ts';
import type { DropPlan } from './plan.ts';

export interface NullResult {
  /** dB below the preset's own sound; −Infinity when every sample is equal */
  residual: number;
  /** dBFS RMS of the preset's own sound, to show that something was compared */
  reference: number;
  seconds: number;
}

/** Three seconds of a repeatable signal that moves every device: noise bursts of rising level over a sweep. */
export function testSignal(sampleRate: number, seconds = 3): Sound {
  const n = Math.round(sampleRate * seconds);
  const l = new Float32Array(n), r = new Float32Array(n);
  let s = 0x1234567;
  const noise = () => { s = (Math.imul(s, 1664525) + 1013904223) >>> 0; return s / 2147483648 - 1; };
  let phase = 0;
  for (let i = 0; i < n; i++) {
    const t = i / sampleRate;
    phase += (2 * Math.PI * 60 * Math.pow(150, t / seconds)) / sampleRate;
    const burst = t % 0.25 < 0.06 ? Math.pow(10, (-30 + (24 * t) / seconds) / 20) : 0;
    l[i] = 0.2 * Math.sin(phase) + burst * noise();
    r[i] = 0.2 * Math.sin(phase + 0.4) + burst * noise();
  }
  return { l, r };
}

/**
 * Renders the preset alone, as it was saved, and the dropped line inside the session, from the same signal, and compares the line's output after its fader. Values that were adapted are
 * different sound and show as a residual in dB; with nothing adapted the two are equal sample for sample.
 * Rig presets compare their first track. Both renders use the session's sample rate.
 */
export async function nullTest(session: Session, preset: Preset, plan: DropPlan, options: { seconds?: number; onProgress?: (share: number) => void; signal?: AbortSignal } = {}): Promise<NullResult> {
  const seconds = options.seconds ?? 3;
  const signal = testSignal(session.sampleRate, seconds);
  const local = preset.content.tracks[0];
  const dropped = trackOf(session, plan.ids[local.id]);
  if (!dropped) throw new Error('The dropped line is not in the session any more.');
  const clip = (id: string) => [{ id, media: 'null-test', start: 0, offset: 0, length: seconds, gain: 0 }];
  const media = [{ id: 'null-test', name: 'test signal', sampleRate: session.sampleRate, channels: 2 as const, frames: signal.l.length }];

  const bare = createSession({ sampleRate: session.sampleRate, tempo: preset.reference.tempo, panLaw: session.panLaw, media });
  const alone: Track = { ...clone(local), role: 'audio', folder: null, input: { kind: 'none' }, sends: [], mute: false, solo: false, state: 'on', clips: clip('n1'), output: { kind: 'track', track: masterOf(bare).id } };
  alone.chain = ownKeys(alone.chain);
  // on an existing line only the chosen parts are the preset's: the rest of the line plays the same role in both renders
  const has = (p: Preset['content']['parts'][number]) => plan.place.kind === 'new' ? preset.content.parts.includes(p) : plan.parts.includes(p);
  if (!has('level')) Object.assign(alone, { level: dropped.level, polarity: dropped.polarity });
  if (!has('pan')) alone.pan = dropped.pan;
  alone.channels = dropped.channels;
  // what was dropped may stand inside a strand: it is found by id, wherever it is
  const kept = local.chain.flatMap((x) => findSlot(dropped.chain, plan.ids[x.id]) ?? []);
  bare.tracks = [alone, ...bare.tracks];

  const inside: Session = {
    ...session, media: [...session.media, ...media],
    tracks: session.tracks.map((t) => (t.id === dropped.id
      ? { ...t, clips: clip('n2'), mute: false, solo: false, state: 'on' as const, input: { kind: 'none' as const }, chain: ownKeys(kept) }
      : { ...t, solo: false, clips: [], output: t.output.kind === 'track' && t.output.track === dropped.id ? { kind: 'none' as const } : t.output })),
  };
  const sounds = new Map([['null-test', signal]]);
  const half = (from: number) => (share: number) => options.onProgress?.(from + share / 2);
  const a = (await render(bare, { sounds, to: seconds, taps: [alone.id], onProgress: half(0), signal: options.signal }))[alone.id];
  const b = (await render(inside, { sounds, to: seconds, taps: [dropped.id], onProgress: half(0.5), signal: options.signal }))[dropped.id];
  let diff = 0, ref = 0;
  for (let c = 0; c < 2; c++) for (let i = 0; i < a[c].length; i++) { ref += a[c][i] ** 2; diff += (a[c][i] - b[c][i]) ** 2; }
  options.onProgress?.(1);
  return { residual: diff === 0 ? -Infinity : 10 * Math.log10(diff / Math.max(ref, 1e-30)), reference: 10 * Math.log10(Math.max(ref / (2 * a[0].length), 1e-30)), seconds };
}

/** Keys come from other lines, which are not part of the comparison. */
const ownKeys = (chain: Slot[]): Slot[] => mapDevices(chain, (d) => ({ ...d, key: { kind: 'own' } }));
