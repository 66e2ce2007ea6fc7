import { colourOf } from '../../model/colours.ts';
import { canonicalJson, same } from '../../model/json.ts';
import { devicesIn } from '../../session/slots.ts';
import type { Device, Session, Track } from '../../model/types.ts';
import { DEVICE_TYPES } from '../../devices/index.ts';
import { writeZip, type Entries } from '../zip.ts';
import { editDevice, newDevice, rackElement } from './devices.ts';
import { aimless, homesOf, levelText, panText, writeLanes } from './lanes.ts';
import { EXTRA, readDawproject, type Extra } from './read.ts';
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
  const base = options.source
    ? readDawproject(options.source, session.source?.name ?? 'the imported file')
    : null;
  const doc = base?.source.doc ?? emptyProject();
  const entries: Entries = { ...(base?.source.entries ?? {}) };
  const before = base?.session ?? null;
  const elements = base?.source.elements ?? new Map<string, Element>();
  const root = doc.documentElement!;
  const lost = aimless(root);
  let edited = !base;
  const touch = () => {
    edited = true;
  };

  if (!before || before.tempo !== session.tempo) {
    touch();
    ensure(ensure(root, 'Transport'), 'Tempo', { id: 'tempo', unit: 'bpm', min: 10, max: 999 }).setAttribute(
      'value',
      String(session.tempo),
    );
  }
  if (!before || !same(before.meter, session.meter)) {
    touch();
    const m = ensure(ensure(root, 'Transport'), 'TimeSignature', { id: 'meter' });
    m.setAttribute('numerator', String(session.meter[0]));
    m.setAttribute('denominator', String(session.meter[1]));
  }
  const structure = ensure(root, 'Structure');
  const known = new Map((before?.tracks ?? []).map((t) => [t.id, t]));

  for (const t of before?.tracks ?? []) {
    if (!session.tracks.some((x) => x.id === t.id) && elements.has(t.id)) {
      touch();
      dropTrack(t.id);
    }
  }
  for (const t of session.tracks) {
    if (!known.has(t.id)) {
      touch();
      createElements(t);
    }
  }
  place();
  for (const t of session.tracks) editTrack(t, known.get(t.id) ?? null);
  clips();
  lanes();
  states();
  const extra = extraOf(session);
  const extraBytes = new TextEncoder().encode(JSON.stringify(extra, null, 1));
  // an untouched import that never held our entry stays without it
  if (!base || edited || entries[EXTRA] || hasExtras(session, before!)) {
    if (
      !entries[EXTRA] ||
      canonicalJson(JSON.parse(new TextDecoder().decode(entries[EXTRA]))) !== canonicalJson(extra)
    ) {
      entries[EXTRA] = extraBytes;
    }
  }
  if (edited) entries['project.xml'] = writeXml(doc);
  if (!entries['metadata.xml'] && !base) entries['metadata.xml'] = metadata(session.name);
  return { bytes: writeZip(entries), notes: plainNotes(session) };

  function dropTrack(id: string) {
    const e = elements.get(id)!;
    // what lies in a folder that goes is kept where the folder was
    for (const k of kids(e, 'Track')) e.parentNode!.insertBefore(k, e);
    e.parentNode!.removeChild(e);
    for (const l of Array.from(root.getElementsByTagName('Lanes'))) {
      if (attr(l, 'track') === id) l.parentNode!.removeChild(l);
    }
  }

  function createElements(t: Track) {
    if (t.id === 'daw-master') return;
    const e = append(structure, 'Track', { id: t.id });
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
    elements.set(t.id, e);
    elements.set(t.id + '/channel', c);
    append(c, 'Devices');
    append(c, 'Sends');
  }

  /** Folders and order: moves only what is not where it should be. */
  function place() {
    const parents = new Map<Element, Element[]>();
    for (const t of session.tracks) {
      const e = elements.get(t.id);
      if (!e) continue;
      const parent = (t.folder && elements.get(t.folder)) || structure;
      (parents.get(parent) ?? parents.set(parent, []).get(parent)!).push(e);
    }
    for (const [parent, list] of parents) {
      const now = kids(parent, 'Track');
      if (now.length === list.length && now.every((x, i) => x === list[i])) continue;
      touch();
      for (const e of list) parent.appendChild(e);
    }
  }

  function channelId(track: string): string {
    const c = elements.get(track + '/channel');
    if (!c) return '';
    if (!c.hasAttribute('id')) {
      c.setAttribute('id', track + '-ch');
      touch();
    }
    return c.getAttribute('id')!;
  }

  function editTrack(t: Track, was: Track | null) {
    const e = elements.get(t.id);
    if (!e || (was && same(was, t))) return;
    const c = elements.get(t.id + '/channel') ?? (was ? null : ensure(e, 'Channel', { id: t.id + '-ch' }));
    const changed = (k: keyof Track) => !was || !same(was[k], t[k]);
    const put = (el: Element, name: string, v: string) => {
      touch();
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
      touch();
      level(ensure(c, 'Volume', { id: t.id + '-vol', unit: 'linear', min: 0, max: 4 }), t.level);
    }
    if (changed('pan')) {
      touch();
      pan(ensure(c, 'Pan', { id: t.id + '-pan', unit: 'normalized', min: 0, max: 1 }), t.pan);
    }
    if (changed('mute')) {
      touch();
      ensure(c, 'Mute', { id: t.id + '-mute' }).setAttribute('value', String(t.mute));
    }
    if (changed('output')) {
      const to = t.output.kind === 'track' ? channelId(t.output.track) : '';
      touch();
      if (to) c.setAttribute('destination', to);
      else c.removeAttribute('destination');
    }
    if (changed('sends')) sends(t, was, c);
    if (changed('chain')) chain(t, was, c);
  }

  function sends(t: Track, was: Track | null, c: Element) {
    const list = ensure(c, 'Sends');
    for (const s of was?.sends ?? []) {
      if (!t.sends.some((x) => x.id === s.id)) {
        touch();
        const e = elements.get(s.id);
        e?.parentNode?.removeChild(e);
      }
    }
    for (const s of t.sends) {
      const old = was?.sends.find((x) => x.id === s.id);
      if (old && same(old, s)) continue;
      touch();
      const e = elements.get(s.id) ?? append(list, 'Send', { id: s.id });
      if (!old || old.to !== s.to) e.setAttribute('destination', channelId(s.to));
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

  function chain(t: Track, was: Track | null, c: Element) {
    const list = ensure(c, 'Devices');
    for (const d of was?.chain ?? []) {
      if (!t.chain.some((x) => x.id === d.id)) {
        touch();
        const e = elements.get(d.id);
        e?.parentNode?.removeChild(e);
      }
    }
    for (const d of t.chain) {
      const old = was?.chain.find((x) => x.id === d.id) ?? null;
      if (old && same(old, d)) continue;
      touch();
      const e = elements.get(d.id);
      if (d.kind === 'rack') elements.set(d.id, rackElement(list, e && old ? e : null, d));
      else if (e && old?.kind === 'device') editDevice(e, old, d);
      else elements.set(d.id, newDevice(list, d));
    }
    const order = t.chain.map((d) => elements.get(d.id)!).filter(Boolean);
    const now = kids(list);
    if (now.length === order.length && now.some((x, i) => x !== order[i])) {
      touch();
      for (const e of order) list.appendChild(e);
    }
  }

  function clips() {
    // sound stays where it is in seconds, so a new tempo moves its beats
    if (base && before && before.tempo !== session.tempo) {
      for (const key of new Set(base.source.beats.map(([, a]) => a))) {
        for (const e of new Set(base.source.beats.filter(([, a]) => a === key).map(([x]) => x))) {
          const v = attr(e, key);
          if (v !== null && Number(v) !== 0) {
            e.setAttribute(key, String(Number(((Number(v) * session.tempo) / before.tempo).toPrecision(15))));
          }
        }
      }
    }
    const arranged = session.tracks.filter(
      (t) => t.clips.length > 0 || (known.get(t.id)?.clips.length ?? 0) > 0,
    );
    for (const t of arranged) {
      const was = known.get(t.id);
      if (was && same(was.clips, t.clips)) continue;
      touch();
      for (const c of was?.clips ?? []) {
        if (!t.clips.some((x) => same(x, c))) {
          const e = elements.get(c.id);
          e?.parentNode?.removeChild(e);
        }
      }
      const fresh = t.clips.filter((c) => !was?.clips.some((x) => same(x, c)));
      if (!fresh.length) continue;
      const list = ensure(lanesOf(t), 'Clips', { timeUnit: 'seconds' });
      for (const c of fresh) {
        const m = session.media.find((x) => x.id === c.media);
        const bytes = options.media?.get(c.media);
        const path =
          Object.keys(entries).find((k) => bytes && entries[k] === bytes) ??
          `audio/${c.media.slice(0, 12)}.wav`;
        if (bytes && !entries[path]) entries[path] = bytes;
        const e = append(list, 'Clip', {
          time: c.start,
          duration: c.length,
          contentTimeUnit: 'seconds',
          playStart: c.offset,
          name: m?.name ?? 'clip',
        });
        const a = append(e, 'Audio', {
          channels: m?.channels ?? 2,
          sampleRate: m?.sampleRate ?? session.sampleRate,
          duration: m ? m.frames / m.sampleRate : c.length,
        });
        append(a, 'File', { path });
      }
    }
  }

  function lanes() {
    for (const t of session.tracks) {
      const was = known.get(t.id)?.automation ?? [];
      if (same(was, t.automation ?? [])) continue;
      for (const home of homesOf(t, elements)) {
        writeLanes(
          root,
          home,
          was,
          () => {
            touch();
            return lanesOf(t);
          },
          (name) => {
            touch();
            const e = ensure(home.element, name);
            if (!e.hasAttribute('id')) e.setAttribute('id', `${home.of}-${name.toLowerCase()}`);
            return e.getAttribute('id')!;
          },
        );
      }
    }
    // what moved something that has gone
    if (edited) for (const e of aimless(root)) if (!lost.has(e)) e.parentNode!.removeChild(e);
  }

  /** A track's place in the arrangement, in seconds. */
  function lanesOf(t: Track): Element {
    const all = ensure(ensure(root, 'Arrangement', { id: 'arrangement' }), 'Lanes', { timeUnit: 'seconds' });
    return (
      kids(all, 'Lanes').find((l) => attr(l, 'track') === t.id && attr(l, 'timeUnit') === 'seconds') ??
      append(all, 'Lanes', { track: t.id, timeUnit: 'seconds' })
    );
  }

  function states() {
    for (const t of session.tracks) {
      for (const d of devicesIn(t.chain)) {
        const s = d.foreign?.state;
        if (s && !entries[s.path] && options.states?.has(s.sha256)) {
          entries[s.path] = options.states.get(s.sha256)!;
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
      '<?xml version="1.0" encoding="UTF-8"?>\n<Project version="1.0"><Application name="Rope Shelf" version="0.1"/><Transport/><Structure/><Arrangement id="arrangement"><Lanes timeUnit="seconds"/></Arrangement><Scenes/></Project>',
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

function plainNotes(s: Session): string[] {
  const out: string[] = [];
  const devices = s.tracks.flatMap((t) => t.chain).filter((d): d is Device => d.kind === 'device');
  const racks = s.tracks.flatMap((t) => t.chain).filter((d) => d.kind === 'rack');
  const own = [
    ...new Set(
      devices
        .filter((d) => !['eq', 'compressor', 'gate', 'limiter', 'opaque'].includes(d.type))
        .map((d) => DEVICE_TYPES[d.type].label),
    ),
  ];
  if (own.length) {
    out.push(
      `Devices of this program (${own.join(', ')}) are written with all their values; another program shows them as unknown devices.`,
    );
  }
  if (devices.some((d) => d.type === 'compressor')) {
    out.push(
      'Compressors carry threshold, ratio, attack, release and gain; knee, lookahead, detector, link, key filter and mix are this program’s own values.',
    );
  }
  if (devices.some((d) => d.type === 'gate')) {
    out.push(
      'Gates carry threshold, ratio, range, attack and release; hysteresis, hold, lookahead and key filter are this program’s own values.',
    );
  }
  if (devices.some((d) => d.type === 'limiter')) {
    out.push(
      'Limiters carry threshold, ceiling (as an output gain), release and attack (as lookahead); the true-peak mode is this program’s own.',
    );
  }
  if (racks.length) {
    out.push(
      `Racks (${racks.map((r) => r.name).join(', ')}) are one unknown device each for another program; strands, blend and handles travel in an entry of this program’s own.`,
    );
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
