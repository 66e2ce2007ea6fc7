import { render } from '../engine/render.ts';
import type { Sound } from '../engine/sound.ts';
import { createSession, createTrack, masterOf, trackOf } from '../session/create.ts';
import { clone } from '../model/json.ts';
import { MIDI_PORTS, instrumentsOn } from '../session/midi.ts';
import { DEVICE_TYPES } from '../devices/index.ts';
import { devicesIn, findSlot, mapDevices } from '../session/slots.ts';
import type { Id, Preset, Session, Track } from '../model/types.ts';
import { nullPicture, type NullPicture } from './null-picture.ts';
import type { DropPlan } from './types.ts';
import { verifyDrop } from './verify.ts';

export interface NullResult {
  /** dB below the preset's own sound; −Infinity when every sample is equal */
  residual: number;
  /** dBFS RMS of the preset's own sound, to show that something was compared */
  reference: number;
  seconds: number;
  /** what makes a difference, in words; empty when the two are equal */
  causes: string[];
  /** what was compared, and what of the preset was left out of it, in words */
  compared: string[];
  without: string[];
  /** levels of both and of the difference, over frequency and over time */
  picture: NullPicture;
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
  options: {
    seconds?: number;
    /** what devices of the preset play with, by media id, at the session's rate */
    sounds?: ReadonlyMap<string, Sound>;
    onProgress?: (share: number) => void;
    signal?: AbortSignal;
    /** renders the preset alone somewhere else, while what was dropped is rendered here */
    beside?: typeof render;
  } = {},
): Promise<NullResult> {
  const seconds = options.seconds ?? 3;
  const signal = testSignal(session.sampleRate, seconds);
  const c: Comparison = { session, preset, plan, seconds, pairs: pairsOf(session, preset, plan) };
  const media = [
    {
      id: SIGNAL,
      name: 'test signal',
      sampleRate: session.sampleRate,
      channels: 2 as const,
      frames: signal.l.length,
    },
  ];
  const sounded = new Map([...(options.sounds ?? []), [SIGNAL, signal]]);
  const shares = [0, 0];
  const heard = (which: 0 | 1, s: Session, taps: Id[], where: typeof render = render) => {
    const onProgress = (share: number) => {
      shares[which] = share;
      options.onProgress?.((shares[0] + shares[1]) / 2);
    };
    const whole = { ...s, media: [...s.media, ...media] };
    return where(whole, { sounds: sounded, to: seconds, taps, onProgress, signal: options.signal });
  };
  const own = c.pairs.map((p) => p.local.id);
  const bare = heard(0, presetAlone(c), own, options.beside);
  if (!options.beside) await bare;
  const there = c.pairs.map((p) => p.there.id);
  const [alone, inside] = await Promise.all([bare, heard(1, insideSession(c), there)]);
  const sounds = c.pairs.map((p) => [alone[p.local.id], inside[p.there.id]] as const);
  const { difference, reference } = energies(sounds);
  options.onProgress?.(1);
  const decibels = (energy: number) => 10 * Math.log10(Math.max(energy, 1e-30));
  return {
    residual: difference === 0 ? -Infinity : 10 * Math.log10(difference / Math.max(reference, 1e-30)),
    reference: decibels(reference / (2 * c.pairs.length * signal.l.length)),
    seconds,
    causes: difference === 0 ? [] : causesOf(c),
    ...scopeOf(c),
    picture: nullPicture(sounds, session.sampleRate),
  };
}

/** What of the preset both renders play, and what neither does: what leads out of it, and what was not chosen. */
function scopeOf({ preset, plan, pairs }: Comparison): Pick<NullResult, 'compared' | 'without'> {
  const isOnto = plan.place.kind === 'onto';
  const parts = isOnto ? plan.parts : preset.content.parts;
  const ids = new Set(pairs.map((p) => p.local.id));
  const sends = pairs.flatMap((p) => p.local.sends);
  const within = sends.filter((s) => !isOnto && ids.has(s.to));
  const compared = [pairs.length > 1 ? 'the chains' : 'the chain'];
  const without: string[] = [];
  const say = (isCompared: boolean, what: string) => (isCompared ? compared : without).push(what);
  say(parts.includes('level'), 'level');
  say(parts.includes('pan'), 'pan');
  if (pairs.some((p) => p.local.automation?.length)) say(parts.includes('automation'), 'automation');
  if (within.length) compared.push('the sends among them');
  if (sends.length > within.length) without.push(within.length ? 'the sends that lead elsewhere' : 'sends');
  return { compared, without };
}

