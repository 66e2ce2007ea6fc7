import { active, onDevice, quoted, type Rule } from '../rule.ts';

export const widthOnMono: Rule = {
  id: 'width-on-mono',
  severity: 'advice',
  title: 'Width on a mono line',
  why: 'Both sides are the same on a mono line, so there is no width to change.',
  safe: true,
  find: ({ session }) =>
    [...active(session)].flatMap(({ t, x }) =>
      t.channels === 1 &&
      x.kind === 'device' &&
      x.type === 'width' &&
      x.state === 'on' &&
      t.chain.indexOf(x) >= 0 &&
      !t.chain
        .slice(0, t.chain.indexOf(x))
        .some(
          (y) =>
            y.kind === 'rack' ||
            ['doubler', 'chorus', 'reverb', 'delay', 'pitchshift', 'opaque', 'outboard'].includes(y.type),
        )
        ? [
            {
              track: t.id,
              slot: x.id,
              message: `${quoted(x)} sits on the mono line ${quoted(t)}, where nothing before it makes two sides.`,
              fix: 'Make the device inactive',
            },
          ]
        : [],
    ),
  fix: (s, h) => onDevice(s, h, () => ({ state: 'inactive' })),
};
