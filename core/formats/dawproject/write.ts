import { colourOf } from '../../model/colours.ts';
import { canonicalJson, same } from '../../model/json.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Device, Session, Track } from '../../model/types.ts';
import { DEVICE_TYPES } from '../../devices/index.ts';
import { writeZip, type Entries } from '../zip.ts';
import { editDevice, newDevice, rackElement } from './devices.ts';
import { aimless, homesOf, levelText, panText, writeLanes } from './lanes.ts';
import { EXTRA, readDawproject, type DawRead, type Extra } from './read.ts';
import { append, attr, ensure, kid, kids, parseXml, writeXml, type Document, type Element } from './xml.ts';

export interface DawWriteOptions {
  /** bytes of the file that the session was imported from: kept whole, edited by id */
  source?: Uint8Array;
  /** WAV bytes by media id, for sounds that the source does not hold */
  media?: Map<string, Uint8Array>;
  /** opaque state files by sha-256, for devices that came from other files */
  states?: Map<string, Uint8Array>;
}

export interface DawWritten {
  bytes: Uint8Array;
  /** what another program will not see, in plain words */
  notes: string[];
}

/**
 * Writes a session as DAWproject. With a source, only what differs from what the source says is edited in its
 * tree; every entry that did not change is copied byte for byte, and with no edit
 * project.xml itself is the same bytes. What the format has no word for goes into one extra entry, and
 * `notes` says what that is.
 */
export function writeDawproject(session: Session, options: DawWriteOptions = {}): DawWritten {
  return new ProjectWriter(session, options).write();
}

/** One project while it is written: the tree of the source, edited where the session differs from it. */
class ProjectWriter {
  private readonly base: DawRead | null;
  private readonly before: Session | null;
  private readonly doc: Document;
  private readonly entries: Entries;
  private readonly elements: Map<string, Element>;
  private readonly root: Element;
  private readonly structure: Element;
  /** lanes that moved nothing in the source already: they stay */
  private readonly lost: Set<Element>;
  private readonly known: Map<string, Track>;
  private edited: boolean;

  constructor(
    private readonly session: Session,
    private readonly options: DawWriteOptions,
  ) {
    const name = session.source?.name ?? 'the imported file';
    const base = options.source ? readDawproject(options.source, name) : null;
    this.base = base;
    this.before = base?.session ?? null;
    this.doc = base?.source.doc ?? emptyProject();
    this.entries = { ...(base?.source.entries ?? {}) };
    this.elements = base?.source.elements ?? new Map();
    this.root = this.doc.documentElement!;
    this.lost = aimless(this.root);
    this.structure = ensure(this.root, 'Structure');
    this.known = new Map((this.before?.tracks ?? []).map((t) => [t.id, t]));
    this.edited = !base;
  }

  write(): DawWritten {
    this.settings();
    this.tracks();
    this.extra();
    if (this.edited) this.entries['project.xml'] = writeXml(this.doc);
    if (!this.entries['metadata.xml'] && !this.base) {
      this.entries['metadata.xml'] = metadata(this.session.name);
    }
    return { bytes: writeZip(this.entries), notes: plainNotes(this.session) };
  }

  private touch(): void {
    this.edited = true;
  }

  private settings(): void {
    if (!this.before || this.before.tempo !== this.session.tempo) {
      this.touch();
      ensure(ensure(this.root, 'Transport'), 'Tempo', {
        id: 'tempo',
        unit: 'bpm',
        min: 10,
        max: 999,
      }).setAttribute('value', String(this.session.tempo));
    }
    if (!this.before || !same(this.before.meter, this.session.meter)) {
      this.touch();
      const m = ensure(ensure(this.root, 'Transport'), 'TimeSignature', { id: 'meter' });
      m.setAttribute('numerator', String(this.session.meter[0]));
      m.setAttribute('denominator', String(this.session.meter[1]));
    }
  }

  private tracks(): void {
    for (const t of this.before?.tracks ?? []) {
      if (!this.session.tracks.some((x) => x.id === t.id) && this.elements.has(t.id)) {
        this.touch();
        this.dropTrack(t.id);
      }
    }
    for (const t of this.session.tracks) {
      if (!this.known.has(t.id)) {
        this.touch();
        this.createElements(t);
      }
    }
    this.place();
    for (const t of this.session.tracks) this.editTrack(t, this.known.get(t.id) ?? null);
    this.clips();
    this.lanes();
    this.states();
  }

