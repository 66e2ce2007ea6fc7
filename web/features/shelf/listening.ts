import {
  applyDrop,
  createSession,
  mapDevices,
  planDrop,
  randomIds,
  renewSlot,
  type Id,
  type MediaRef,
  type Preset,
  type Session,
  type Slot,
} from '../../../core/index.ts';

/** A session that plays one line of a preset on a sound, with the preset's spares around it. */
export function listeningSession(p: Preset, ref: MediaRef, local: Id): { session: Session; track: Id } {
  const empty = createSession({
    name: `Listening to ${p.name}`,
    sampleRate: ref.sampleRate,
    tempo: p.reference.tempo,
  });
  const first = planDrop(empty, p);
  const plan = planDrop(empty, p, {
    ties: Object.fromEntries(
      first.ends.map((e) => [
        e.end.id,
        e.choices.find((c) => c.kind === 'spare')?.id ??
          e.choices.find((c) => c.kind === 'master')?.id ??
          e.chosen,
      ]),
    ),
    keep: first,
  });
  const s = applyDrop(empty, plan, p).session;
  const track = plan.ids[local];
  s.media = [...s.media.filter((m) => m.id !== ref.id), ref];
  // what is fed by others gets the sound itself, so that a bus or return can be heard alone
  s.tracks = s.tracks.map((t) =>
    t.id === track
      ? {
          ...t,
          clips: [
            {
              id: 'listen',
              media: ref.id,
              start: 0,
              offset: 0,
              length: ref.frames / ref.sampleRate,
              gain: 0,
            },
          ],
          ...(t.output.kind === 'none'
            ? { output: { kind: 'track' as const, track: s.tracks.at(-1)!.id } }
            : {}),
        }
      : t,
  );
  return { session: s, track };
}

/** A chain for listening in another's place: ids of its own, keys from elsewhere off. */
export const listeningChain = (chain: Slot[]): Slot[] =>
  mapDevices(
    chain.map((d) => renewSlot(d, (_old, prefix) => randomIds(prefix))),
    (d) => ({ ...d, key: { kind: 'own' } }),
  );

/** The sound that suits a line best by its name; otherwise a lead voice, otherwise the first. */
export function suits(line: string, sounds: readonly MediaRef[]): MediaRef | undefined {
  const words = line.toLowerCase().split(' ');
  return (
    sounds.find((m) => words.some((word) => m.name.toLowerCase().includes(word))) ??
    sounds.find((m) => m.name.includes('lead')) ??
    sounds[0]
  );
}
