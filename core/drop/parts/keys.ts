import { devicesIn } from '../../session/slots.ts';
import type { Device } from '../../model/types.ts';
import type { DevicePart, Part } from './part.ts';

const OWN: Device['key'] = { kind: 'own' };
const tied = (d: Device, track: string | null): Device => {
  if (d.key.kind !== 'track') return d;
  return { ...d, key: track ? { ...d.key, track } : { ...OWN } };
};

const device: DevicePart = {
  take: (d, chosen, c) => (d.key.kind === 'track' ? tied(d, chosen ? c.tie('key', d.key.track) : null) : d),

  put: (d, chosen, c) => (d.key.kind === 'track' ? tied(d, chosen ? c.end(d.key.track) : null) : d),

  report(t, want, found, c) {
    const [path, label] = [`${t.id}/${want.id}/key`, `${t.name} · ${want.name} · key`];
    if (want.key.kind === 'own') {
      c.row<Device['key']>(path, label, want.key, found?.key, (v) => v.kind);
      return;
    }
    const saved = c.preset.content.trackParts?.[t.id] ?? c.preset.content.parts;
    if (!c.plan.parts.includes('keys') || !saved.includes('keys')) {
      c.leftOut(path, label, c.nameOf(want.key.track));
      return;
    }
    c.tie(path, label, want.key.track, found?.key.kind === 'track' ? found.key.track : null);
  },

  differ(label, a, b, c) {
    const word = (d: Device, name: (id: string) => string) =>
      d.key.kind === 'track' ? name(d.key.track) : 'own';
    c.value(`${label} · key`, word(a, c.nameA), word(b, c.nameB), String);
  },

  dropped: (d, adapted) => (adapted[`${d.id}/key`] === 'own' ? { ...d, key: { ...OWN } } : d),

  // a key that is tied is the preset's key; one whose end was left open at the drop still is
  local: (d, base) =>
    base?.key.kind === 'track' && d.key.kind === 'track' ? { ...d, key: { ...base.key, tap: d.key.tap } } : d,

  paired(d, partner, c) {
    if (d.key.kind !== 'track' || partner?.key.kind !== 'track') return d;
    const alike = c.baseEnds(partner.key.track) === c.otherEnds(d.key.track);
    return alike ? tied(d, partner.key.track) : d;
  },

  write(d, old, mine, c) {
    if (d.key.kind !== 'track') return d;
    const was = old?.kind === 'device' ? old.key : null;
    // the same key as before stays tied as it is, with whatever tap it has now
    const stays = was?.kind === 'track' && mine?.key.kind === 'track' && mine.key.track === d.key.track;
    const to = stays ? was.track : c.far(d.key.track);
    if (!to) {
      c.notes.push(`The key of ${d.name} has no counterpart in this session: it listens to its own input.`);
    }
    return tied(d, to !== c.track.id ? to : null);
  },

  adapted: (raw, theirs, local): Record<string, string> =>
    raw.key.kind === 'track' && theirs.key.kind === 'own' ? { [`${local}/key`]: 'own' } : {},
};

/** Key inputs of dynamics: they live in the devices of a chain, which calls the `device` hooks for each. */
export const keys: Part = {
  id: 'keys',
  label: 'Keys',
  help: 'key inputs of dynamics',
  section: 'devices',
  duplicated: true,
  device,

  end: {
    kind: 'key',
    needs: ['chain'],
    leads: (t) => devicesIn(t.chain).flatMap((d) => (d.key.kind === 'track' ? [d.key.track] : [])),
    fits: () => true,
    open: { label: 'Listen to its own input', reason: 'nothing here looks like its key' },
  },

  /** Keys that listen to their own input because their end was left open. */
  remember: (from, named, c) =>
    Object.fromEntries(
      devicesIn(from.chain).flatMap((d) => {
        const open = d.key.kind === 'track' && !(c.has('keys') && c.end(d.key.track));
        return open && named.includes(d.id) ? [[`${d.id}/key`, 'own']] : [];
      }),
    ),
};