  /** What the format has no word for, in an entry of our own. */
  private extra(): void {
    const extra = extraOf(this.session);
    const extraBytes = new TextEncoder().encode(JSON.stringify(extra, null, 1));
    // an untouched import that never held our entry stays without it
    if (!this.base || this.edited || this.entries[EXTRA] || hasExtras(this.session, this.before!)) {
      if (
        !this.entries[EXTRA] ||
        canonicalJson(JSON.parse(new TextDecoder().decode(this.entries[EXTRA]))) !== canonicalJson(extra)
      ) {
        this.entries[EXTRA] = extraBytes;
      }
    }
  }

  private dropTrack(id: string) {
    const e = this.elements.get(id)!;
    // what lies in a folder that goes is kept where the folder was
    for (const k of kids(e, 'Track')) e.parentNode!.insertBefore(k, e);
    e.parentNode!.removeChild(e);
    for (const l of Array.from(this.root.getElementsByTagName('Lanes'))) {
      if (attr(l, 'track') === id) l.parentNode!.removeChild(l);
    }
  }

  private createElements(t: Track) {
    if (t.id === 'daw-master') return;
    const e = append(this.structure, 'Track', { id: t.id });
    const roles: Record<Track['role'], string> = {
      audio: 'regular',
      instrument: 'regular',
      midi: 'regular',
      bus: 'submix',
      return: 'effect',
      folder: 'submix',
      master: 'master',
    };
    const c = append(e, 'Channel', { id: t.id + '-ch', role: roles[t.role], audioChannels: t.channels });
    e.setAttribute('contentType', contentOf(t.role));
    this.elements.set(t.id, e);
    this.elements.set(t.id + '/channel', c);
    append(c, 'Devices');
    append(c, 'Sends');
  }

  /** Folders and order: moves only what is not where it should be. */
  private place() {
    const parents = new Map<Element, Element[]>();
    for (const t of this.session.tracks) {
      const e = this.elements.get(t.id);
      if (!e) continue;
      const parent = (t.folder && this.elements.get(t.folder)) || this.structure;
      (parents.get(parent) ?? parents.set(parent, []).get(parent)!).push(e);
    }
    for (const [parent, list] of parents) {
      const now = kids(parent, 'Track');
      if (now.length === list.length && now.every((x, i) => x === list[i])) continue;
      this.touch();
      for (const e of list) parent.appendChild(e);
    }
  }

  private channelId(track: string): string {
    const c = this.elements.get(track + '/channel');
    if (!c) return '';
    if (!c.hasAttribute('id')) {
      c.setAttribute('id', track + '-ch');
      this.touch();
    }
    return c.getAttribute('id')!;
  }

  private editTrack(t: Track, was: Track | null) {
    const e = this.elements.get(t.id);
    if (!e || (was && same(was, t))) return;
    const c =
      this.elements.get(t.id + '/channel') ?? (was ? null : ensure(e, 'Channel', { id: t.id + '-ch' }));
    const changed = (k: keyof Track) => !was || !same(was[k], t[k]);
    const put = (el: Element, name: string, v: string) => {
      this.touch();
      el.setAttribute(name, v);
    };
    if (changed('name')) put(e, 'name', t.name);
    if (changed('colour')) put(e, 'color', colourOf(t.colour).day);
    if (changed('note') && (t.note || was)) put(e, 'comment', t.note);
    if (changed('state') && (was || t.state === 'inactive')) put(e, 'loaded', String(t.state === 'on'));
    if (!c) return;
    if (changed('solo') && (was || t.solo)) put(c, 'solo', String(t.solo));
    if (changed('channels')) put(c, 'audioChannels', String(t.channels));
    if (changed('level')) {
      this.touch();
      level(ensure(c, 'Volume', { id: t.id + '-vol', unit: 'linear', min: 0, max: 4 }), t.level);
    }
    if (changed('pan')) {
      this.touch();
      pan(ensure(c, 'Pan', { id: t.id + '-pan', unit: 'normalized', min: 0, max: 1 }), t.pan);
    }
    if (changed('mute')) {
      this.touch();
      ensure(c, 'Mute', { id: t.id + '-mute' }).setAttribute('value', String(t.mute));
    }
    if (changed('output')) {
      const to = t.output.kind === 'track' ? this.channelId(t.output.track) : '';
      this.touch();
      if (to) c.setAttribute('destination', to);
      else c.removeAttribute('destination');
    }
    if (changed('sends')) this.sends(t, was, c);
    if (changed('chain')) this.chain(t, was, c);
  }

