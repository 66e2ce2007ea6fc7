import { cutText, NAME_LENGTH } from '../../model/text.ts';
import { createSession, createTrack } from '../../session/create.ts';
import { COLOURS } from '../../model/colours.ts';
import { validateSession } from '../../session/validate/index.ts';
import { mediaIn } from '../../session/media.ts';
import { mapDevices } from '../../session/slots.ts';
import {
  MAX_LEVEL,
  MIN_LEVEL,
  type MediaRef,
  type Role,
  type Send,
  type Session,
  type Track,
} from '../../model/types.ts';
import { FormatError } from '../errors.ts';
import { inMemory, portableHash, sha256Of, wholeOf, type ByteSource, type Hash } from '../bytes.ts';
import { checkSound } from '../wav.ts';
import { openArchive, type Archive, type Contents, type OpenOptions, type ZipLimits } from '../zip.ts';
import { placedSounds, type PlacedSound } from './clips.ts';
import { RACK, readDevice, stateOf } from './devices.ts';
import { EXTRA, ownOf, readExtra, revisionIn, type Extra } from './extra.ts';
import { homesOf, readLanes } from './lanes.ts';
import { isOn, readValue, type Quantity, type Unit } from './units.ts';
import { attr, kid, kids, parseXml, where, type Document, type Element } from './xml.ts';

/**
 * DAWproject 1.0, the open session exchange format: a ZIP with project.xml. The facts of the format used here
 * are written from memory of its public, MIT-licensed specification. Values of ours that the format has no
 * word for travel in EXTRA.
 */
export interface DawSource {
  file: string;
  archive: Archive;
  doc: Document;
  /** element of each track, channel, send and device by our id */
  elements: Map<string, Element>;
  /** attributes in beats that place audio clips: [element, attribute] */
  beats: [Element, string][];
  /** name of the entry of each sound, by media id */
  paths: Map<string, string>;
}

export interface DawOpened {
  session: Session;
  /** WAV files by media id, wherever their bytes lie */
  media: Map<string, ByteSource>;
  source: DawSource;
  /** what a person should know about what was read, in plain words */
  notes: string[];
}
export interface DawRead extends Omit<DawOpened, 'media'> {
  /** WAV bytes by media id */
  media: Map<string, Uint8Array>;
}

export interface DawOpenOptions extends OpenOptions {
  /** what is known of the sounds of a file that was read before, by their entries: they are not looked at again */
  known?: ReadonlyMap<string, MediaRef>;
  /** SHA-256, where there is a faster one than ours */
  makeHash?: () => Hash;
}

/** Reads a DAWproject file. Damaged or oversized files end in a FormatError that names the place. */
export function readDawproject(bytes: Uint8Array, file = 'DAWproject file', limits?: ZipLimits): DawRead {
  const { media, ...read } = openDawproject(inMemory(bytes), file, { limits });
  return { ...read, media: new Map([...media].map(([id, sound]) => [id, wholeOf(sound).slice()])) };
}

/** The same of a file that may be larger than memory: its sounds stay where they lie. */
export function openDawproject(from: ByteSource, file: string, options: DawOpenOptions = {}): DawOpened {
  const archive = openArchive(from, file, options);
  const project = archive.entries['project.xml'];
  if (!project) {
    throw new FormatError(file, '', 'there is no project.xml in it, so it is not a DAWproject file.');
  }
  const xml = wholeOf(project);
  const own = readExtra(archive.entries[EXTRA]);
  const damaged = `Our own entry (${EXTRA}) is damaged and was left aside: routing inputs, keys, racks and notes of this program that were in it are not there.`;
  const attempt = (extra: Extra | null, notes: string[]) => {
    const doc = parseXml(xml, file, 'project.xml');
    return new Reader(file, archive, doc, extra, notes, options).read();
  };
  if (own === 'damaged') return attempt(null, [damaged]);
  try {
    return attempt(own, []);
  } catch (e) {
    if (!own) throw e;
    // a value in our entry that cannot be would make the whole file unreadable
    return attempt(null, [damaged]);
  }
}

class Reader {
  private readonly elements = new Map<string, Element>();
  private readonly channelToTrack = new Map<string, string>();
  private readonly tracks: Track[] = [];
  private readonly byId = new Map<string, Track>();
  private readonly media = new Map<string, ByteSource>();
  private readonly hashes = new Map<ByteSource, string>();
  private readonly refs: MediaRef[] = [];
  private readonly refOfEntry = new Map<ByteSource, MediaRef>();
  private readonly ids = new Set<string>();
  private unnamed = 0;
  private readonly beats: [Element, string][] = [];
  private readonly paths = new Map<string, string>();
  private readonly entries: Contents;
  private readonly root: Element;
  private tempo = 120;
  private readonly note = (text: string) => void this.notes.push(text);

  constructor(
    private readonly file: string,
    private readonly archive: Archive,
    private readonly doc: Document,
    private readonly extra: Extra | null,
    private readonly notes: string[],
    private readonly options: DawOpenOptions,
  ) {
    this.entries = archive.entries;
    this.root = doc.documentElement!;
  }

