import { render } from '../engine/render.ts';
import type { Sound } from '../engine/sound.ts';
import { createSession, createTrack, masterOf, trackOf } from '../session/create.ts';
import { clone } from '../model/json.ts';
import { MIDI_PORTS, instrumentsOn } from '../session/midi.ts';
import { findSlot, mapDevices } from '../session/slots.ts';
import type { Id, Preset, Session, Track } from '../model/types.ts';
import type { DropPlan } from './types.ts';

export interface NullResult {
  /** dB below the preset's own sound; −Infinity when every sample is equal */
  residual: number;
  /** dBFS RMS of the preset's own sound, to show that something was compared */
  reference: number;
  seconds: number;
}

/**
 * Three seconds of a repeatable signal that moves every device: noise bursts of rising level over a sweep.
 */
export function testSignal(sampleRate: number, seconds = 3): Sound {
  const n = Math.round(sampleRate * seconds);
  const l = new Float32Array(n);
  const r = new Float32Array(n);
  let s = 0x1234567;
  const noise = () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s / 2147483648 - 1;
  };
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
 * Notes that strike every part of the instruments in turn, on the addresses that they listen to; a tenth of a
 * second apart whatever the tempo is.
 */
function struck(tracks: Track[], name: string, tempo: number): Track[] {
  const step = tempo / 600;
  return tracks.flatMap(instrumentsOn).flatMap(({ track, parts }, k) => {
    const input = track.input;
    if (input.kind !== 'midi') return [];
    const notes = parts
      .filter((p) => p.kind === 'part')
      .map((p, i) => ({
        at: i * step,
        length: step * 0.8,
        key: p.key,
        velocity: 100,
        port: p.address?.port ?? input.port,
        channel: p.address?.channel ?? (input.channel || 1),
      }));
    return MIDI_PORTS.filter((port) => notes.some((n) => n.port === port)).map((port) =>
      createTrack('midi', {
        id: `null-${name}-${k}-${port}`,
        output: { kind: 'midi', port, channel: 0 },
        notes: [
          {
            id: `null-notes-${name}-${k}-${port}`,
            name: 'test',
            start: 0,
            length: 1000,
            controllers: [],
            notes: notes.filter((n) => n.port === port).map(({ port: _p, ...n }) => n),
          },
        ],
      }),
    );
  });
}

/**
 * Renders the preset alone, as it was saved, and the dropped lines inside the session, from the same signal,
 * and compares every line's output after its fader. Values that were adapted are
 * different sound and show as a residual in dB; with nothing adapted the two are equal sample for sample.
 * Lines of a rig are heard together, with the keys, sends and buses between them; what lies outside
 * the preset is not part of the comparison. Both renders use the session's sample rate.
 */
