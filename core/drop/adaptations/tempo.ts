import { DEVICE_TYPES, isUsed } from '../../devices/index.ts';
import type { Device, Track } from '../../model/types.ts';
import { NOTES, formatValue, noteFor, noteMs } from '../../model/units.ts';
import { devicesIn } from '../../session/slots.ts';
import type { AdaptationKind, Adapting } from './adaptation.ts';
import { adaptValue } from './value.ts';

const noteLabel = (id: string): string => NOTES.find((n) => n.id === id)?.label ?? id;

/** Times that are a note's length at the preset's tempo become that note's length here. */
function adaptTimes(c: Adapting, t: Track, d: Device): void {
  const type = DEVICE_TYPES[d.type];
  const [was, is] = [c.preset.reference.tempo, c.session.tempo];
  // a release only belongs to the tempo when something else sets its rhythm
  if (type.hasKey && d.key.kind !== 'track') return;
  for (const spec of type.params) {
    const v = d.params[spec.id];
    if (!spec.tempoBound || typeof v !== 'number' || !isUsed(d, spec.id)) continue;
    const note = noteFor(v, was);
    if (!note) continue;
    const to = Number(noteMs(note, is).toFixed(3));
    if (to <= spec.max!) {
      const reason = `it was a ${noteLabel(note)} note at ${was} bpm; this session runs at ${is} bpm`;
      adaptValue(c, t, d, spec, to, reason);
    } else {
      c.out.facts.push(
        `${d.name} on ${t.name} stays at ${formatValue(spec, v)}: a ${noteLabel(note)} note at ${is} bpm is longer than it can be.`,
      );
    }
  }
}

/** A device that is set in notes follows the tempo by itself: told, so that nobody is surprised. */
function tellFollowing(c: Adapting, t: Track, d: Device): void {
  const note = DEVICE_TYPES[d.type].noteSet?.(d.params);
  if (!note) return;
  const [was, is] = [c.preset.reference.tempo, c.session.tempo].map((bpm) => Math.round(noteMs(note, bpm)));
  c.out.facts.push(
    `${d.name} on ${t.name} follows the tempo: ${noteLabel(note)} was ${was} ms and is ${is} ms here.`,
  );
}

export const tempo: AdaptationKind = {
  id: 'tempo',

  plan(c) {
    if (c.preset.reference.tempo === c.session.tempo) return;
    for (const t of c.sounding) {
      for (const d of devicesIn(t.chain)) {
        adaptTimes(c, t, d);
        tellFollowing(c, t, d);
      }
    }
    tellSeconds(c);
  },
};

/** Lanes and sounds are in seconds: at another tempo they fall on other beats. */
function tellSeconds(c: Adapting): void {
  if (c.place.kind === 'whole') return;
  const tempos = `at ${c.session.tempo} bpm instead of ${c.preset.reference.tempo}`;
  if (c.arriving.some((t) => t.automation?.length && c.has(t, 'automation'))) {
    c.out.facts.push(`Automation is kept in seconds: ${tempos} it falls on other beats.`);
  }
  const sounding = c.arriving.filter((t) => t.clips.length && c.has(t, 'clips'));
  if (sounding.length) {
    const whose = sounding.map((t) => `“${t.name}”`).join(', ');
    c.out.facts.push(
      `The sounds on ${whose} keep their length and pitch: ${tempos} they fall on other beats. Set the session’s tempo to ${c.preset.reference.tempo} bpm to keep them together.`,
    );
  }
}