  private sends(t: Track, was: Track | null, c: Element) {
    const list = ensure(c, 'Sends');
    for (const s of was?.sends ?? []) {
      if (!t.sends.some((x) => x.id === s.id)) {
        this.touch();
        const e = this.elements.get(s.id);
        e?.parentNode?.removeChild(e);
      }
    }
    for (const s of t.sends) {
      const old = was?.sends.find((x) => x.id === s.id);
      if (old && same(old, s)) continue;
      this.touch();
      const e = this.elements.get(s.id) ?? append(list, 'Send', { id: s.id });
      if (!old || old.to !== s.to) e.setAttribute('destination', this.channelId(s.to));
      if (!old || old.tap !== s.tap) e.setAttribute('type', s.tap);
      if (!old || old.level !== s.level) {
        level(ensure(e, 'Volume', { id: s.id + '-vol', unit: 'linear', min: 0, max: 4 }), s.level);
      }
      if (s.panMode === 'own' && (!old || old.pan !== s.pan || old.panMode !== 'own')) {
        pan(ensure(e, 'Pan', { id: s.id + '-pan', unit: 'normalized', min: 0, max: 1 }), s.pan);
      }
      if (s.panMode === 'follow') {
        const p = kid(e, 'Pan');
        if (p) e.removeChild(p);
      }
      if (!old || old.on !== s.on) {
        ensure(e, 'Enable', { id: s.id + '-on' }).setAttribute('value', String(s.on));
      }
    }
  }

  private chain(t: Track, was: Track | null, c: Element) {
    const list = ensure(c, 'Devices');
    for (const d of was?.chain ?? []) {
      if (!t.chain.some((x) => x.id === d.id)) {
        this.touch();
        const e = this.elements.get(d.id);
        e?.parentNode?.removeChild(e);
      }
    }
    for (const d of t.chain) {
      const old = was?.chain.find((x) => x.id === d.id) ?? null;
      if (old && same(old, d)) continue;
      this.touch();
      const e = this.elements.get(d.id);
      if (d.kind === 'rack') this.elements.set(d.id, rackElement(list, e && old ? e : null, d));
      else if (e && old?.kind === 'device') editDevice(e, old, d);
      else this.elements.set(d.id, newDevice(list, d));
    }
    const order = t.chain.map((d) => this.elements.get(d.id)!).filter(Boolean);
    const now = kids(list);
    if (now.length === order.length && now.some((x, i) => x !== order[i])) {
      this.touch();
      for (const e of order) list.appendChild(e);
    }
  }

