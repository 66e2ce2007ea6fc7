import { createSession, createTrack } from '../../session/create.ts';
import { COLOURS } from '../../model/colours.ts';
import { sha256Hex } from '../../model/json.ts';
import { validateSession } from '../../session/validate/index.ts';
import { mapDevices } from '../../session/slots.ts';
import {
  MIN_LEVEL,
  type Clip,
  type Key,
  type MediaRef,
  type Params,
  type Rack,
  type Role,
  type Send,
  type Session,
  type Track,
} from '../../model/types.ts';
import { FormatError } from '../errors.ts';
import { readWav } from '../wav.ts';
import { readZip, type Entries, type ZipLimits } from '../zip.ts';
import { RACK, readDevice, stateOf } from './devices.ts';
import { homesOf, readLanes } from './lanes.ts';
import { attr, kid, kids, parseXml, where, type Document, type Element } from './xml.ts';

/**
 * DAWproject 1.0, the open session exchange format: a ZIP with project.xml. The facts of the format used here
 * are written from memory of its public, MIT-licensed
 * specification. Values of ours that the format has no word for travel in EXTRA.
 */
export const EXTRA = 'rope-shelf.json';

export interface DawSource {
  file: string;
  entries: Entries;
  doc: Document;
  /** element of each track, channel, send and device by our id */
  elements: Map<string, Element>;
  /** attributes in beats that place audio clips: [element, attribute] */
  beats: [Element, string][];
}

export interface DawRead {
  session: Session;
  /** WAV bytes by media id */
  media: Map<string, Uint8Array>;
  source: DawSource;
  /** what a person should know about what was read, in plain words */
  notes: string[];
}

/** What our extra entry says beyond the format. */
export interface Extra {
  version: 1;
  session: Pick<Session, 'sampleRate' | 'bitDepth' | 'panLaw' | 'note'>;
  tracks: Record<
    string,
    Partial<
      Pick<
        Track,
        | 'polarity'
        | 'soloSafe'
        | 'hidden'
        | 'input'
        | 'colour'
        | 'role'
        | 'channels'
        | 'notes'
        | 'printed'
        | 'automation'
      > & { midi: Extract<Track['output'], { kind: 'midi' }> }
    >
  >;
  devices: Record<string, { key?: Key; words?: Params; rack?: Rack }>;
}

/** Reads a DAWproject file. Damaged or oversized files end in a FormatError that names the place. */
export function readDawproject(bytes: Uint8Array, file = 'DAWproject file', limits?: ZipLimits): DawRead {
  const entries = readZip(bytes, file, limits);
  const xml = entries['project.xml'];
  if (!xml) throw new FormatError(file, '', 'there is no project.xml in it, so it is not a DAWproject file.');
  const doc = parseXml(xml, file, 'project.xml');
  const root = doc.documentElement!;
  if (root.nodeName !== 'Project') {
    throw new FormatError(file, where(root), 'a <Project> is expected at the top.');
  }
  const notes: string[] = [];
  const version = attr(root, 'version');
  if (version && !version.startsWith('1')) {
    notes.push(`The file says that it is version ${version}; it was read as version 1.0.`);
  }
  return new Reader(file, entries, doc, root, notes).read();
}

class Reader {
  private readonly elements = new Map<string, Element>();
  private readonly channelToTrack = new Map<string, string>();
  private readonly tracks: Track[] = [];
  private readonly media = new Map<string, Uint8Array>();
  private readonly refs: MediaRef[] = [];
  private readonly ids = new Set<string>();
  private readonly extra: Extra | null;
  private unnamed = 0;
  private readonly beats: [Element, string][] = [];

  constructor(
    private readonly file: string,
    private readonly entries: Entries,
    private readonly doc: Document,
    private readonly root: Element,
    private readonly notes: string[],
  ) {
    this.extra = readExtra(entries[EXTRA]);
  }

