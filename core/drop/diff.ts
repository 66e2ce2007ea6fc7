import { DEVICE_TYPES } from '../devices/index.ts';
import { laneTarget } from '../session/automation.ts';
import { canonicalJson, same } from '../model/json.ts';
import { formatDb, formatPan, formatValue } from '../model/units.ts';
import { controllerName, tieTarget } from '../session/handles.ts';
import type { Device, Handle, Lane, PresetContent, Rack, Slot, Track } from '../model/types.ts';

export interface Difference {
  label: string;
  from: string;
  to: string;
  kind: 'value' | 'added' | 'removed' | 'moved';
}

/**
 * What differs between two contents, in words and units: structure first, then values. Tracks pair by order,
 * devices by the longest common run of types and names.
 */
export function diffPresets(a: PresetContent, b: PresetContent): Difference[] {
  const out: Difference[] = [];
  pair('track', a.tracks, b.tracks);
  pair('spare', a.spares, b.spares);
  return out;

  function pair(word: string, x: Track[], y: Track[]) {
    for (let i = 0; i < Math.max(x.length, y.length); i++) {
      if (!y[i]) out.push({ label: `${word} ${x[i].name}`, from: x[i].name, to: '—', kind: 'removed' });
      else if (!x[i]) out.push({ label: `${word} ${y[i].name}`, from: '—', to: y[i].name, kind: 'added' });
      else {
        diffTracks(
          x[i],
          y[i],
          out,
          (id) => endName(a, id),
          (id) => endName(b, id),
        );
      }
    }
  }
}

const endName = (c: PresetContent, id: string) =>
  c.looseEnds.find((e) => e.id === id)?.label ?? c.tracks.find((t) => t.id === id)?.name ?? id;

