import { DEVICE_TYPES, revisionOf, valueIn } from '../../devices/index.ts';
import type { Device, Handle, Rack, Slot, Strand, Tie, Track } from '../../model/types.ts';
import { formatDb, formatPan, formatValue } from '../../model/units.ts';
import { controllerName } from '../../session/handles.ts';
import { chainAt, placeOf } from '../../session/slots.ts';
import { adaptationAt } from '../adaptations/adaptation.ts';
import { explainValue, replacedBy } from '../adaptations/index.ts';
import type { Reporting } from './part.ts';

/** Rows of everything in a line's chain. */
export function reportChainOf(want: Track, found: Track | undefined, c: Reporting): void {
  if (!c.has('chain')) {
    if (want.chain.length) {
      c.leftOut(`${want.id}/chain`, `${want.name} · chain`, `${want.chain.length} devices`);
    }
    return;
  }
  // a chain that went into a strand is looked for where its first slot stands
  const first = want.chain.length ? c.plan.ids[want.chain[0].id] : undefined;
  const where = found && first ? placeOf(found, first) : null;
  const there = found && (chainAt(found, where?.container ?? found.id) ?? []);
  reportChain(want, want.id, want.name, want.chain, there, c);
}

function reportChain(
  t: Track,
  at: string,
  label: string,
  want: Slot[],
  found: Slot[] | undefined,
  c: Reporting,
): void {
  const places = want.map((s) => found?.findIndex((x) => x.id === c.plan.ids[s.id]) ?? -1);
  c.row(
    `${at}/order`,
    `${label} · order of devices`,
    want.map((s) => s.name),
    places
      .map((p) => (p < 0 ? 'missing' : found![p].name))
      .filter((_, i) => i === 0 || places[i] > places[i - 1]),
    (v) => v.join(' → ') || 'empty',
  );
  want.forEach((s, i) => {
    const x = found?.[places[i]];
    if (s.kind === 'device') reportDevice(t, s, x?.kind === 'device' ? x : undefined, c);
    else reportRack(t, s, x?.kind === 'rack' ? x : undefined, c);
  });
}

function reportDevice(t: Track, want: Device, found: Device | undefined, c: Reporting): void {
  const at = `${t.id}/${want.id}`;
  const label = `${t.name} · ${want.name}`;
  const other = replacedBy(at, found, c.plan);
  if (other) {
    c.tell({ path: `${at}/type`, label: `${label} · device`, verdict: 'adapted', ...other });
    c.row(`${at}/state`, `${label} · state`, want.state, found!.state, String);
    return;
  }
  c.row(`${at}/type`, `${label} · device`, want.type, found?.type, String);
  c.row(`${at}/name`, `${label} · name`, want.name, found?.name, String);
  c.row(`${at}/state`, `${label} · state`, want.state, found?.state, String);
  if (revisionOf(want) > 1 || (found && revisionOf(found) > 1)) {
    const now = found && revisionOf(found);
    c.row(`${at}/revision`, `${label} · revision of its sound`, revisionOf(want), now, String);
  }
  if (want.foreign) {
    const text = (v: NonNullable<Device['foreign']>) => v.state?.sha256.slice(0, 12) ?? v.identifier;
    c.row(`${at}/foreign`, `${label} · third-party state`, want.foreign, found?.foreign, text);
  }
  for (const p of DEVICE_TYPES[want.type].params) {
    const name = `${label} · ${p.label}`;
    const now = found && valueIn(found, p);
    const why = explainValue(t, want, p.id, now, c.plan);
    c.row(`${at}/${p.id}`, name, valueIn(want, p), now, (v) => formatValue(p, v), why);
  }
  for (const p of c.inChain) p.device!.report(t, want, found, c);
}

const blendText = (v: Rack['blend']): string =>
  v.mode === 'off' ? 'off' : `${v.mode === 'power' ? 'equal power' : 'linear'}, ${v.position} %`;

function reportRack(t: Track, want: Rack, found: Rack | undefined, c: Reporting): void {
  const at = `${t.id}/${want.id}`;
  const label = `${t.name} · ${want.name}`;
  c.row(`${at}/name`, `${label} · name`, want.name, found?.name, String);
  c.row(`${at}/state`, `${label} · state`, want.state, found?.state, String);
  c.row(`${at}/blend`, `${label} · blend`, want.blend, found?.blend, blendText);
  c.row(`${at}/strands`, `${label} · number of strands`, want.strands.length, found?.strands.length, String);
  want.strands.forEach((s, i) => reportStrand(t, at, label, s, found?.strands[i], c));
  c.row(`${at}/handles`, `${label} · number of handles`, want.handles.length, found?.handles.length, String);
  want.handles.forEach((h, i) => reportHandle(t, at, label, h, found?.handles[i], c));
}

function reportStrand(
  t: Track,
  rack: string,
  rackLabel: string,
  want: Strand,
  found: Strand | undefined,
  c: Reporting,
): void {
  const at = `${rack}/${want.id}`;
  const label = `${rackLabel} · ${want.name}`;
  c.row(`${at}/name`, `${label} · name`, want.name, found?.name, String);
  c.row(`${at}/level`, `${label} · level`, want.level, found?.level, (v) => formatDb(v));
  c.row(`${at}/pan`, `${label} · pan`, want.pan, found?.pan, formatPan);
  c.row(
    `${at}/mute`,
    `${label} · mute and solo`,
    [want.mute, want.solo],
    found && [found.mute, found.solo],
    (v) => `${v[0] ? 'muted' : 'open'}${v[1] ? ', solo' : ''}`,
  );
  reportChain(t, at, label, want.chain, found?.chain, c);
}

function reportHandle(
  t: Track,
  rack: string,
  rackLabel: string,
  want: Handle,
  found: Handle | undefined,
  c: Reporting,
): void {
  const at = `${rack}/${want.id}`;
  const label = `${rackLabel} · ${want.name}`;
  const face = (h: Handle) => [h.name, h.colour];
  c.row(`${at}/name`, `${label} · name and colour`, face(want), found && face(found), (v) => v.join(', '));
  c.row(`${at}/value`, `${label} · value`, want.value, found?.value, (v) => `${v} %`);
  const moved = adaptationAt(c.plan, `${t.id}/${want.id}/cc`);
  c.row<number | null>(
    `${at}/cc`,
    `${label} · controller`,
    want.cc,
    found?.cc,
    (v) => (v === null ? 'none' : controllerName(v)),
    moved && found?.cc === moved.to ? { verdict: 'adapted', reason: moved.reason } : null,
  );
  c.row(
    `${at}/button`,
    `${label} · button`,
    want.button ?? '',
    found && (found.button ?? ''),
    (v) => v || 'none',
  );
  const tie = (y: Tie, slot: string) => [slot, y.param, y.from, y.to, y.curve];
  c.row(
    `${at}/ties`,
    `${label} · ties`,
    want.ties.map((y) => tie(y, c.plan.ids[y.slot] ?? y.slot)),
    found?.ties.map((y) => tie(y, y.slot)),
    (v) => `${v.length} values`,
  );
}