  read(): DawRead {
    const structure = kid(this.root, 'Structure');
    if (!structure) {
      throw new FormatError(this.file, where(this.root), 'there is no <Structure>, so there are no tracks.');
    }
    const transport = kid(this.root, 'Transport');
    const tempo = this.number(kid(transport, 'Tempo'), 10, 999, 120, 'The tempo');
    const sig = kid(transport, 'TimeSignature');
    const meter: [number, number] = [
      Number(attr(sig, 'numerator') ?? 4),
      Number(attr(sig, 'denominator') ?? 4),
    ];
    for (const e of kids(structure, 'Track')) this.track(e, null);
    this.connect();
    this.mendRouting();
    this.clips(tempo);
    readLanes(
      this.root,
      this.tracks.flatMap((t) => homesOf(t, this.elements)),
      tempo,
      (e) => this.id(e, 'lane'),
      (text) => this.notes.push(text),
      (e) => this.beats.push([e, 'time']),
    );
    const session = createSession({
      name: this.title(),
      tempo,
      meter: meter.every((n) => Number.isInteger(n) && n >= 1 && n <= 64) ? meter : [4, 4],
      tracks: this.tracks,
      media: this.refs,
      sampleRate: this.extra?.session.sampleRate ?? this.commonRate(),
      bitDepth: this.extra?.session.bitDepth ?? 24,
      panLaw: this.extra?.session.panLaw ?? -3,
      note: this.extra?.session.note ?? '',
    });
    const bad = validateSession(session);
    if (bad.length) {
      throw new FormatError(
        this.file,
        'project.xml',
        `it describes a session that cannot be: ${bad[0].message}`,
      );
    }
    return {
      session,
      media: this.media,
      source: {
        file: this.file,
        entries: this.entries,
        doc: this.doc,
        elements: this.elements,
        beats: this.beats,
      },
      notes: this.notes,
    };
  }

  /** What other programs may leave open: inputs from nowhere, no master, a second one. */
  private mendRouting(): void {
    // the other program may have taken away what an input of ours came from
    const there = new Set(this.tracks.map((t) => t.id));
    for (const t of this.tracks) {
      if ((t.input.kind === 'track' || t.input.kind === 'deviceOutput') && !there.has(t.input.track)) {
        t.input = { kind: 'none' };
        this.notes.push(`“${t.name}” took its input from a track that is not in the file any more.`);
      }
    }
    if (!this.tracks.some((t) => t.role === 'master')) {
      this.tracks.push(createTrack('master', { id: 'daw-master', name: 'Master' }));
      for (const t of this.tracks) {
        if (t.role !== 'master' && t.output.kind === 'none') {
          t.output = { kind: 'track', track: 'daw-master' };
        }
      }
      this.notes.push('The file has no master channel; one was added here and stays out of an export.');
    }
    const masters = this.tracks.filter((t) => t.role === 'master');
    masters.slice(1).forEach((t) => {
      t.role = 'bus';
      t.output = { kind: 'track', track: masters[0].id };
      this.notes.push(`“${t.name}” is a second master in the file; here it is a bus.`);
    });
  }

  /** The sample rate that most sounds have, in Hz. */
  private commonRate(): number {
    const rates = this.refs.map((m) => m.sampleRate);
    return (
      rates.sort((a, b) => rates.filter((x) => x === b).length - rates.filter((x) => x === a).length)[0] ??
      48000
    );
  }

  private title(): string {
    const meta = this.entries['metadata.xml'];
    const title = meta
      ? kid(parseXml(meta, this.file, 'metadata.xml').documentElement, 'Title')?.textContent?.trim()
      : '';
    return (title || this.file.replace(/\.dawproject$/i, '')).slice(0, 200) || 'Imported session';
  }

  /** Our id for an element: its own when it is usable and new. */
  private id(e: Element | null, prefix: string): string {
    const own = attr(e, 'id');
    let id = own && /^[\w.:-]{1,60}$/.test(own) ? own : `${prefix}-${++this.unnamed}`;
    while (this.ids.has(id)) id = `${prefix}-${++this.unnamed}`;
    this.ids.add(id);
    if (e) this.elements.set(id, e);
    return id;
  }

  private track(e: Element, folder: string | null): void {
    const channel = kid(e, 'Channel');
    const id = this.id(e, 'track');
    const content = (attr(e, 'contentType') ?? '').split(/\s+/);
    const nested = kids(e, 'Track');
    const isFolder = content.includes('tracks') || nested.length > 0;
    const role = this.role(attr(channel, 'role'), content, isFolder);
    const name = (attr(e, 'name') ?? '').trim().slice(0, 200) || 'Track';
    const { midi, ...own } = this.extra?.tracks[id] ?? {};
    const t = createTrack(role, {
      id,
      name,
      folder,
      colour: nearestColour(attr(e, 'color')),
      note: (attr(e, 'comment') ?? '').slice(0, 20000),
      channels: attr(channel, 'audioChannels') === '1' ? 1 : 2,
      state: attr(e, 'loaded') === 'false' ? 'inactive' : 'on',
      solo: attr(channel, 'solo') === 'true',
      ...own,
    });
    if (midi && t.role === 'midi') t.output = midi;
    this.tracks.push(t);
    if (channel) {
      const cid = attr(channel, 'id');
      if (cid) this.channelToTrack.set(cid, id);
      this.elements.set(id + '/channel', channel);
      t.level = this.level(kid(channel, 'Volume'), `“${name}”: level`);
      t.pan = this.pan(kid(channel, 'Pan'), `“${name}”: pan`);
      t.mute = attr(kid(channel, 'Mute'), 'value') === 'true';
      for (const d of kids(kid(channel, 'Devices') ?? channel).filter(
        (x) => x.parentNode?.nodeName === 'Devices',
      )) {
        const did = this.id(d, 'device');
        const own = this.extra?.devices[did];
        if (attr(d, 'deviceID') === RACK && own?.rack) {
          const state = stateOf(d);
          t.chain.push({
            ...own.rack,
            name: (attr(d, 'name') ?? own.rack.name).slice(0, 200) || own.rack.name,
            state,
          });
          continue;
        }
        const device = readDevice(d, did, this.entries, (text) => this.notes.push(`“${name}”: ${text}`));
        if (own?.key) device.key = own.key;
        if (own?.words) device.params = { ...device.params, ...own.words };
        t.chain.push(device);
      }
    }
    for (const n of nested) this.track(n, isFolder ? id : folder);
    if (isFolder) t.role = 'folder';
  }

