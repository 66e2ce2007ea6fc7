import { randomIds, type Id, type MediaRef, setClips } from '../../../core/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';
import { useUi } from '../../ui/window.ts';

/** Asks for a file of some kinds. */
export function askForFile(accept: string, take: (f: File) => Promise<unknown>): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.accept = accept;
  input.onchange = () => {
    const f = input.files?.[0];
    if (f) void take(f);
  };
  input.click();
}

/** Asks for a WAV file and puts it on a track from the start. */
export const chooseSound = (track: Id): void =>
  askForFile('.wav,audio/wav,audio/x-wav', (f) => putSound(track, f));

export async function putSound(track: Id, file: File): Promise<boolean> {
  const session = useSession();
  const ui = useUi();
  ui.settle('file');
  const busy = ui.say(`Reading “${file.name}” …`, 'info', [], 0);
  try {
    const ref = await api.upload(file);
    placeSound(track, ref);
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

export function placeSound(track: Id, ref: MediaRef): void {
  const session = useSession();
  session.edit(
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