  private clips() {
    // sound stays where it is in seconds, so a new tempo moves its beats
    if (this.base && this.before && this.before.tempo !== this.session.tempo) {
      for (const key of new Set(this.base.source.beats.map(([, a]) => a))) {
        for (const e of new Set(this.base.source.beats.filter(([, a]) => a === key).map(([x]) => x))) {
          const v = attr(e, key);
          if (v !== null && Number(v) !== 0) {
            e.setAttribute(
              key,
              String(Number(((Number(v) * this.session.tempo) / this.before.tempo).toPrecision(15))),
            );
          }
        }
      }
    }
    const arranged = this.session.tracks.filter(
      (t) => t.clips.length > 0 || (this.known.get(t.id)?.clips.length ?? 0) > 0,
    );
    for (const t of arranged) {
      const was = this.known.get(t.id);
      if (was && same(was.clips, t.clips)) continue;
      this.touch();
      for (const c of was?.clips ?? []) {
        if (!t.clips.some((x) => same(x, c))) {
          const e = this.elements.get(c.id);
          e?.parentNode?.removeChild(e);
        }
      }
      const fresh = t.clips.filter((c) => !was?.clips.some((x) => same(x, c)));
      if (!fresh.length) continue;
      const list = ensure(this.lanesOf(t), 'Clips', { timeUnit: 'seconds' });
      for (const c of fresh) {
        const m = this.session.media.find((x) => x.id === c.media);
        const bytes = this.options.media?.get(c.media);
        const path =
          Object.keys(this.entries).find((k) => bytes && this.entries[k] === bytes) ??
          `audio/${c.media.slice(0, 12)}.wav`;
        if (bytes && !this.entries[path]) this.entries[path] = bytes;
        const e = append(list, 'Clip', {
          time: c.start,
          duration: c.length,
          contentTimeUnit: 'seconds',
          playStart: c.offset,
          name: m?.name ?? 'clip',
        });
        const a = append(e, 'Audio', {
          channels: m?.channels ?? 2,
          sampleRate: m?.sampleRate ?? this.session.sampleRate,
          duration: m ? m.frames / m.sampleRate : c.length,
        });
        append(a, 'File', { path });
      }
    }
  }

  private lanes() {
    for (const t of this.session.tracks) {
      const was = this.known.get(t.id)?.automation ?? [];
      if (same(was, t.automation ?? [])) continue;
      for (const home of homesOf(t, this.elements)) {
        writeLanes(
          this.root,
          home,
          was,
          () => {
            this.touch();
            return this.lanesOf(t);
          },
          (name) => {
            this.touch();
            const e = ensure(home.element, name);
            if (!e.hasAttribute('id')) e.setAttribute('id', `${home.of}-${name.toLowerCase()}`);
            return e.getAttribute('id')!;
          },
        );
      }
    }
    // what moved something that has gone
    if (this.edited) for (const e of aimless(this.root)) if (!this.lost.has(e)) e.parentNode!.removeChild(e);
  }

  /** A track's place in the arrangement, in seconds. */
  private lanesOf(t: Track): Element {
    const all = ensure(ensure(this.root, 'Arrangement', { id: 'arrangement' }), 'Lanes', {
      timeUnit: 'seconds',
    });
    return (
      kids(all, 'Lanes').find((l) => attr(l, 'track') === t.id && attr(l, 'timeUnit') === 'seconds') ??
      append(all, 'Lanes', { track: t.id, timeUnit: 'seconds' })
    );
  }

  private states() {
    for (const t of this.session.tracks) {
      for (const d of devicesIn(t.chain)) {
        const s = d.foreign?.state;
        if (s && !this.entries[s.path] && this.options.states?.has(s.sha256)) {
          this.entries[s.path] = this.options.states.get(s.sha256)!;
        }
      }
    }
  }
}

const level = (e: Element, db: number): void => e.setAttribute('value', levelText(attr(e, 'unit'), db));
const pan = (e: Element, p: number): void => e.setAttribute('value', panText(attr(e, 'unit'), p));

function emptyProject(): Document {
  return parseXml(
    new TextEncoder().encode(
      '<?xml version="1.0" encoding="UTF-8"?>\n' +
        '<Project version="1.0"><Application name="Rope Shelf" version="0.1"/><Transport/><Structure/>' +
        '<Arrangement id="arrangement"><Lanes timeUnit="seconds"/></Arrangement><Scenes/></Project>',
    ),
    'new project',
    'project.xml',
  );
}

function metadata(title: string): Uint8Array {
  const doc = parseXml(
    new TextEncoder().encode('<MetaData><Title/></MetaData>'),
    'new project',
    'metadata.xml',
  );
  kid(doc.documentElement, 'Title')!.textContent = title;
  return writeXml(doc);
}

