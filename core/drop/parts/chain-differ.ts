import { DEVICE_TYPES, revisionOf, valueIn } from '../../devices/index.ts';
import type { Device, Handle, Rack, Slot, Strand } from '../../model/types.ts';
import { formatDb, formatPan, formatValue } from '../../model/units.ts';
import { controllerName } from '../../session/handles.ts';
import { tieTarget } from '../../session/tie-targets.ts';
import { alignKnown } from '../align.ts';
import type { Differing } from './part.ts';

/**
 * How two chains differ; slots pair by what is known of them, otherwise by type, name and order.
 * @param label the place in full, for what was added or removed
 * @param within the place behind the line's name, for values
 */
export function differChains(label: string, within: string, a: Slot[], b: Slot[], c: Differing): void {
  tellOrder(label, a, b, c);
  for (const [x, y] of alignKnown(a, b, c.same)) {
    if (!y) {
      c.tell({ label: `${label} · ${x!.name}`, from: x!.name, to: '—', kind: 'removed' });
      continue;
    }
    if (!x) {
      c.tell({ label: `${label} · ${y.name}`, from: '—', to: y.name, kind: 'added' });
      continue;
    }
    const short = within ? `${within} · ${y.name}` : y.name;
    c.value(`${short} · name`, x.name, y.name, String);
    c.value(`${short} · state`, x.state, y.state, String);
    if (x.kind === 'device' && y.kind === 'device') differDevices(short, x, y, c);
    else if (x.kind === 'rack' && y.kind === 'rack') differRacks(`${label} · ${y.name}`, short, x, y, c);
  }
}

/** Known slots that stand in another order; a device that was moved is neither removed nor added. */
function tellOrder(label: string, a: Slot[], b: Slot[], c: Differing): void {
  const moved = b.flatMap((y) => a.filter((x) => x.id === c.same.get(y.id)));
  const before = a.filter((x) => moved.includes(x));
  const names = (chain: readonly Slot[]) => chain.map((x) => x.name).join(' → ');
  if (moved.every((x, i) => x === before[i])) return;
  c.tell({ label: `${label} · order of devices`, from: names(before), to: names(moved), kind: 'value' });
}

function differDevices(label: string, a: Device, b: Device, c: Differing): void {
  for (const p of c.inChain) p.device!.differ(label, a, b, c);
  c.value(`${label} · revision of its sound`, revisionOf(a), revisionOf(b), String);
  c.value(`${label} · third-party state`, a.foreign, b.foreign, (v) => v.state?.sha256.slice(0, 12) ?? '');
  for (const p of DEVICE_TYPES[b.type].params) {
    c.value(`${label} · ${p.label}`, valueIn(a, p), valueIn(b, p), (v) => formatValue(p, v));
  }
}

/** Strands and handles pair by order; a tie shows as the words of what it moves. */
function differRacks(label: string, short: string, a: Rack, b: Rack, c: Differing): void {
  const blend = (v: Rack['blend']) => (v.mode === 'off' ? 'off' : `${v.mode}, ${v.position} %`);
  c.value(`${short} · blend`, a.blend, b.blend, blend);
  for (let i = 0; i < Math.max(a.strands.length, b.strands.length); i++) {
    const [x, y] = [a.strands[i], b.strands[i]];
    if (x && y) differStrands(label, short, x, y, c);
    else oneSided(`${label} · strand`, x, y, c);
  }
  for (let i = 0; i < Math.max(a.handles.length, b.handles.length); i++) {
    const [x, y] = [a.handles[i], b.handles[i]];
    if (x && y) differHandles(`${short} · handle ${y.name}`, [a, x], [b, y], c);
    else oneSided(`${label} · handle`, x, y, c);
  }
}

/** A strand or handle that only one side has. */
function oneSided(
  label: string,
  x: { name: string } | undefined,
  y: { name: string } | undefined,
  c: Differing,
): void {
  c.tell({
    label: `${label} ${(y ?? x)!.name}`,
    from: x?.name ?? '—',
    to: y?.name ?? '—',
    kind: y ? 'added' : 'removed',
  });
}

function differStrands(label: string, short: string, a: Strand, b: Strand, c: Differing): void {
  const at = `${short} · ${b.name}`;
  c.value(`${at} · name`, a.name, b.name, String);
  c.value(`${at} · level`, a.level, b.level, (v) => formatDb(v));
  c.value(`${at} · pan`, a.pan, b.pan, formatPan);
  c.value(`${at} · mute`, a.mute, b.mute, (v) => (v ? 'muted' : 'open'));
  c.value(`${at} · solo`, a.solo, b.solo, (v) => (v ? 'solo' : 'off'));
  differChains(`${label} · ${b.name}`, at, a.chain, b.chain, c);
}

function differHandles(label: string, [ra, a]: [Rack, Handle], [rb, b]: [Rack, Handle], c: Differing): void {
  c.value(`${label} · name`, a.name, b.name, String);
  c.value(`${label} · colour`, a.colour, b.colour, String);
  c.value(`${label} · value`, a.value, b.value, (v) => `${v} %`);
  c.value(`${label} · controller`, a.cc, b.cc, (v) => (v === null ? 'none' : controllerName(v)));
  c.value(`${label} · button`, a.button ?? '', b.button ?? '', (v) => v || 'none');
  c.value(`${label} · ties`, tieWords(ra, a), tieWords(rb, b), String);
}

const tieWords = (rack: Rack, h: Handle): string =>
  h.ties
    .map((t) => {
      const g = tieTarget(rack, t);
      if (!g) return '?';
      const curve = t.curve ? `, curve ${t.curve}` : '';
      return `${g.label} ${formatValue(g.spec, t.from)} to ${formatValue(g.spec, t.to)}${curve}`;
    })
    .join('; ');
