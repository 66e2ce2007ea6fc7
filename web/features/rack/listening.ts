import { monoOf, racksIn, type Handle, type Session } from '../../../core/index.ts';
import { useAudio } from '../transport/index.ts';

/** Handles that were moved make of the listening what they are tied to: mono check on or off. */
export function hearHandles(s: Session, which: (h: Handle) => boolean): void {
  const handles = s.tracks.flatMap((t) => racksIn(t.chain).flatMap((r) => r.handles.filter(which)));
  for (const handle of handles) {
    const mono = monoOf(handle);
    if (mono !== null) useAudio().mono = mono;
  }
}