/** Words of a report that are seen and not heard. */
const UNHEARD = /\/(name|colour|note|folder|input|output|soloSafe|state)$/;

/** Every value that is another one in the session, and everything that follows the session's tempo. */
function causesOf({ session, preset, plan }: Comparison): string[] {
  const rows = verifyDrop(session, preset, plan).rows.filter(
    (r) => r.wanted !== r.found && !UNHEARD.test(r.path) && !['tied', 'left out'].includes(r.verdict),
  );
  const values = rows.map((r) => `${r.label}: ${r.wanted} in the preset, ${r.found} here`);
  const [was, is] = [preset.reference.tempo, session.tempo];
  if (was === is) return values;
  const following = preset.content.tracks.flatMap((t) =>
    devicesIn(t.chain).flatMap((d) => {
      const note = DEVICE_TYPES[d.type].noteSet?.(d.params);
      return note ? [`${d.name} on ${t.name} follows the tempo: ${note} at ${was} and at ${is} bpm`] : [];
    }),
  );
  return [...values, ...following];
}

const SIGNAL = 'null-test';

/**
 * A preset's lines alone in a session of their own at a rate (Hz), each with a sound of `seconds` where it makes one:
 * the media is called as `aloneMedia` says. What leads out of the preset leads to the master.
 */
export function presetSession(preset: Preset, sampleRate: number, seconds: number): Session {
  const { tracks, parts } = preset.content;
  const session = createSession({ sampleRate, panLaw: preset.content.session?.panLaw ?? -3 });
  const plan = { place: { kind: 'new' }, parts } as unknown as DropPlan;
  const pairs = tracks.map((local) => ({ local, there: local }));
  return presetAlone({ session, preset, plan, seconds, pairs });
}
/** The media that the lines of `presetSession` play. */
export const aloneMedia = SIGNAL;

interface Pair {
  local: Track;
  there: Track;
}
interface Comparison {
  session: Session;
  preset: Preset;
  plan: DropPlan;
  seconds: number;
  pairs: Pair[];
}

/** The preset's lines and those that they became. @throws when one of them is not there any more */
function pairsOf(session: Session, preset: Preset, plan: DropPlan): Pair[] {
  const arrived = (t: Track) => plan.tracks.some((x) => x.id === plan.ids[t.id]);
  const all = preset.content.tracks;
  const alone = plan.place.kind === 'onto' ? all.slice(0, 1) : all.filter(arrived);
  const pairs = alone.flatMap((local) => {
    const there = trackOf(session, plan.ids[local.id]);
    return there ? [{ local, there }] : [];
  });
  if (pairs.length < alone.length || !pairs.length) {
    throw new Error('The dropped line is not in the session any more.');
  }
  return pairs;
}

/** Nothing among the lines makes a sound of its own: then each is given the signal. */
const isSilent = ({ pairs }: Comparison): boolean =>
  !pairs.some((p) => ['audio', 'instrument', 'midi'].includes(p.local.role));

/** The signal on a line that sounds; what takes an instrument's output is fed by that. */
function clipsFor(t: Track, n: number, c: Comparison): Track['clips'] {
  const sounds = isSilent(c) || ['audio', 'instrument'].includes(t.role);
  if (!sounds || t.input.kind === 'deviceOutput') return [];
  return [{ id: `null-${n}`, media: SIGNAL, start: 0, offset: 0, length: c.seconds, gain: 0 }];
}

const roleFor = (t: Track, c: Comparison): Track['role'] =>
  isSilent(c) && (c.pairs.length === 1 || t.role === 'master') ? 'audio' : t.role;

function inputAmong(t: Track, ids: Set<Id>): Track['input'] {
  if (t.input.kind === 'deviceOutput' && ids.has(t.input.track)) return t.input;
  if (t.role !== 'instrument') return { kind: 'none' };
  return t.input.kind === 'midi' ? t.input : { kind: 'midi', port: 'A', channel: 0 };
}

