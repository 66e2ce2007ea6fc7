import { active, onTrack, quoted, type Rule } from '../rule.ts';

export const keySilent: Rule = {
  id: 'key-silent',
  severity: 'fault',
  title: 'Silent key',
  why: 'A key that makes no sound opens nothing: the device does nothing, or never stops.',
  find: ({ session, byId, fed }) =>
    [...active(session)].flatMap(({ t, x }) => {
      const far = x.kind === 'device' && x.key.kind === 'track' ? byId.get(x.key.track) : undefined;
      if (!far) return [];
      const whatOf = () => {
        if (far.state === 'inactive') return 'is inactive';
        if (far.mute) return 'is muted';
        if (!fed.has(far.id)) return 'has no sound';
        return null;
      };
      const what = whatOf();
      return what
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `The key of ${quoted(x)} on ${quoted(t)} comes from ${quoted(far)}, which ${what}.`,
              ...(what === 'has no sound'
                ? {}
                : { fix: `${what === 'is muted' ? 'Unmute' : 'Make active'}: ${far.name}` }),
            },
          ]
        : [];
    }),
  fix: (s, h) => {
    const d = [...active(s)].find(({ x }) => x.id === h.slot)?.x;
    return d?.kind === 'device' && d.key.kind === 'track'
      ? onTrack(s, d.key.track, () => ({ mute: false, state: 'on' }))
      : s;
  },
};
