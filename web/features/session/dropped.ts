import { moveSlot, moveTrack, type Place } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { putDevice, putRack } from '../device/index.ts';
import { dragged, useDrop, type DropSpot } from '../drop/index.ts';

/** What was dragged is let go over a line, a chain or a gap between lines. */
export function dropped(spot: DropSpot): void {
  const session = useSession();
  const drop = useDrop();
  const what = dragged.value;
  dragged.value = null;
  const s = session.doc;
  if (!what || !s) return;
  if (what.kind === 'track' && spot.kind === 'gap') {
    const i = s.tracks.findIndex((t) => t.id === spot.track);
    session.edit(
      'Move a line',
      moveTrack(what.track, spot.after ? (s.tracks[i + 1]?.id ?? null) : spot.track),
    );
  } else if (what.kind === 'device' && spot.kind === 'chain') {
    if (
      session.edit(
        'Move a device',
        moveSlot(what.track, what.device, { track: spot.track, container: spot.container, at: spot.at }),
      )
    ) {
      session.select(spot.track, what.device);
    }
  } else if (what.kind === 'new-device' && spot.kind === 'chain') {
    if (what.type === 'rack') putRack({ track: spot.track, container: spot.container, at: spot.at });
    else putDevice({ track: spot.track, container: spot.container, at: spot.at }, what.type);
  } else if (what.kind === 'preset') {
    const i = s.tracks.findIndex((t) => t.id === spot.track);
    const gap = spot.kind === 'gap' || what.lines > 1;
    const index = spot.kind === 'gap' && !spot.after ? i : i + 1;
    const onto = { kind: 'onto', track: spot.track } as const;
    const place = (): Place => {
      if (gap) return { kind: 'new', index, folder: s.tracks[i]?.folder ?? null };
      if (spot.kind === 'chain') return { ...onto, chain: 'at', container: spot.container, at: spot.at };
      return { ...onto, chain: what.piece ? 'append' : 'replace' };
    };
    void drop.begin(what.preset, place(), what.piece || gap);
  }
}
