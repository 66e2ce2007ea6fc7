import { DEVICE_TYPES, playedAs } from '../devices/index.ts';
import { outPlace, type InstrumentProcessor, HIT } from '../devices/instrument.ts';
import { mapDevices } from '../session/slots.ts';
import type { Id, Params, Session } from '../model/types.ts';
import { instrumentAt } from './layout.ts';

const { abs, ceil, log10, max, min, round } = Math;

export interface OutputLevel {
  pair: number;
  parts: string[];
  /** dBFS before this */ peak: number;
  trim: number;
  was: number;
}

/**
 * A good level before the faders: well under full scale, far above the noise (common practice: peaks at −12
 * dBFS).
 */
export const WORKING_LEVEL = -12;

/**
 * Plays every part once as hard as it goes and works out the trim that brings each output's peak to a working
 * level. Outputs that nothing comes out of keep their trim.
 * @returns one row for each output in use, dB
 */
export function measureOutputs(session: Session, slot: Id, target = WORKING_LEVEL): OutputLevel[] {
  const i = instrumentAt(session, slot);
  const spec = playedAs(i.device);
  const instrument = spec.instrument!;
  const N = 512;
  const blocks = ceil((session.sampleRate * 0.5) / N);
  const peaks = new Map<number, number>();
  const l = new Float64Array(N);
  const r = new Float64Array(N);
  const note = (pair: number, x: Float64Array) => {
    let p = peaks.get(pair) ?? 0;
    for (let k = 0; k < N; k++) {
      const a = abs(x[k]);
      if (a > p) p = a;
    }
    peaks.set(pair, p);
  };
  for (const part of i.parts) {
    if (part.kind !== 'part') continue;
    const proc = spec.create(i.device.params, {
      sampleRate: session.sampleRate,
      tempo: session.tempo,
      maxBlock: N,
    }) as InstrumentProcessor;
    for (let b = 0; b < blocks; b++) {
      proc.events.count = 0;
      if (b === 0) proc.events.push(0, HIT, 0, 0, part.strike, 127);
      l.fill(0);
      r.fill(0);
      proc.process(l, r, N, l, r);
      note(0, l);
      note(0, r);
      proc.outputs.forEach((o, k) => {
        note(k + 1, o.l);
        note(k + 1, o.r);
      });
    }
  }
  return [...peaks]
    .sort((a, b) => a[0] - b[0])
    .flatMap(([pair, p]): OutputLevel[] => {
      const id = instrument.trim(pair);
      if (!id || p < 1e-5) return [];
      const was = i.device.params[id] as number;
      const peak = 20 * log10(p);
      const spec2 = spec.byId[id];
      const trim = round(min(spec2.max!, max(spec2.min!, was + target - peak)) * 10) / 10;
      return [
        {
          pair,
          parts: i.parts.filter((x) => outPlace(x.out).pair === pair).map((x) => x.name),
          peak,
          trim,
          was,
        },
      ];
    });
}

/** The session with trims set; with null for all, levelling is taken back: every trim at 0 dB. */
export function setTrims(session: Session, slot: Id, levels: readonly OutputLevel[] | null): Session {
  const i = instrumentAt(session, slot);
  const instrument = DEVICE_TYPES[i.device.type].instrument!;
  const params: Params = {};
  if (levels) for (const x of levels) params[instrument.trim(x.pair)!] = x.trim;
  else for (let k = 0; k <= instrument.outputs; k++) if (instrument.trim(k)) params[instrument.trim(k)!] = 0;
  return {
    ...session,
    tracks: session.tracks.map((t) =>
      t.id === i.track.id
        ? {
            ...t,
            chain: mapDevices(t.chain, (d) =>
              d.id === slot ? { ...d, params: { ...d.params, ...params } } : d,
            ),
          }
        : t,
    ),
  };
}
