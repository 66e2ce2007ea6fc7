import { wholeOf, type ByteSource } from '../bytes.ts';
import { DEVICE_TYPES, revisionOf } from '../../devices/index.ts';
import { canonicalJson } from '../../model/json.ts';
import type { HardwareUse } from '../../model/hardware.ts';
import type { Key, Params, Rack, Session, Track } from '../../model/types.ts';

/** The entry with what the format has no word for. */
export const EXTRA = 'rope-shelf.json';

/** What our extra entry says beyond the format. */
export interface Extra {
  version: 1;
  session: Pick<Session, 'sampleRate' | 'bitDepth' | 'panLaw' | 'note'> &
    Partial<Pick<Session, 'setupId' | 'setup' | 'headings' | 'key'>>;
  tracks: Record<
    string,
    Partial<
      Pick<
        Track,
        | 'polarity'
        | 'soloSafe'
        | 'hidden'
        | 'inputTrim'
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
  devices: Record<
    string,
    { key?: Key; words?: Params; rack?: Rack; hardware?: HardwareUse; revision?: number }
  >;
}

/** What our entry says under an id, never what every object has. */
export const ownOf = <T>(all: Record<string, T>, id: string): T | undefined =>
  Object.hasOwn(all, id) ? all[id] : undefined;

const isObject = (x: unknown): x is object => typeof x === 'object' && x !== null && !Array.isArray(x);

/**
 * The revision of a device's sound in a file: as our entry says; the first one in files of ours from before there were
 * revisions; undefined, the present one, where another program made the device.
 */
export function revisionIn(extra: Extra | null, id: string): number | undefined {
  if (!extra) return undefined;
  const all = Object.values(extra.devices);
  const isOlder = !all.some((d) => d.revision !== undefined || d.rack);
  return ownOf(extra.devices, id)?.revision ?? (isOlder ? 1 : undefined);
}

/** Our own entry; null where there is none. */
export function readExtra(entry: ByteSource | undefined): Extra | null | 'damaged' {
  if (!entry) return null;
  const bytes = wholeOf(entry);
  try {
    const e = JSON.parse(new TextDecoder().decode(bytes)) as Extra;
    const whole = isObject(e) && e.version === 1 && [e.tracks, e.session, e.devices].every(isObject);
    return whole ? e : 'damaged';
  } catch {
    return 'damaged';
  }
}

/** What goes into our entry for a session. */
export function extraOf(s: Session): Extra {
  // without a prototype: an id is only a name
  const tracks = Object.create(null) as Extra['tracks'];
  const devices = Object.create(null) as Extra['devices'];
  for (const t of s.tracks) {
    tracks[t.id] = {
      polarity: t.polarity,
      soloSafe: t.soloSafe,
      hidden: t.hidden,
      ...(t.inputTrim ? { inputTrim: t.inputTrim } : {}),
      input: t.input,
      colour: t.colour,
      role: t.role,
      channels: t.channels,
      ...(t.output.kind === 'midi' ? { midi: t.output } : {}),
      ...(t.notes?.length ? { notes: t.notes } : {}),
      // what a print of a line put aside is not in the file: there is no way back from it there
      ...(t.printed?.instrument ? { printed: t.printed } : {}),
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
      const own = {
        ...(d.key.kind === 'track' ? { key: d.key } : {}),
        ...(Object.keys(words).length ? { words } : {}),
        ...(d.hardware ? { hardware: d.hardware } : {}),
        revision: revisionOf(d),
      };
      devices[d.id] = own;
    }
  }
  return {
    version: 1,
    session: {
      sampleRate: s.sampleRate,
      bitDepth: s.bitDepth,
      panLaw: s.panLaw,
      note: s.note,
      ...(s.setupId ? { setupId: s.setupId } : {}),
      ...(s.setup ? { setup: s.setup } : {}),
      ...(s.headings?.length ? { headings: s.headings } : {}),
      ...(s.key ? { key: s.key } : {}),
    },
    tracks,
    devices,
  };
}

/** Whether what it says differs between two states of a session. */
export const hasExtras = (s: Session, before: Session) =>
  canonicalJson(extraOf(s)) !== canonicalJson(extraOf(before));
