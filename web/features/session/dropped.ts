import { inside, moveSlot, onHeading, type Id, type Place, type Session } from '../../../core/index.ts';
import { useSession } from '../../document/doc.ts';
import { putDevice, putRack } from '../device/index.ts';
import { dragWords, dragged, useDrop, type DropSpot } from '../drop/index.ts';
import { addLine, inHandWith, putBefore, useLineView } from '../lines/index.ts';

/**
 * The line that a gap stands before, and the folder that it lies in: below an open folder's own line that is the folder
 * itself, below a closed one it is behind all that lies in it.
 */
function gapAt(s: Session, { track, after }: DropSpot & { kind: 'gap' }): [Id | null, Id | null] {
  const i = s.tracks.findIndex((t) => t.id === track);
  const at = s.tracks[i];
  if (!after) return [at.id, at.folder];
  const isFolder = at.role === 'folder';
  if (isFolder && !useLineView().closed.includes(at.id)) return [s.tracks[i + 1]?.id ?? null, at.id];
  const last = isFolder ? inside(s, at.id).at(-1) : undefined;
  const behind = last ? s.tracks.indexOf(last) + 1 : i + 1;
  return [s.tracks[behind]?.id ?? null, at.folder];
}

/** What was dragged is let go over a line, a chain or a gap between lines. */
export function dropped(spot: DropSpot): void {
  const session = useSession();
  const drop = useDrop();
  const what = dragged.value;
  dragged.value = null;
  const s = session.doc;
  if (!what || !s) return;
  if (what.kind === 'track' && spot.kind === 'gap') {
    const line = s.tracks.find((t) => t.id === what.track);
    if (line) putBefore(inHandWith(line), ...gapAt(s, spot));
  } else if (what.kind === 'heading' && spot.kind === 'gap') {
    const [before] = gapAt(s, spot);
    if (before) session.edit('Move a heading', onHeading(what.heading, { before }));
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
    const place = { track: spot.track, container: spot.container, at: spot.at };
    if (what.type === 'rack') void putRack(place);
    else void putDevice(place, what.type);
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

/** Below the last line: presets and devices become new lines there. */
export function overEmpty(e: DragEvent): void {
  const what = dragged.value;
  if (!what || isOnRow(e)) return;
  if (what.kind === 'preset') dragWords.value = what.lines > 1 ? `${what.lines} new lines` : 'a new line';
  else if (what.kind === 'new-device') dragWords.value = 'a new line with it';
  else {
    dragWords.value = 'not here: let it go between or on lines';
    return;
  }
  e.preventDefault();
}
export function droppedOnEmpty(e: DragEvent): void {
  const what = dragged.value;
  const s = useSession().doc;
  if (!what || !s || isOnRow(e)) return;
  dragged.value = null;
  e.preventDefault();
  if (what.kind === 'preset') {
    void useDrop().begin(what.preset, { kind: 'new', index: s.tracks.length }, true);
  } else if (what.kind === 'new-device') void lineWith(what.type);
}
const isOnRow = (e: DragEvent): boolean =>
  e.target instanceof Element && e.target.closest('[data-line]') !== null;

/** A new audio line with one device on it. */
async function lineWith(type: string): Promise<void> {
  const before = useSession().track?.id;
  await addLine('audio');
  const { track } = useSession();
  // a default strip may have something to be decided first: then no line is there yet
  if (!track || track.id === before) return;
  if (type === 'rack') void putRack({ track: track.id });
  else void putDevice({ track: track.id }, type);
}