  private role(role: string | null, content: string[], folder: boolean): Role {
    if (role === 'master') return 'master';
    if (folder) return 'folder';
    if (role === 'effect') return 'return';
    if (role === 'submix') return 'bus';
    if (role === 'vca') this.notes.push('A VCA channel was read as a plain track; it controls nothing here.');
    return content.includes('notes') && !content.includes('audio') ? 'instrument' : 'audio';
  }

  /** Outputs, sends and keys, once every channel is known. */
  private connect(): void {
    for (const t of this.tracks) {
      const channel = this.elements.get(t.id + '/channel');
      if (!channel) continue;
      const to = this.target(attr(channel, 'destination'), channel);
      if (to && t.role !== 'master' && to !== t.id) t.output = { kind: 'track', track: to };
      for (const s of kids(kid(channel, 'Sends') ?? channel, 'Send')) {
        const far = this.target(attr(s, 'destination'), s);
        if (!far || this.tracks.find((x) => x.id === far)?.role === 'master') {
          this.notes.push(
            `“${t.name}”: a send whose destination is not a bus or a return was left out here; the file keeps it.`,
          );
          continue;
        }
        const pan = kid(s, 'Pan');
        const send: Send = {
          id: this.id(s, 'send'),
          to: far,
          level: this.level(kid(s, 'Volume'), `“${t.name}”: send level`),
          tap: attr(s, 'type') === 'pre' ? 'pre' : 'post',
          panMode: pan ? 'own' : 'follow',
          pan: this.pan(pan, `“${t.name}”: send pan`),
          on: attr(kid(s, 'Enable'), 'value') !== 'false',
        };
        t.sends.push(send);
      }
      t.chain = mapDevices(t.chain, (d) =>
        d.key.kind === 'track' && !this.tracks.some((x) => d.key.kind === 'track' && x.id === d.key.track)
          ? { ...d, key: { kind: 'own' } }
          : d,
      );
    }
  }

  private target(id: string | null, at: Element): string | null {
    if (!id) return null;
    const t = this.channelToTrack.get(id);
    if (!t) this.notes.push(`${where(at)}: the destination “${id}” is not in the file.`);
    return t ?? null;
  }

  private number(e: Element | null, min: number, max: number, fallback: number, what: string): number {
    if (!e) return fallback;
    const n = Number(attr(e, 'value') ?? NaN);
    if (!Number.isFinite(n)) {
      throw new FormatError(this.file, where(e), `“${attr(e, 'value') ?? ''}” is not a number.`);
    }
    if (n < min || n > max) this.notes.push(`${what} of ${n} is outside ${min} … ${max} and was held there.`);
    return Math.min(max, Math.max(min, n));
  }

  private level(e: Element | null, what: string): number {
    if (!e) return 0;
    if (attr(e, 'unit') === 'decibel') return this.number(e, MIN_LEVEL, 12, 0, what);
    const g = this.number(e, 0, 1e6, 1, what);
    const db = g <= 0 ? MIN_LEVEL : round(20 * Math.log10(g));
    if (db > 12) this.notes.push(`${what} of +${db.toFixed(1)} dB is over +12 dB and was held there.`);
    return Math.max(MIN_LEVEL, Math.min(12, db));
  }

  private pan(e: Element | null, what: string): number {
    if (!e) return 0;
    const unit = attr(e, 'unit');
    if (unit === 'percent') return round(this.number(e, -100, 100, 0, what));
    if (unit === 'linear') return round(100 * this.number(e, -1, 1, 0, what));
    return round(200 * this.number(e, 0, 1, 0.5, what) - 100);
  }

