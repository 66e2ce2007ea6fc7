import { DEVICE_TYPES } from '../../devices/index.ts';
import { inKey, keyText } from '../../session/key.ts';
import { devicesIn } from '../../session/slots.ts';
import type { AdaptationKind } from './adaptation.ts';
import { adaptValue } from './value.ts';

/** Pitch corrections that were set for another song's key; one that lets all notes pass belongs to no key. */
export const key: AdaptationKind = {
  id: 'key',

  plan(c) {
    const song = c.session.key;
    if (!song) return;
    for (const t of c.sounding) {
      for (const d of devicesIn(t.chain)) {
        if (d.type !== 'pitchcorrect' || d.params.scale === 'chromatic') continue;
        const wanted = inKey(d.params, song);
        for (const id of ['key', 'scale'] as const) {
          if (d.params[id] === wanted[id]) continue;
          const reason = `this session is in ${keyText(song)}`;
          adaptValue(c, t, d, DEVICE_TYPES[d.type].byId[id], wanted[id], reason);
        }
      }
    }
  },
};
