import { randomIds, type Id, type MediaRef, setClips } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { askForFile } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';

/** Asks for a WAV file and puts it on a track from the start. */
export const chooseSound = (track: Id): void =>
  askForFile('.wav,audio/wav,audio/x-wav', (f) => putSound(track, f));

export async function putSound(track: Id, file: File): Promise<boolean> {
  const session = useSession();
  const ui = useUi();
  ui.settle('file');
  const busy = ui.say(`Reading “${file.name}” …`, 'info', [], 0);
  try {
    const edit = session.editLater();
    const ref = await api.upload(file);
    placeSound(track, ref, edit);
    const name = session.doc?.tracks.find((t) => t.id === track)?.name ?? 'the line';
    const rate =
      ref.sampleRate === session.doc?.sampleRate
        ? ''
        : `, resampled from ${ref.sampleRate / 1000} kHz while playing`;
    ui.say(`“${file.name}” is on ${name} (${(ref.frames / ref.sampleRate).toFixed(1)} s${rate}).`, 'done');
    return true;
  } catch (e) {
    ui.fail(e, 'file');
    return false;
  } finally {
    ui.close(busy);
  }
}

function placeSound(track: Id, ref: MediaRef, edit: ReturnType<typeof useSession>['edit']): void {
  edit(
    `Sound “${ref.name}”`,
    setClips(
      track,
      [
        {
          id: randomIds('clp'),
          media: ref.id,
          start: 0,
          offset: 0,
          length: ref.frames / ref.sampleRate,
          gain: 0,
        },
      ],
      [ref],
    ),
  );
}