  read(): DawOpened {
    if (this.root.nodeName !== 'Project') {
      throw new FormatError(this.file, where(this.root), 'a <Project> is expected at the top.');
    }
    const version = attr(this.root, 'version');
    if (version && !version.startsWith('1')) {
      this.note(`The file says that it is version ${version}; it was read as version 1.0.`);
    }
    const structure = kid(this.root, 'Structure');
    if (!structure) {
      throw new FormatError(this.file, where(this.root), 'there is no <Structure>, so there are no tracks.');
    }
    const transport = kid(this.root, 'Transport');
    const tempo = this.value(kid(transport, 'Tempo'), 'tempo', 'bpm', 10, 999, 120, 'The tempo');
    this.tempo = tempo;
    const sig = kid(transport, 'TimeSignature');
    const meter: [number, number] = [
      Number(attr(sig, 'numerator') ?? 4),
      Number(attr(sig, 'denominator') ?? 4),
    ];
    for (const e of kids(structure, 'Track')) this.track(e, null);
    this.connect();
    this.mendRouting();
    this.clips(tempo);
    this.impulses();
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
      setupId: this.extra?.session.setupId ?? null,
      ...(this.extra?.session.setup ? { setup: this.extra.session.setup } : {}),
      ...(this.extra?.session.headings ? { headings: this.extra.session.headings } : {}),
      ...(this.extra?.session.key ? { key: this.extra.session.key } : {}),
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
        archive: this.archive,
        doc: this.doc,
        elements: this.elements,
        beats: this.beats,
        paths: this.paths,
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
    const counts = new Map<number, number>();
    for (const { sampleRate } of this.refs) counts.set(sampleRate, (counts.get(sampleRate) ?? 0) + 1);
    const [most] = [...counts].sort((a, b) => b[1] - a[1]);
    return most?.[0] ?? 48000;
  }

  private title(): string {
    const meta = this.entries['metadata.xml'];
    const title = meta
      ? kid(parseXml(wholeOf(meta), this.file, 'metadata.xml').documentElement, 'Title')?.textContent?.trim()
      : '';
    return cutText(title || this.file.replace(/\.dawproject$/i, ''), NAME_LENGTH) || 'Imported session';
  }

  /** Our id for an element: its own when it is usable and new. */
  private id(e: Element | null, prefix: string): string {
    const own = attr(e, 'id');
    // a name that every object has would not be only a name
    const usable = own && /^[\w.:-]{1,60}$/.test(own) && !(own in Object.prototype);
    let id = usable ? own : `${prefix}-${++this.unnamed}`;
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
    const name = cutText((attr(e, 'name') ?? '').trim(), NAME_LENGTH) || 'Track';
    const { midi, ...own } = (this.extra && ownOf(this.extra.tracks, id)) ?? {};
    const t = createTrack(role, {
      id,
      name,
      folder,
      colour: nearestColour(attr(e, 'color')),
      note: cutText(attr(e, 'comment') ?? '', 20000),
      channels: attr(channel, 'audioChannels') === '1' ? 1 : 2,
      state: attr(e, 'loaded') === 'false' ? 'inactive' : 'on',
      solo: attr(channel, 'solo') === 'true',
      ...own,
    });
    if (midi && t.role === 'midi') t.output = midi;
    this.tracks.push(t);
    this.byId.set(id, t);
    if (channel) {
      const cid = attr(channel, 'id');
      if (cid) this.channelToTrack.set(cid, id);
      this.elements.set(id + '/channel', channel);
      t.level = this.level(kid(channel, 'Volume'), `“${name}”: level`);
      t.pan = this.pan(kid(channel, 'Pan'), `“${name}”: pan`);
      t.mute = isOn(kid(channel, 'Mute'), false);
      for (const d of kids(kid(channel, 'Devices') ?? channel).filter(
        (x) => x.parentNode?.nodeName === 'Devices',
      )) {
        const did = this.id(d, 'device');
        const own = this.extra && ownOf(this.extra.devices, did);
        if (attr(d, 'deviceID') === RACK && own?.rack) {
          const state = stateOf(d);
          t.chain.push({
            ...own.rack,
            name: cutText(attr(d, 'name') ?? own.rack.name, NAME_LENGTH) || own.rack.name,
            state,
          });
          continue;
        }
        const device = readDevice(d, did, {
          entries: this.entries,
          tempo: this.tempo,
          note: (text) => this.note(`“${name}”: ${text}`),
        });
        if (own?.key) device.key = own.key;
        if (own?.words) device.params = { ...device.params, ...own.words };
        if (own?.hardware) device.hardware = own.hardware;
        const revision = revisionIn(this.extra, did);
        if (revision === 1) delete device.revision;
        else if (revision) device.revision = revision;
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
        if (!far || this.byId.get(far)?.role === 'master') {
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
          on: isOn(kid(s, 'Enable'), true),
        };
        t.sends.push(send);
      }
      t.chain = mapDevices(t.chain, (d) =>
        d.key.kind === 'track' && !this.byId.has(d.key.track) ? { ...d, key: { kind: 'own' } } : d,
      );
    }
  }

