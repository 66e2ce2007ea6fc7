import { canonicalJson } from '../model/json.ts';
import type { PresetContent, Track } from '../model/types.ts';
import type { SameAs } from './align.ts';
import { IN_CHAIN, TOLD } from './parts/index.ts';
import type { Differing } from './parts/part.ts';
import type { Difference } from './types.ts';

/**
 * What differs between two contents, in words and units: structure first, then values. Tracks pair by name and
 * role, what is left by role and order; devices by the longest common run of types and names.
 * @param same for devices and racks of the second that are known to be one of the first: id → id there
 */
export function diffPresets(a: PresetContent, b: PresetContent, same: SameAs = new Map()): Difference[] {
  const out: Difference[] = [];
  const pair = (word: string, x: Track[], y: Track[]) => {
    for (const [was, now] of pairsOf(x, y)) {
      if (was && now) differTracks(was, now, { ...differing(now, a, b, out), same });
      else if (was) out.push({ label: `${word} ${was.name}`, from: was.name, to: '—', kind: 'removed' });
      else if (now) out.push({ label: `${word} ${now.name}`, from: '—', to: now.name, kind: 'added' });
    }
  };
  pair('track', a.tracks, b.tracks);
  pair('spare', a.spares, b.spares);
  differPrint(a, b, out);
  return out;
}

/** Stems and versions of the mix, by name: what each is made of. */
function differPrint(a: PresetContent, b: PresetContent, out: Difference[]): void {
  const [was, now] = [printWords(a), printWords(b)];
  for (const name of new Set([...was.keys(), ...now.keys()])) {
    const [from, to] = [was.get(name), now.get(name)];
    if (from === to) continue;
    const change = to ? 'value' : 'removed';
    out.push({
      label: `print plan · “${name}”`,
      from: from ?? '—',
      to: to ?? '—',
      kind: from ? change : 'added',
    });
  }
}

function printWords(c: PresetContent): Map<string, string> {
  const plan = c.print ?? c.session?.print;
  const named = (ids: readonly string[]) => ids.map((id) => endName(c, id)).join(', ');
  return new Map([
    ...(plan?.stems ?? []).map((s): [string, string] => [s.name, `${named(s.lines)} (${s.depth})`]),
    ...(plan?.versions ?? []).map((v): [string, string] => {
      const levels = Object.entries(v.levels).map(([id, db]) => `${endName(c, id)} ${db} dB`);
      return [v.name, [...(v.muted.length ? [`without ${named(v.muted)}`] : []), ...levels].join(', ')];
    }),
  ]);
}

/** Each track of the first with the one of the second that it is; those without one, then what is new. */
function pairsOf(x: Track[], y: Track[]): [Track | null, Track | null][] {
  const partner = new Map<Track, Track>();
  const alike: ((a: Track, b: Track) => boolean)[] = [
    (a, b) => a.role === b.role && a.name === b.name,
    (a, b) => a.role === b.role,
    () => true,
  ];
  // a line that is the only one is itself, whatever it became; of several the last step would be a guess
  const steps = x.length === 1 && y.length === 1 ? alike : alike.slice(0, 2);
  const free = new Set(y);
  for (const fits of steps) {
    for (const t of x) {
      const other = partner.has(t) ? undefined : [...free].find((z) => fits(t, z));
      if (!other) continue;
      partner.set(t, other);
      free.delete(other);
    }
  }
  const known = x.map((t): [Track, Track | null] => [t, partner.get(t) ?? null]);
  return [...known, ...[...free].map((t): [null, Track] => [null, t])];
}

/** Part by part; the width, which is no part, stands behind the fader. */
function differTracks(a: Track, b: Track, c: Differing): void {
  for (const p of TOLD) if (p.section === 'face' || p.section === 'fader') p.differ?.(a, b, c);
  c.value('width', a.channels, b.channels, (v) => (v === 1 ? 'mono' : 'stereo'));
  for (const p of TOLD) if (p.section !== 'face' && p.section !== 'fader') p.differ?.(a, b, c);
}

const endName = (c: PresetContent, id: string): string =>
  c.looseEnds.find((e) => e.id === id)?.label ?? c.tracks.find((t) => t.id === id)?.name ?? id;

function differing(
  line: Track,
  a: PresetContent,
  b: PresetContent,
  out: Difference[],
): Omit<Differing, 'same'> {
  return {
    value(label, x, y, text) {
      if (canonicalJson(x ?? null) === canonicalJson(y ?? null)) return;
      const show = (v: typeof x) => (v === undefined ? '—' : text(v));
      out.push({ label: `${line.name} · ${label}`, from: show(x), to: show(y), kind: 'value' });
    },
    tell(d) {
      out.push(d);
    },
    nameA: (id) => endName(a, id),
    nameB: (id) => endName(b, id),
    inChain: IN_CHAIN,
  };
}
