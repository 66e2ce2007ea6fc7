import { DUPLICATE_PARTS } from './parts.ts';
import { clone } from '../model/json.ts';
import { createTrack, freeName, masterOf } from '../session/create.ts';
import { laneTarget } from '../session/automation.ts';
import { mapDevices, renewSlot, renewTrack } from '../session/slots.ts';
import { randomIds } from '../model/ids.ts';
import type { Id, PartId, Track } from '../model/types.ts';
import { type Edit, onTrack } from '../edit/on.ts';
import { destinations } from '../edit/tracks.ts';

/** A copy beside the original with the chosen parts; what it came from, it still remembers. */
export function duplicateTrack(id: Id, parts: readonly PartId[] = DUPLICATE_PARTS): { edit: Edit; id: Id } {
  const fresh = randomIds('trk');
  return {
    id: fresh,
    edit: (s) => {
      const i = s.tracks.findIndex((t) => t.id === id);
      const t = s.tracks[i];
      const has = (p: PartId) => parts.includes(p);
      const whole = renewTrack(clone(t), (old, prefix) => (old === id ? fresh : randomIds(prefix)));
      const plain = createTrack(t.role, {
        id: fresh,
        channels: t.channels,
        output: { kind: 'track', track: masterOf(s).id },
        soloSafe: t.soloSafe,
        state: t.state,
      });
      const copy: Track = {
        ...plain,
        name: freeName(
          t.name,
          s.tracks.map((x) => x.name),
        ),
        ...(has('chain')
          ? {
              chain: has('keys')
                ? whole.chain
                : mapDevices(whole.chain, (d) => ({ ...d, key: { kind: 'own' } })),
            }
          : {}),
        ...(has('sends') ? { sends: whole.sends } : {}),
        ...(has('level') ? { level: t.level, polarity: t.polarity } : {}),
        ...(has('pan') ? { pan: t.pan } : {}),
        ...(has('output') ? { output: t.output } : {}),
        ...(has('input') ? { input: t.input } : {}),
        ...(has('folder') ? { folder: t.folder } : {}),
        ...(has('colour') ? { colour: t.colour } : {}),
        ...(has('note') ? { note: t.note } : {}),
        ...(has('clips') ? { clips: whole.clips } : {}),
        ...(has('automation') && whole.automation ? { automation: whole.automation } : {}),
        ...(whole.origin && has('chain')
          ? {
              origin: whole.origin.parts
                ? { ...whole.origin, parts: whole.origin.parts.filter(has) }
                : whole.origin,
            }
          : {}),
      };
      // lanes of what was not copied stay behind
      if (copy.automation) copy.automation = copy.automation.filter((l) => laneTarget(copy, l));
      const tracks = [...s.tracks];
      tracks.splice(i + 1, 0, copy);
      return { ...s, tracks };
    },
  };
}

/**
 * Copies chosen parts of one line to others: its chain in place of theirs or behind it, and what else is
 * asked for; outputs and sends that would make a loop stay away.
 */
export const copyParts =
  (from: Track, ids: readonly Id[], parts: readonly PartId[], append: boolean): Edit =>
  (s) =>
    ids
      .filter((id) => id !== from.id)
      .reduce((now, id) => {
        const t = now.tracks.find((x) => x.id === id);
        if (!t) return now;
        const open = (to: Id, send: boolean) => destinations(now, t, send).some((x) => x.id === to);
        return onTrack(id, {
          ...(parts.includes('chain')
            ? {
                chain: [
                  ...(append ? t.chain : []),
                  ...from.chain.map((x) => renewSlot(clone(x), (_o, prefix) => randomIds(prefix))),
                ],
              }
            : {}),
          ...(parts.includes('sends')
            ? {
                sends: from.sends
                  .filter((x) => open(x.to, true))
                  .map((x) => ({ ...x, id: randomIds('snd') })),
              }
            : {}),
          ...(parts.includes('level') ? { level: from.level, polarity: from.polarity } : {}),
          ...(parts.includes('pan') ? { pan: from.pan } : {}),
          ...(parts.includes('output') &&
          from.output.kind === 'track' &&
          t.role !== 'master' &&
          open(from.output.track, false)
            ? { output: from.output }
            : {}),
          ...(parts.includes('colour') ? { colour: from.colour } : {}),
          ...(parts.includes('note') ? { note: from.note } : {}),
        })(now);
      }, s);
