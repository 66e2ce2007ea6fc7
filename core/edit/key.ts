import type { SongKey } from '../model/types.ts';
import { inKey } from '../session/key.ts';
import { mapSlots } from '../session/slots.ts';
import type { Edit } from './on.ts';

/** The song's key, kept for what is dropped later, and handed to every pitch correction. */
export const setSongKey =
  (key: SongKey): Edit =>
  (s) => ({
    ...s,
    key,
    tracks: s.tracks.map((t) => ({
      ...t,
      chain: mapSlots(t.chain, (x) => {
        const isPulling = x.kind === 'device' && x.type === 'pitchcorrect';
        return isPulling ? { ...x, params: { ...x.params, ...inKey(x.params, key) } } : x;
      }),
    })),
  });
