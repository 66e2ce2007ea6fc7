import { safeName } from '../../print/names.ts';
import { colourOf } from '../../model/colours.ts';
import { canonicalJson, same } from '../../model/json.ts';
import { mediaIn } from '../../session/media.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Clip, Id, MediaRef, Session, Track } from '../../model/types.ts';
import { inMemory, type ByteSource } from '../bytes.ts';
import { noEntries, type Contents } from '../zip.ts';
import { collected, packZip, type Sink } from '../zip-write.ts';
import { takeOut, writeClip } from './clips.ts';
import { editDevice, newDevice, rackElement } from './devices.ts';
import { WORDS, aimless, homesOf, pointsByParameter, writeLanes, type Home, type Word } from './lanes.ts';
import { EXTRA, extraOf, hasExtras, readExtra } from './extra.ts';
import { openDawproject, type DawOpenOptions, type DawOpened } from './read.ts';
import { plainNotes } from './told.ts';
import { writeValue } from './units.ts';
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
  const { source, media = new Map<string, Uint8Array>(), states } = options;
  const project = packDawproject(session, {
    ...(source ? { source: inMemory(source) } : {}),
    media: new Map([...media].map(([id, bytes]) => [id, inMemory(bytes)])),
    states,
  });
  return { bytes: collected(project.write), notes: project.notes };
}

export interface DawPackOptions {
  /** the file that the session was imported from */
  source?: ByteSource;
  /** how that one is opened */
  opening?: DawOpenOptions;
  /** WAV files by media id */
  media?: ReadonlyMap<string, ByteSource>;
  states?: ReadonlyMap<string, Uint8Array>;
}
export interface DawPacked {
  notes: string[];
  /** writes the file; sounds are read while it is written */
  write: (sink: Sink) => void;
}

/** The same for sounds and files that may be larger than memory. */
export const packDawproject = (session: Session, options: DawPackOptions = {}): DawPacked =>
  new ProjectWriter(session, options).write();

/** One project while it is written: the tree of the source, edited where the session differs from it. */
class ProjectWriter {
  private readonly base: DawOpened | null;
  private readonly before: Session | null;
  private readonly doc: Document;
  private readonly entries: Contents;
  private readonly elements: Map<string, Element>;
  private readonly root: Element;
  private readonly structure: Element;
  /** lanes that moved nothing in the source already: they stay */
  private readonly lost: Set<Element>;
  private readonly known: Map<string, Track>;
  private readonly notes: string[] = [];
  /** sends that took the place of others, by the id of the old one */
  private readonly heirs = new Map<Id, Id>();
  /** name of the entry of each sound, by media id */
  private readonly paths: Map<string, string>;
  /** names of entries, in small letters: some disks do not tell “A” from “a” */
  private readonly taken: Set<string>;
  /** the number that the next sound of a name gets */
  private readonly next = new Map<string, number>();
  private readonly sounds: Map<Id, MediaRef>;
  /** a clip of the source that plays a sound, by the sound: the pattern of a new one */
  private readonly patterns = new Map<Id, Id>();
  /** where each track's clips and points go */
  private readonly ownLanes = new Map<Id, Element>();
  private edited: boolean;

  constructor(
    private readonly session: Session,
    private readonly options: DawPackOptions,
  ) {
    const name = session.source?.name ?? 'the imported file';
    const base = options.source ? openDawproject(options.source, name, options.opening) : null;
    this.base = base;
    this.before = base?.session ?? null;
    this.doc = base?.source.doc ?? emptyProject();
    this.entries = Object.assign(noEntries<ByteSource>(), base?.source.archive.entries);
    this.paths = new Map(base?.source.paths);
    this.elements = base?.source.elements ?? new Map();
    this.root = this.doc.documentElement!;
    this.lost = aimless(this.root);
    this.structure = ensure(this.root, 'Structure');
    this.known = new Map((this.before?.tracks ?? []).map((t) => [t.id, t]));
    this.taken = new Set(Object.keys(this.entries).map((entry) => entry.toLowerCase()));
    this.sounds = new Map(session.media.map((m) => [m.id, m]));
    for (const c of (this.before?.tracks ?? []).flatMap((t) => t.clips)) {
      if (!this.patterns.has(c.media)) this.patterns.set(c.media, c.id);
    }
    this.edited = !base;
  }

  write(): DawPacked {
    this.settings();
    this.tracks();
    this.extra();
    if (this.edited) this.put('project.xml', writeXml(this.doc));
    if (!this.entries['metadata.xml'] && !this.base) {
      this.put('metadata.xml', metadata(this.session.name));
    }
    return {
      notes: [...plainNotes(this.session), ...this.notes],
      write: (sink) => packZip(this.entries, sink, this.base?.source.archive),
    };
  }

  private put(path: string, bytes: Uint8Array): void {
    this.entries[path] = inMemory(bytes);
  }

  private touch(): void {
    this.edited = true;
  }