function diffTracks(
  a: Track,
  b: Track,
  out: Difference[],
  nameA: (id: string) => string,
  nameB: (id: string) => string,
): void {
  const value = (label: string, x: unknown, y: unknown, text: (v: never) => string) => {
    if (canonicalJson(x ?? null) !== canonicalJson(y ?? null)) {
      out.push({
        label: `${b.name} · ${label}`,
        from: x === undefined ? '—' : text(x as never),
        to: y === undefined ? '—' : text(y as never),
        kind: 'value',
      });
    }
  };
  value('name', a.name, b.name, String);
  value('colour', a.colour, b.colour, String);
  value('note', a.note, b.note, String);
  value('level', a.level, b.level, (v: number) => formatDb(v));
  value('polarity', a.polarity, b.polarity, (v: boolean) => (v ? 'turned over' : 'as is'));
  value('pan', a.pan, b.pan, (v: number) => formatPan(v));
  value('width', a.channels, b.channels, (v: number) => (v === 1 ? 'mono' : 'stereo'));
  const outName = (t: Track, name: (id: string) => string) =>
    t.output.kind === 'track' ? name(t.output.track) : t.output.kind;
  value('output', outName(a, nameA), outName(b, nameB), String);
  const sends = new Set([...a.sends.map((s) => nameA(s.to)), ...b.sends.map((s) => nameB(s.to))]);
  for (const to of sends) {
    const [x, y] = [a.sends.find((s) => nameA(s.to) === to), b.sends.find((s) => nameB(s.to) === to)];
    if (!x || !y) {
      out.push({
        label: `${b.name} · send to ${to}`,
        from: x ? formatDb(x.level) : '—',
        to: y ? formatDb(y.level) : '—',
        kind: x ? 'removed' : 'added',
      });
      continue;
    }
    value(`send to ${to} · level`, x.level, y.level, (v: number) => formatDb(v));
    value(`send to ${to} · tap`, x.tap, y.tap, String);
    value(`send to ${to} · on`, x.on, y.on, (v: boolean) => (v ? 'on' : 'off'));
    value(`send to ${to} · pan`, [x.panMode, x.pan], [y.panMode, y.pan], (v: [string, number]) =>
      v[0] === 'follow' ? 'follows the track' : formatPan(v[1]),
    );
  }
  chains(b.name, a.chain, b.chain);
  const lanes = (t: Track, name: (id: string) => string) =>
    new Map(
      (t.automation ?? []).flatMap((l) => {
        const x = laneTarget(t, l, name);
        return x ? [[x.label, l] as const] : [];
      }),
    );
  const [la, lb] = [lanes(a, nameA), lanes(b, nameB)];
  const words = (l?: Lane) => (l ? `${l.points.length} points${l.on ? '' : ', off'}` : '—');
  for (const label of new Set([...la.keys(), ...lb.keys()])) {
    const [x, y] = [la.get(label), lb.get(label)];
    if (!x || !y) {
      out.push({
        label: `${b.name} · automation of ${label}`,
        from: words(x),
        to: words(y),
        kind: x ? 'removed' : 'added',
      });
    } else if (!same([x.on, x.points], [y.on, y.points])) {
      out.push({
        label: `${b.name} · automation of ${label}`,
        from: words(x),
        to: words(x) === words(y) ? `${words(y)}, moved` : words(y),
        kind: 'value',
      });
    }
  }

  function chains(label: string, x: Slot[], y: Slot[]) {
    for (const [p, q] of align(x, y)) {
      if (!q) out.push({ label: `${label} · ${p!.name}`, from: p!.name, to: '—', kind: 'removed' });
      else if (!p) out.push({ label: `${label} · ${q.name}`, from: '—', to: q.name, kind: 'added' });
      else {
        const within = label === b.name ? '' : label.slice(b.name.length + 3) + ' · ';
        value(`${within}${q.name} · name`, p.name, q.name, String);
        value(`${within}${q.name} · state`, p.state, q.state, String);
        if (p.kind === 'device' && q.kind === 'device') devices(within, p, q);
        else if (p.kind === 'rack' && q.kind === 'rack') racks(`${label} · ${q.name}`, within + q.name, p, q);
      }
    }
  }

  function devices(within: string, x: Device, y: Device) {
    const spec = DEVICE_TYPES[y.type];
    value(
      `${within}${y.name} · key`,
      x.key.kind === 'track' ? nameA(x.key.track) : 'own',
      y.key.kind === 'track' ? nameB(y.key.track) : 'own',
      String,
    );
    value(
      `${within}${y.name} · third-party state`,
      x.foreign,
      y.foreign,
      (v: Device['foreign'] & object) => v.state?.sha256.slice(0, 12) ?? '',
    );
    for (const p of Object.keys(y.params)) {
      value(`${within}${y.name} · ${spec.byId[p]?.label ?? p}`, x.params[p], y.params[p], (v: never) =>
        spec.byId[p] ? formatValue(spec.byId[p], v) : String(v),
      );
    }
  }

  /** Strands and handles pair by order; a tie shows as the words of what it moves. */
  function racks(label: string, short: string, x: Rack, y: Rack) {
    value(`${short} · blend`, x.blend, y.blend, (v: Rack['blend']) =>
      v.mode === 'off' ? 'off' : `${v.mode}, ${v.position} %`,
    );
    for (let i = 0; i < Math.max(x.strands.length, y.strands.length); i++) {
      const [s, t] = [x.strands[i], y.strands[i]];
      if (!t || !s) {
        out.push({
          label: `${label} · strand ${(t ?? s).name}`,
          from: s?.name ?? '—',
          to: t?.name ?? '—',
          kind: t ? 'added' : 'removed',
        });
        continue;
      }
      value(`${short} · ${t.name} · name`, s.name, t.name, String);
      value(`${short} · ${t.name} · level`, s.level, t.level, (v: number) => formatDb(v));
      value(`${short} · ${t.name} · pan`, s.pan, t.pan, (v: number) => formatPan(v));
      value(`${short} · ${t.name} · mute`, s.mute, t.mute, (v: boolean) => (v ? 'muted' : 'open'));
      value(`${short} · ${t.name} · solo`, s.solo, t.solo, (v: boolean) => (v ? 'solo' : 'off'));
      chains(`${label} · ${t.name}`, s.chain, t.chain);
    }
    const ties = (r: Rack, h: Handle) =>
      h.ties
        .map((t) => {
          const g = tieTarget(r, t);
          return g
            ? `${g.label} ${formatValue(g.spec, t.from)} to ${formatValue(g.spec, t.to)}${t.curve ? `, curve ${t.curve}` : ''}`
            : '?';
        })
        .join('; ');
    for (let i = 0; i < Math.max(x.handles.length, y.handles.length); i++) {
      const [h, k] = [x.handles[i], y.handles[i]];
      if (!h || !k) {
        out.push({
          label: `${label} · handle ${(k ?? h).name}`,
          from: h?.name ?? '—',
          to: k?.name ?? '—',
          kind: k ? 'added' : 'removed',
        });
        continue;
      }
      value(`${short} · handle ${k.name} · name`, h.name, k.name, String);
      value(`${short} · handle ${k.name} · colour`, h.colour, k.colour, String);
      value(`${short} · handle ${k.name} · value`, h.value, k.value, (v: number) => `${v} %`);
      value(`${short} · handle ${k.name} · controller`, h.cc, k.cc, (v: number | null) =>
        v === null ? 'none' : controllerName(v),
      );
      value(`${short} · handle ${k.name} · ties`, ties(x, h), ties(y, k), String);
    }
  }
}

/**
 * Pairs slots of two chains: equal types in order (longest common subsequence, names preferred), the rest
 * stand alone.
 */
export function align(a: Slot[], b: Slot[]): [Slot | null, Slot | null][] {
  const type = (x: Slot) => (x.kind === 'rack' ? 'rack' : x.type);
  const score = (x: Slot, y: Slot) => (type(x) !== type(y) ? 0 : x.name === y.name ? 2 : 1);
  const L = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0));
  for (let i = a.length - 1; i >= 0; i--) {
    for (let j = b.length - 1; j >= 0; j--) {
      const s = score(a[i], b[j]);
      L[i][j] = Math.max(L[i + 1][j], L[i][j + 1], s ? s + L[i + 1][j + 1] : 0);
    }
  }
  const out: [Slot | null, Slot | null][] = [];
  let i = 0;
  let j = 0;
  while (i < a.length || j < b.length) {
    const s = i < a.length && j < b.length ? score(a[i], b[j]) : 0;
    if (s && L[i][j] === s + L[i + 1][j + 1]) out.push([a[i++], b[j++]]);
    else if (j >= b.length || (i < a.length && L[i + 1][j] >= L[i][j + 1])) out.push([a[i++], null]);
    else out.push([null, b[j++]]);
  }
  return out;
}