  /** Audio clips of the arrangement; times in beats are turned into seconds by the one tempo. */
  private clips(tempo: number): void {
    const arrangement = kid(this.root, 'Arrangement');
    if (!arrangement) return;
    if (arrangement.getElementsByTagName('TempoAutomation').length) {
      this.notes.push('Tempo changes along the song are kept in the file and not played here.');
    }
    const sec = (v: string | null, unit: string) => {
      const n = Number(v ?? 0);
      if (Number.isFinite(n)) return unit === 'seconds' ? n : (n * 60) / tempo;
      return 0;
    };
    const walk = (
      e: Element,
      track: string | null,
      unit: string,
      offset: number,
      depth: number,
      outer: [Element, string][] = [],
    ) => {
      const here = attr(e, 'timeUnit') ?? unit;
      const t = attr(e, 'track') ?? track;
      if (e.nodeName === 'Clip') {
        const start = offset + sec(attr(e, 'time'), unit);
        const placed: [Element, string][] =
          unit === 'beats' ? [...outer, [e, 'time'], [e, 'duration']] : outer;
        const audio = kid(e, 'Audio') ?? kid(kid(e, 'Warps'), 'Audio');
        if (audio) {
          this.beats.push(
            ...placed,
            ...((attr(e, 'contentTimeUnit') ?? 'beats') === 'beats'
              ? ([[e, 'playStart']] as [Element, string][])
              : []),
          );
        }
        if (audio) {
          this.clip(
            e,
            audio,
            t,
            start,
            sec(attr(e, 'duration'), unit),
            sec(attr(e, 'playStart'), attr(e, 'contentTimeUnit') ?? 'beats'),
          );
        } else if (depth < 20) {
          for (const k of kids(e)) walk(k, t, attr(e, 'contentTimeUnit') ?? here, start, depth + 1, placed);
        }
        return;
      }
      if (depth < 50) for (const k of kids(e)) walk(k, t, here, offset, depth + 1, outer);
    };
    walk(arrangement, null, 'beats', 0, 0);
  }

  private clip(
    e: Element,
    audio: Element,
    trackId: string | null,
    start: number,
    length: number,
    offset: number,
  ): void {
    const track = this.tracks.find((t) => t.id === trackId);
    const path = attr(kid(audio, 'File'), 'path') ?? '';
    const data = this.entries[path];
    if (!track) return;
    if (!data) {
      this.notes.push(`“${track.name}”: the sound “${path || '?'}” is not in the file.`);
      return;
    }
    if (kid(e, 'Warps')) {
      this.notes.push(
        `“${track.name}”: “${path}” is stretched in time in the file; here it plays at its own speed.`,
      );
    }
    let ref = this.refs.find((m) => this.media.get(m.id) === data);
    if (!ref) {
      try {
        const wav = readWav(data, path);
        ref = {
          id: sha256Hex(data),
          name: path.split('/').pop()!,
          sampleRate: wav.sampleRate,
          channels: wav.channels.length === 1 ? 1 : 2,
          frames: wav.channels[0].length,
        };
        if (wav.channels.length > 2) {
          this.notes.push(`“${path}” has ${wav.channels.length} channels; the first two play.`);
        }
      } catch (x) {
        this.notes.push(`“${track.name}”: ${(x as Error).message} It stays in the file and is silent here.`);
        return;
      }
      const same = this.refs.find((m) => m.id === ref!.id);
      if (same) ref = same;
      else {
        this.refs.push(ref);
        this.media.set(ref.id, data);
      }
    }
    const rest = ref.frames / ref.sampleRate - offset;
    const clip: Clip = {
      id: this.id(e, 'clip'),
      media: ref.id,
      start: fine(Math.max(0, start)),
      offset: fine(Math.max(0, offset)),
      length: fine(Math.max(0, length > 0 ? Math.min(length, rest) : rest)),
      gain: 0,
    };
    track.clips.push(clip);
  }
}

/** Seconds to a hundredth of a sample at any rate. */
const fine = (v: number) => Number(v.toFixed(9));
const round = (v: number) => Number(v.toFixed(6));

function nearestColour(hex: string | null): string {
  const m = /^#([0-9a-f]{6})/i.exec(hex ?? '');
  if (!m) return 'tar';
  const rgb = (h: string) => [0, 2, 4].map((i) => parseInt(h.slice(i, i + 2), 16));
  const want = rgb(m[1]);
  const far = (c: string) => rgb(c.slice(1)).reduce((s, v, i) => s + (v - want[i]) ** 2, 0);
  return [...COLOURS].sort(
    (a, b) => Math.min(far(a.day), far(a.night)) - Math.min(far(b.day), far(b.night)),
  )[0].id;
}

function readExtra(bytes: Uint8Array | undefined): Extra | null {
  if (!bytes) return null;
  try {
    const e = JSON.parse(new TextDecoder().decode(bytes)) as Extra;
    return e.version === 1 &&
      typeof e.tracks === 'object' &&
      typeof e.session === 'object' &&
      typeof e.devices === 'object'
      ? e
      : null;
  } catch {
    return null;
  }
}