  private settings(): void {
    if (!this.before || this.before.tempo !== this.session.tempo) {
      this.touch();
      const about = { id: 'tempo', unit: 'bpm', min: 10, max: 999 };
      const tempo = ensure(ensure(this.root, 'Transport'), 'Tempo', about);
      writeValue(tempo, 'tempo', 'bpm', this.session.tempo, this.session.tempo);
    }
    if (!this.before || !same(this.before.meter, this.session.meter)) {
      this.touch();
      const m = ensure(ensure(this.root, 'Transport'), 'TimeSignature', { id: 'meter' });
      m.setAttribute('numerator', String(this.session.meter[0]));
      m.setAttribute('denominator', String(this.session.meter[1]));
    }
  }

  private tracks(): void {
    this.dropTracks();
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
    for (const t of this.session.tracks.filter((x) => x.printed?.chain)) {
      this.notes.push(
        `“${t.name}” is printed: the file has the printed sound and not what it was printed from. Restore the line before you write the file if that should go along.`,
      );
    }
    // an untouched import that never held our entry stays without it
    const wanted = !this.base || this.edited || this.entries[EXTRA] || hasExtras(this.session, this.before!);
    if (!wanted) return;
    const old = readExtra(this.entries[EXTRA]);
    if (!old || old === 'damaged' || canonicalJson(old) !== canonicalJson(extra)) {
      this.put(EXTRA, new TextEncoder().encode(JSON.stringify(extra, null, 1)));
    }
  }