/** A line with nothing that leads out of the lines that are compared. */
const among = (t: Track, ids: Set<Id>) => ({
  input: inputAmong(t, ids),
  mute: t.role === 'midi',
  solo: false,
  state: 'on' as const,
  sends: t.sends.filter((s) => ids.has(s.to)),
  chain: mapDevices(t.chain, (d) =>
    d.key.kind === 'track' && !ids.has(d.key.track) ? { ...d, key: { kind: 'own' } } : d,
  ),
});

/** The preset's lines in a session of their own, as they were saved. */
function presetAlone(c: Comparison): Session {
  const { session, preset } = c;
  const bare = createSession({
    sampleRate: session.sampleRate,
    tempo: preset.reference.tempo,
    panLaw: session.panLaw,
  });
  const lines = c.pairs.map((p, i) => lineAlone(p, i, masterOf(bare).id, c));
  return { ...bare, tracks: [...lines, ...struck(lines, 'bare', bare.tempo), ...bare.tracks] };
}

function lineAlone({ local, there }: Pair, i: number, master: Id, c: Comparison): Track {
  const { preset, plan } = c;
  const ids = new Set(c.pairs.map((p) => p.local.id));
  const onto = plan.place.kind === 'onto';
  const stays = local.output.kind === 'track' && ids.has(local.output.track);
  const t: Track = {
    ...clone(local),
    ...among(clone(local), ids),
    role: roleFor(local, c),
    folder: null,
    clips: clipsFor(local, i, c),
    output: stays ? local.output : { kind: 'track', track: master },
    channels: there.channels,
    automation: plan.parts.includes('automation') ? clone(local).automation : undefined,
  };
  // on an existing line only the chosen parts are the preset's: the rest of the line plays the same role in
  // both renders
  const parts = onto ? plan.parts : preset.content.parts;
  if (!parts.includes('level')) Object.assign(t, { level: there.level, polarity: there.polarity });
  if (!parts.includes('pan')) t.pan = there.pan;
  return onto ? { ...t, sends: [] } : t;
}

/** The session with the signal on the dropped lines and everything else silent. */
function insideSession(c: Comparison): Session {
  const ids = new Set(c.pairs.map((p) => p.there.id));
  const tracks = c.session.tracks.map((t) => {
    const i = c.pairs.findIndex((p) => p.there.id === t.id);
    return i < 0 ? silenced(t, ids) : lineInside(t, i, ids, c);
  });
  const dropped = tracks.filter((t) => ids.has(t.id));
  tracks.splice(-1, 0, ...struck(dropped, 'inside', c.session.tempo));
  return { ...c.session, tracks };
}

function silenced(t: Track, ids: Set<Id>): Track {
  const leads = t.output.kind === 'track' && ids.has(t.output.track);
  return {
    ...t,
    automation: undefined,
    solo: false,
    mute: t.mute || t.role === 'midi',
    clips: [],
    sends: t.sends.filter((s) => !ids.has(s.to)),
    output: leads ? { kind: 'none' } : t.output,
  };
}

function lineInside(t: Track, i: number, ids: Set<Id>, c: Comparison): Track {
  const { local } = c.pairs[i];
  const arrived = new Set(Object.values(c.plan.ids));
  const onto = c.plan.place.kind === 'onto';
  const fixed = among(t, ids);
  // what was dropped may stand inside a strand: it is found by id, wherever it is
  const own = () => local.chain.flatMap((x) => findSlot(fixed.chain, c.plan.ids[x.id]) ?? []);
  return {
    ...t,
    ...fixed,
    chain: onto ? own() : fixed.chain,
    clips: clipsFor(local, i, c),
    automation: t.automation?.filter((l) => arrived.has(l.id)),
    role: t.role === 'master' ? t.role : roleFor(local, c),
    folder: null,
    ...(onto ? { sends: [] } : {}),
  };
}

type Stereo = readonly [Float32Array, Float32Array];

/** Energy of the difference between sounds that should be equal, and of the first of each pair. */
function energies(pairs: readonly (readonly [Stereo, Stereo])[]): { difference: number; reference: number } {
  let difference = 0;
  let reference = 0;
  for (const [a, b] of pairs) {
    for (const side of [0, 1] as const) {
      const [x, y] = [a[side], b[side]];
      for (let i = 0; i < x.length; i++) {
        reference += x[i] ** 2;
        difference += (x[i] - y[i]) ** 2;
      }
    }
  }
  return { difference, reference };
}
