import { canonicalJson } from '../model/json.ts';
import type { PresetContent, Track } from '../model/types.ts';
import { IN_CHAIN, TOLD } from './parts/index.ts';
import type { Differing } from './parts/part.ts';
import type { Difference } from './types.ts';

/**
 * What differs between two contents, in words and units: structure first, then values. Tracks pair by order,
 * devices by the longest common run of types and names.
 */
export function diffPresets(a: PresetContent, b: PresetContent): Difference[] {
  const out: Difference[] = [];
  const pair = (word: string, x: Track[], y: Track[]) => {
    for (let i = 0; i < Math.max(x.length, y.length); i++) {
      if (!y[i]) out.push({ label: `${word} ${x[i].name}`, from: x[i].name, to: '—', kind: 'removed' });
      else if (!x[i]) out.push({ label: `${word} ${y[i].name}`, from: '—', to: y[i].name, kind: 'added' });
      else differTracks(x[i], y[i], differing(y[i], a, b, out));
    }
  };
  pair('track', a.tracks, b.tracks);
  pair('spare', a.spares, b.spares);
  return out;
}

/** Part by part; the width, which is no part, stands behind the fader. */
function differTracks(a: Track, b: Track, c: Differing): void {
  for (const p of TOLD) if (p.section === 'face' || p.section === 'fader') p.differ?.(a, b, c);
  c.value('width', a.channels, b.channels, (v) => (v === 1 ? 'mono' : 'stereo'));
  for (const p of TOLD) if (p.section !== 'face' && p.section !== 'fader') p.differ?.(a, b, c);
}

const endName = (c: PresetContent, id: string): string =>
  c.looseEnds.find((e) => e.id === id)?.label ?? c.tracks.find((t) => t.id === id)?.name ?? id;

function differing(line: Track, a: PresetContent, b: PresetContent, out: Difference[]): Differing {
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
