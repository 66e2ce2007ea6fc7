import { DEVICE_TYPES } from '../devices/index.ts';
import { canonicalJson } from '../model/json.ts';
import { formatDb, formatPan, formatValue } from '../model/units.ts';
import type { Device, PresetContent, Track } from '../model/types.ts';

export interface Difference {
  label: string;
  from: string;
  to: string;
  kind: 'value' | 'added' | 'removed' | 'moved';
}

/** What differs between two contents, in words and units: structure first, then values. Tracks pair by order, devices by the longest common run of types and names. */
export function diffPresets(a: PresetContent, b: PresetContent): Difference[] {
  const out: Difference[] = [];
  pair('track', a.tracks, b.tracks);
  pair('spare', a.spares, b.spares);
  return out;

  function pair(word: string, x: Track[], y: Track[]) {
    for (let i = 0; i < Math.max(x.length, y.length); i++) {
      if (!y[i]) out.push({ label: `${word} ${x[i].name}`, from: x[i].name, to: '—', kind: 'removed' });
      else if (!x[i]) out.push({ label: `${word} ${y[i].name}`, from: '—', to: y[i].name, kind: 'added' });
      else diffTracks(x[i], y[i], out, (id) => endName(a, id), (id) => endName(b, id));
    }
  }
}

const endName = (c: PresetContent, id: string) => c.looseEnds.find((e) => e.id === id)?.label ?? c.tracks.find((t) => t.id === id)?.name ?? id;

function diffTracks(a: Track, b: Track, out: Difference[], nameA: (id: string) => string, nameB: (id: string) => string): void {
  const value = (label: string, x: unknown, y: unknown, text: (v: never) => string) => {
    if (canonicalJson(x ?? null) !== canonicalJson(y ?? null)) out.push({ label: `${b.name} · ${label}`, from: x === undefined ? '—' : text(x as never), to: y === undefined ? '—' : text(y as never), kind: 'value' });
  };
  value('name', a.name, b.name, String);
  value('colour', a.colour, b.colour, String);
  value('note', a.note, b.note, String);
  value('level', a.level, b.level, (v: number) => formatDb(v));
  value('polarity', a.polarity, b.polarity, (v: boolean) => (v ? 'turned over' : 'as is'));
  value('pan', a.pan, b.pan, (v: number) => formatPan(v));
  value('width', a.channels, b.channels, (v: number) => (v === 1 ? 'mono' : 'stereo'));
  const outName = (t: Track, name: (id: string) => string) => (t.output.kind === 'track' ? name(t.output.track) : t.output.kind);
  value('output', outName(a, nameA), outName(b, nameB), String);
  const sends = new Set([...a.sends.map((s) => nameA(s.to)), ...b.sends.map((s) => nameB(s.to))]);
  for (const to of sends) {
    const [x, y] = [a.sends.find((s) => nameA(s.to) === to), b.sends.find((s) => nameB(s.to) === to)];
    if (!x || !y) { out.push({ label: `${b.name} · send to ${to}`, from: x ? formatDb(x.level) : '—', to: y ? formatDb(y.level) : '—', kind: x ? 'removed' : 'added' }); continue; }
    value(`send to ${to} · level`, x.level, y.level, (v: number) => formatDb(v));
    value(`send to ${to} · tap`, x.tap, y.tap, String);
    value(`send to ${to} · on`, x.on, y.on, (v: boolean) => (v ? 'on' : 'off'));
    value(`send to ${to} · pan`, [x.panMode, x.pan], [y.panMode, y.pan], (v: [string, number]) => (v[0] === 'follow' ? 'follows the track' : formatPan(v[1])));
  }
  const pairs = align(a.chain, b.chain);
  for (const [x, y] of pairs) {
    if (!y) out.push({ label: `${b.name} · ${x!.name}`, from: x!.name, to: '—', kind: 'removed' });
    else if (!x) out.push({ label: `${b.name} · ${y.name}`, from: '—', to: y.name, kind: 'added' });
    else {
      const spec = DEVICE_TYPES[y.type];
      value(`${y.name} · name`, x.name, y.name, String);
      value(`${y.name} · state`, x.state, y.state, String);
      value(`${y.name} · key`, x.key.kind === 'track' ? nameA(x.key.track) : 'own', y.key.kind === 'track' ? nameB(y.key.track) : 'own', String);
      value(`${y.name} · third-party state`, x.foreign, y.foreign, (v: Device['foreign'] & object) => v.state?.sha256.slice(0, 12) ?? '');
      for (const p of Object.keys(y.params)) value(`${y.name} · ${spec.byId[p]?.label ?? p}`, x.params[p], y.params[p], (v: never) => (spec.byId[p] ? formatValue(spec.byId[p], v) : String(v)));
    }
  }
}

/** Pairs devices of two chains: equal types in order (longest common subsequence, names preferred), the rest stand alone. */
function align(a: Device[], b: Device[]): [Device | null, Device | null][] {
  const score = (x: Device, y: Device) => (x.type !== y.type ? 0 : x.name === y.name ? 2 : 1);
  const L = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  for (let i = a.length - 1; i >= 0; i--) for (let j = b.length - 1; j >= 0; j--) {
    const s = score(a[i], b[j]);
    L[i][j] = Math.max(L[i + 1][j], L[i][j + 1], s ? s + L[i + 1][j + 1] : 0);
  }
  const out: [Device | null, Device | null][] = [];
  let i = 0, j = 0;
  while (i < a.length || j < b.length) {
    const s = i < a.length && j < b.length ? score(a[i], b[j]) : 0;
    if (s && L[i][j] === s + L[i + 1][j + 1]) out.push([a[i++], b[j++]]);
    else if (j >= b.length || (i < a.length && L[i + 1][j] >= L[i][j + 1])) out.push([a[i++], null]);
    else out.push([null, b[j++]]);
  }
  return out;
}