  private target(id: string | null, at: Element): string | null {
    if (!id) return null;
    const t = this.channelToTrack.get(id);
    if (!t) this.notes.push(`${where(at)}: the destination “${id}” is not in the file.`);
    return t ?? null;
  }

  /** A parameter's value, held inside what it can be here; what is no number at all is an error of the file. */
  private value(
    e: Element | null,
    quantity: Quantity,
    usual: Unit,
    min: number,
    max: number,
    fallback: number,
    what: string,
  ): number {
    const written = attr(e, 'value');
    if (!e || (written === null && kids(e).length === 0)) return fallback;
    if (written === null || !Number.isFinite(Number(written)) || !written.trim()) {
      throw new FormatError(this.file, where(e), `“${written ?? ''}” is not a number.`);
    }
    const v = readValue(e, { quantity, usual, tempo: this.tempo, what, note: this.note }) ?? fallback;
    if (v < min || v > max) {
      this.note(`${what} of ${Number(v.toFixed(2))} is outside ${min} … ${max} and was held there.`);
    }
    return Math.min(max, Math.max(min, v));
  }

  private level(e: Element | null, what: string): number {
    return this.value(e, 'gain', 'linear', MIN_LEVEL, MAX_LEVEL, 0, what);
  }

  private pan(e: Element | null, what: string): number {
    return this.value(e, 'pan', 'normalized', -100, 100, 0, what);
  }

  /** Audio clips of the arrangement. */
  private clips(tempo: number): void {
    const arrangement = kid(this.root, 'Arrangement');
    if (!arrangement) return;
    if (arrangement.getElementsByTagName('TempoAutomation').length) {
      this.note('Tempo changes along the song are kept in the file and not played here.');
    }
    const told = new Set<string>();
    const once = (text: string) => {
      if (!told.has(text)) this.note(text);
      told.add(text);
    };
    for (const x of placedSounds(arrangement, tempo, (at) => this.beats.push(at), once)) this.clip(x);
  }

  private clip(x: PlacedSound): void {
    const track = x.track === null ? undefined : this.byId.get(x.track);
    if (!track) return;
    const path = attr(kid(x.audio, 'File'), 'path') ?? '';
    const ref = this.sound(path, track.name);
    if (!ref) return;
    if (kid(x.e, 'Warps')) {
      this.note(
        `“${track.name}”: “${path}” is stretched in time in the file; here it plays at its own speed.`,
      );
    }
    const rest = Math.max(0, Number((ref.frames / ref.sampleRate - x.offset).toFixed(9)));
    track.clips.push({
      id: this.id(x.e, 'clip'),
      media: ref.id,
      start: x.start,
      offset: x.offset,
      length: Math.min(x.length, rest),
      gain: 0,
      ...(x.off ? { off: true } : {}),
    });
  }

  /** Sounds that devices of ours play with, by their sha-256. */
  private impulses(): void {
    const wanted = mediaIn(this.tracks);
    for (const m of this.refs) wanted.delete(m.id);
    for (const [path, data] of Object.entries(this.entries)) {
      if (wanted.size === 0) return;
      if (!/\.wav$/i.test(path)) continue;
      if (wanted.delete(this.idOf(path, data))) this.sound(path, 'impulse response');
    }
    for (const id of wanted) this.note(`The impulse response ${id.slice(0, 12)}… is not in the file.`);
  }

  /** The sound of an entry; null, and a note, where there is none that can be played. */
  private sound(path: string, track: string): MediaRef | null {
    const data = this.entries[path];
    if (!data) {
      this.note(`“${track}”: the sound “${path || '?'}” is not in the file.`);
      return null;
    }
    const known = this.refOfEntry.get(data);
    if (known) return known;
    try {
      const ref = this.options.known?.get(path) ?? this.refOf(path, data);
      const same = this.media.has(ref.id) ? this.refs.find((m) => m.id === ref.id) : undefined;
      this.refOfEntry.set(data, same ?? ref);
      if (same) return same;
      this.refs.push(ref);
      this.media.set(ref.id, data);
      this.paths.set(ref.id, path);
      return ref;
    } catch (x) {
      this.note(`“${track}”: ${(x as Error).message} It stays in the file and is silent here.`);
      return null;
    }
  }
  private refOf(path: string, data: ByteSource): MediaRef {
    const { sampleRate, channels, frames } = checkSound(data, path);
    if (channels > 2) this.note(`“${path}” has ${channels} channels; the first two play.`);
    return {
      id: this.idOf(path, data),
      name: path.split('/').pop()!,
      sampleRate,
      channels: channels === 1 ? 1 : 2,
      frames,
    };
  }
  private idOf(path: string, data: ByteSource): string {
    const known = this.options.known?.get(path)?.id ?? this.hashes.get(data);
    if (known) return known;
    const id = sha256Of(data, this.options.makeHash ?? portableHash);
    this.hashes.set(data, id);
    return id;
  }
}

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
