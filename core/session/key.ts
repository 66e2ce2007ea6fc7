import type { SCALES } from '../devices/pitchcorrect.ts';
import { NOTE_NAMES } from '../devices/notes.ts';
import type { Device, Params, Session, SongKey } from '../model/types.ts';
import { devicesIn } from './slots.ts';

type Scale = keyof typeof SCALES;

/** A key in words: "D minor". */
export const keyText = ({ tonic, mode }: SongKey): string => `${NOTE_NAMES[tonic]} ${mode}`;

/** Everything in a session that pulls notes into a key. */
export const pitchCorrectionsIn = (s: Session): Device[] =>
  s.tracks.flatMap((t) => devicesIn(t.chain).filter((d) => d.type === 'pitchcorrect'));

/** The scale that fits a key: the one that is set, where it is of the same mode, else the key's own. */
function scaleFor(now: Scale, { mode }: SongKey): Scale {
  const same: Scale[] = mode === 'major' ? ['major', 'pentatonic'] : ['minor', 'harmonic'];
  return same.includes(now) ? now : mode;
}

/** The values of a pitch correction in a key. */
export const inKey = (params: Params, key: SongKey): Pick<Params, 'key' | 'scale'> => ({
  key: String(key.tonic),
  scale: scaleFor(params.scale as Scale, key),
});