export async function nullTest(
  session: Session,
  preset: Preset,
  plan: DropPlan,
  options: { seconds?: number; onProgress?: (share: number) => void; signal?: AbortSignal } = {},
): Promise<NullResult> {
  const seconds = options.seconds ?? 3;
  const signal = testSignal(session.sampleRate, seconds);
  const alone =
    plan.place.kind === 'onto'
      ? preset.content.tracks.slice(0, 1)
      : preset.content.tracks.filter((t) => plan.tracks.some((x) => x.id === plan.ids[t.id]));
  const pairs = alone.flatMap((local) => {
    const there = trackOf(session, plan.ids[local.id]);
    return there ? [{ local, there }] : [];
  });
  if (pairs.length < alone.length || !pairs.length) {
    throw new Error('The dropped line is not in the session any more.');
  }
  const media = [
    {
      id: 'null-test',
      name: 'test signal',
      sampleRate: session.sampleRate,
      channels: 2 as const,
      frames: signal.l.length,
    },
  ];
  const sources = pairs.filter((p) => ['audio', 'instrument', 'midi'].includes(p.local.role)).length;
  // where nothing makes a sound of its own, each line is given the signal; what takes an instrument's output
  // is fed by that
  const taken = (t: Track, ids: Set<Id>) => t.input.kind === 'deviceOutput' && ids.has(t.input.track);
  const sounds = (t: Track) =>
    (sources === 0 || ['audio', 'instrument'].includes(t.role)) && t.input.kind !== 'deviceOutput';
  const clips = (t: Track, n: number): Track['clips'] =>
    sounds(t) ? [{ id: `null-${n}`, media: 'null-test', start: 0, offset: 0, length: seconds, gain: 0 }] : [];
  const role = (t: Track): Track['role'] =>
    sources === 0 && (pairs.length === 1 || t.role === 'master') ? 'audio' : t.role;
  const inputAmong = (t: Track, ids: Set<Id>): Track['input'] => {
    if (taken(t, ids)) return t.input;
    if (t.role !== 'instrument') return { kind: 'none' };
    return t.input.kind === 'midi' ? t.input : { kind: 'midi', port: 'A', channel: 0 };
  };
  const among =
    (ids: Set<Id>) =>
    (t: Track): Partial<Track> => ({
      input: inputAmong(t, ids),
      mute: t.role === 'midi',
      solo: false,
      state: 'on',
      sends: t.sends.filter((s) => ids.has(s.to)),
      chain: mapDevices(t.chain, (d) =>
        d.key.kind === 'track' && !ids.has(d.key.track) ? { ...d, key: { kind: 'own' } } : d,
      ),
    });

  const bare = createSession({
    sampleRate: session.sampleRate,
    tempo: preset.reference.tempo,
    panLaw: session.panLaw,
    media,
  });
  const master = masterOf(bare).id;
  const locals = new Set(pairs.map((p) => p.local.id));
  const dropped = new Set(pairs.map((p) => p.there.id));
  const onlyOne = plan.place.kind === 'onto';
  const inBare = pairs.map(({ local, there }, i): Track => {
    const t: Track = {
      ...clone(local),
      ...among(locals)(clone(local)),
      id: local.id,
      role: role(local),
      folder: null,
      clips: clips(local, i),
      output:
        local.output.kind === 'track' && locals.has(local.output.track)
          ? local.output
          : { kind: 'track', track: master },
    };
    // on an existing line only the chosen parts are the preset's: the rest of the line plays the same role in
    // both renders
    const has = (p: Preset['content']['parts'][number]) =>
      onlyOne ? plan.parts.includes(p) : preset.content.parts.includes(p);
    if (!has('level')) Object.assign(t, { level: there.level, polarity: there.polarity });
    if (!has('pan')) t.pan = there.pan;
    return {
      ...t,
      channels: there.channels,
      automation: plan.parts.includes('automation') ? t.automation : undefined,
      ...(onlyOne ? { sends: [] } : {}),
    };
  });
  bare.tracks = [...inBare, ...struck(inBare, 'bare', bare.tempo), ...bare.tracks];

  const arrived = new Set(Object.values(plan.ids));
  const inside: Session = {
    ...session,
    media: [...session.media, ...media],
    tracks: session.tracks.map((t) => {
      const i = pairs.findIndex((p) => p.there.id === t.id);
      if (i < 0) {
        return {
          ...t,
          automation: undefined,
          solo: false,
          mute: t.mute || t.role === 'midi',
          clips: [],
          sends: t.sends.filter((s) => !dropped.has(s.to)),
          output:
            t.output.kind === 'track' && dropped.has(t.output.track) ? { kind: 'none' as const } : t.output,
        };
      }
      const local = pairs[i].local;
      const fixed = among(dropped)(t);
      // what was dropped may stand inside a strand: it is found by id, wherever it is
      const kept = onlyOne
        ? local.chain.flatMap((x) => findSlot(fixed.chain!, plan.ids[x.id]) ?? [])
        : fixed.chain!;
      return {
        ...t,
        ...fixed,
        chain: kept,
        clips: clips(local, i),
        automation: t.automation?.filter((l) => arrived.has(l.id)),
        role: t.role === 'master' ? t.role : role(local),
        folder: null,
        ...(onlyOne ? { sends: [] } : {}),
      };
    }),
  };
  inside.tracks.splice(
    -1,
    0,
    ...struck(
      inside.tracks.filter((t) => dropped.has(t.id)),
      'inside',
      session.tempo,
    ),
  );
  const known = new Map([['null-test', signal]]);
  const half = (from: number) => (share: number) => options.onProgress?.(from + share / 2);
  const a = await render(bare, {
    sounds: known,
    to: seconds,
    taps: [...locals],
    onProgress: half(0),
    signal: options.signal,
  });
  const b = await render(inside, {
    sounds: known,
    to: seconds,
    taps: [...dropped],
    onProgress: half(0.5),
    signal: options.signal,
  });
  let diff = 0;
  let ref = 0;
  for (const { local, there } of pairs) {
    for (let c = 0; c < 2; c++) {
      const [x, y] = [a[local.id][c], b[there.id][c]];
      for (let i = 0; i < x.length; i++) {
        ref += x[i] ** 2;
        diff += (x[i] - y[i]) ** 2;
      }
    }
  }
  options.onProgress?.(1);
  return {
    residual: diff === 0 ? -Infinity : 10 * Math.log10(diff / Math.max(ref, 1e-30)),
    reference: 10 * Math.log10(Math.max(ref / (2 * pairs.length * signal.l.length), 1e-30)),
    seconds,
  };
}