function extraOf(s: Session): Extra {
  const tracks: Extra['tracks'] = {};
  const devices: Extra['devices'] = {};
  for (const t of s.tracks) {
    tracks[t.id] = {
      polarity: t.polarity,
      soloSafe: t.soloSafe,
      hidden: t.hidden,
      input: t.input,
      colour: t.colour,
      role: t.role,
      channels: t.channels,
      ...(t.output.kind === 'midi' ? { midi: t.output } : {}),
      ...(t.notes?.length ? { notes: t.notes } : {}),
      ...(t.printed ? { printed: t.printed } : {}),
      ...(t.automation?.length ? { automation: t.automation } : {}),
    };
    for (const d of t.chain) {
      if (d.kind === 'rack') {
        devices[d.id] = { rack: d };
        continue;
      }
      const words = Object.fromEntries(
        DEVICE_TYPES[d.type].params.filter((p) => p.kind === 'text').map((p) => [p.id, d.params[p.id]]),
      );
      if (d.key.kind === 'track' || Object.keys(words).length) {
        devices[d.id] = {
          ...(d.key.kind === 'track' ? { key: d.key } : {}),
          ...(Object.keys(words).length ? { words } : {}),
        };
      }
    }
  }
  return {
    version: 1,
    session: { sampleRate: s.sampleRate, bitDepth: s.bitDepth, panLaw: s.panLaw, note: s.note },
    tracks,
    devices,
  };
}

const hasExtras = (s: Session, before: Session) =>
  canonicalJson(extraOf(s)) !== canonicalJson(extraOf(before));

/** Devices that the format has elements for, and what is said of each. */
const BUILT_IN: Record<string, string> = {
  eq: '',
  compressor:
    'Compressors carry threshold, ratio, attack, release and gain; knee, lookahead, detector, link, key filter and mix are this program’s own values.',
  gate: 'Gates carry threshold, ratio, range, attack and release; hysteresis, hold, lookahead and key filter are this program’s own values.',
  limiter:
    'Limiters carry threshold, ceiling (as an output gain), release and attack (as lookahead); the true-peak mode is this program’s own.',
};

function plainNotes(s: Session): string[] {
  const out: string[] = [];
  const devices = s.tracks.flatMap((t) => t.chain).filter((d): d is Device => d.kind === 'device');
  const racks = s.tracks.flatMap((t) => t.chain).filter((d) => d.kind === 'rack');
  const types = [...new Set(devices.map((d) => d.type))];
  const own = types.filter((type) => !(type in BUILT_IN) && !DEVICE_TYPES[type].foreign);
  if (own.length) {
    const labels = own.map((type) => DEVICE_TYPES[type].label).join(', ');
    const what = `Devices of this program (${labels}) are written with all their values`;
    out.push(`${what}; another program shows them as unknown devices.`);
  }
  for (const [type, note] of Object.entries(BUILT_IN)) {
    if (note && types.includes(type)) out.push(note);
  }
  if (racks.length) {
    const names = racks.map((r) => r.name).join(', ');
    const seen = `Racks (${names}) are one unknown device each for another program`;
    out.push(`${seen}; strands, blend and handles travel in an entry of this program’s own.`);
  }
  if (s.tracks.some((t) => devicesIn(t.chain).some((d) => d.key.kind === 'track'))) {
    out.push('Key inputs have no place in the format; they travel in an entry of this program’s own.');
  }
  if (s.tracks.some((t) => t.polarity || t.soloSafe)) {
    out.push(
      'Polarity and solo safe have no place in the format; they travel in an entry of this program’s own.',
    );
  }
  if (s.tracks.some((t) => t.input.kind === 'deviceOutput')) {
    out.push(
      'Separate outputs of instruments have no place in the format; which line takes which output travels in an entry of this program’s own.',
    );
  }
  if (s.tracks.some((t) => t.automation?.length)) {
    out.push(
      'Automation of levels, pans, mutes and sends goes out as points; that of devices, strands and handles travels in an entry of our own.',
    );
  }
  if (s.tracks.some((t) => t.input.kind === 'midi' || t.output.kind === 'midi' || t.notes?.length)) {
    out.push(
      'MIDI ports, channels and notes travel in an entry of this program’s own; notes can also be saved as a MIDI file.',
    );
  }
  return out;
}

/** What the file says that a track holds. */
function contentOf(role: Track['role']): string {
  if (role === 'folder') return 'tracks';
  return role === 'instrument' || role === 'midi' ? 'notes' : 'audio';
}