  /** Takes out the tracks that are gone, and their places in the arrangement. */
  private dropTracks(): void {
    const stays = new Set(this.session.tracks.map((t) => t.id));
    const gone = new Set(
      (this.before?.tracks ?? []).map((t) => t.id).filter((id) => !stays.has(id) && this.elements.has(id)),
    );
    if (!gone.size) return;
    this.touch();
    for (const id of gone) {
      const e = this.elements.get(id)!;
      // what lies in a folder that goes is kept where the folder was
      for (const k of kids(e, 'Track')) e.parentNode!.insertBefore(k, e);
      e.parentNode!.removeChild(e);
    }
    for (const l of Array.from(this.root.getElementsByTagName('Lanes'))) {
      if (gone.has(attr(l, 'track') ?? '')) l.parentNode!.removeChild(l);
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
      this.level(c, t.id, t.level);
    }
    if (changed('pan')) {
      this.touch();
      this.pan(c, t.id, t.pan);
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
    const fresh = t.sends.filter((s) => !was?.sends.some((x) => x.id === s.id));
    for (const s of was?.sends ?? []) {
      if (t.sends.some((x) => x.id === s.id)) continue;
      this.touch();
      const e = this.elements.get(s.id);
      // one that takes its place keeps its element, and with it what moves it
      const heir = fresh.find((x) => x.to === s.to && !this.elements.has(x.id));
      if (heir && e) {
        e.setAttribute('id', heir.id);
        this.elements.set(heir.id, e);
        this.heirs.set(s.id, heir.id);
      } else e?.parentNode?.removeChild(e);
    }
    for (const s of t.sends) {
      const old = was?.sends.find((x) => x.id === s.id);
      if (old && same(old, s)) continue;
      this.touch();
      const e = this.elements.get(s.id) ?? append(list, 'Send', { id: s.id });
      if (!old || old.to !== s.to) e.setAttribute('destination', this.channelId(s.to));
      if (!old || old.tap !== s.tap) e.setAttribute('type', s.tap);
      if (!old || old.level !== s.level) {
        this.level(e, s.id, s.level);
      }
      if (s.panMode === 'own' && (!old || old.pan !== s.pan || old.panMode !== 'own')) {
        this.pan(e, s.id, s.pan);
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

  private level(e: Element, id: Id, db: number): void {
    const x = ensure(e, 'Volume', { id: id + '-vol', unit: 'linear', min: 0, max: 4 });
    writeValue(x, 'gain', 'linear', this.session.tempo, db);
  }
  private pan(e: Element, id: Id, v: number): void {
    const x = ensure(e, 'Pan', { id: id + '-pan', unit: 'normalized', min: 0, max: 1 });
    writeValue(x, 'pan', 'normalized', this.session.tempo, v);
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
      else if (e && old?.kind === 'device') editDevice(e, old, d, this.session.tempo);
      else this.elements.set(d.id, newDevice(list, d, this.session.tempo));
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
    const before = new Map(
      (this.before?.tracks ?? []).flatMap((t) => t.clips.map((clip) => [clip.id, { clip, track: t.id }])),
    );
    const now = new Set(this.session.tracks.flatMap((t) => t.clips.map((c) => c.id)));
    for (const id of before.keys()) {
      const e = now.has(id) ? undefined : this.elements.get(id);
      if (!e) continue;
      this.touch();
      takeOut(e);
    }
    for (const t of this.session.tracks) {
      for (const clip of t.clips) {
        const was = before.get(clip.id) ?? null;
        if (was?.track !== t.id || !same(was.clip, clip)) this.placeClip(t, clip, was);
      }
    }
    this.impulses();
  }

  /** Sounds that devices play with are in the file, too: the reader finds them by their sha-256. */
  private impulses(): void {
    const clips = new Set(this.session.tracks.flatMap((t) => t.clips.map((c) => c.media)));
    for (const id of mediaIn(this.session.tracks)) {
      if (clips.has(id)) continue;
      const m = this.sounds.get(id);
      if (!this.pathOf(id, m)) {
        this.notes.push(
          `The impulse response “${m?.name ?? id.slice(0, 12)}” is not here any more, so it was left out.`,
        );
      }
    }
  }

  private placeClip(t: Track, clip: Clip, was: { clip: Clip; track: Id } | null): void {
    const m = this.sounds.get(clip.media);
    const path = this.pathOf(clip.media, m);
    if (!path) {
      const sound = m?.name ?? clip.media.slice(0, 12);
      this.notes.push(`“${t.name}”: the sound “${sound}” is not here any more, so its clip was left out.`);
      return;
    }
    this.touch();
    const e = this.elements.get(was ? clip.id : (this.patterns.get(clip.media) ?? '')) ?? null;
    writeClip(e, was?.clip ?? null, clip, was?.track === t.id, {
      lanes: () => this.lanesOf(t),
      tempo: this.session.tempo,
      path,
      name: m?.name ?? 'clip',
      channels: m?.channels ?? 2,
      sampleRate: m?.sampleRate ?? this.session.sampleRate,
      duration: m ? m.frames / m.sampleRate : clip.length,
    });
  }

  /** The entry of a sound, under its own name; a new one is put into the file. Null where nobody has it. */
  private pathOf(media: Id, m: MediaRef | undefined): string | null {
    const known = this.paths.get(media);
    if (known) return known;
    const bytes = this.options.media?.get(media);
    if (!bytes) return null;
    // whoever unpacks the file needs names that their disk takes, and tells apart
    const name = safeName((m?.name ?? media.slice(0, 12)).replace(/\.wav$/i, '').replace(/[\\/:]/g, '-'));
    const path = this.freePath(name);
    this.entries[path] = bytes;
    this.paths.set(media, path);
    return path;
  }

  /** A path that no entry has yet, whatever the disk says of capital letters. */
  private freePath(name: string): string {
    const same = name.toLowerCase();
    let n = this.next.get(same) ?? 1;
    const path = () => (n === 1 ? `audio/${name}.wav` : `audio/${name} ${n}.wav`);
    while (this.taken.has(path().toLowerCase())) n++;
    this.next.set(same, n + 1);
    this.taken.add(path().toLowerCase());
    return path();
  }

  private lanes() {
    const moved = pointsByParameter(this.root);
    for (const t of this.session.tracks) {
      const was = (this.known.get(t.id)?.automation ?? []).map((l) => ({
        ...l,
        of: this.heirs.get(l.of) ?? l.of,
      }));
      if (same(was, t.automation ?? [])) continue;
      for (const home of homesOf(t, this.elements)) {
        writeLanes(
          moved,
          home,
          was,
          () => {
            this.touch();
            return this.lanesOf(t);
          },
          (word) => this.parameter(home, word),
          this.session.tempo,
        );
      }
    }
    // what moved something that has gone
    if (this.edited) for (const e of aimless(this.root)) if (!this.lost.has(e)) e.parentNode!.removeChild(e);
  }

  /** The id of what a lane moves; one that the file does not have yet stands where the session has it. */
  private parameter({ element, of, track }: Home, word: Word): string {
    this.touch();
    if (!kid(element, WORDS[word])) {
      const send = track.sends.find((s) => s.id === of);
      if (word === 'level') this.level(element, of, send?.level ?? track.level);
      else if (word === 'pan') this.pan(element, of, track.pan);
      else ensure(element, 'Mute', { id: of + '-mute' }).setAttribute('value', String(track.mute));
    }
    const e = kid(element, WORDS[word])!;
    if (!e.hasAttribute('id')) e.setAttribute('id', `${of}-${WORDS[word].toLowerCase()}`);
    return e.getAttribute('id')!;
  }

  /** A track's place in the arrangement, in seconds. */
  private lanesOf(t: Track): Element {
    const own = this.ownLanes.get(t.id);
    if (own?.parentNode) return own;
    const all = ensure(ensure(this.root, 'Arrangement', { id: 'arrangement' }), 'Lanes', {
      timeUnit: 'seconds',
    });
    const isOwn = (l: Element) => attr(l, 'track') === t.id && attr(l, 'timeUnit') === 'seconds';
    const e = kids(all, 'Lanes').find(isOwn) ?? append(all, 'Lanes', { track: t.id, timeUnit: 'seconds' });
    this.ownLanes.set(t.id, e);
    return e;
  }

  private states() {
    for (const t of this.session.tracks) {
      for (const d of devicesIn(t.chain)) {
        const s = d.foreign?.state;
        if (s && !this.entries[s.path] && this.options.states?.has(s.sha256)) {
          this.put(s.path, this.options.states.get(s.sha256)!);
        }
      }
    }
  }
}

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

/** What the file says that a track holds. */
function contentOf(role: Track['role']): string {
  if (role === 'folder') return 'tracks';
  return role === 'instrument' || role === 'midi' ? 'notes' : 'audio';
}
