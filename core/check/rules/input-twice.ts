import { quoted, type Rule } from '../rule.ts';

export const inputTwice: Rule = {
  id: 'input-twice',
  severity: 'warning',
  title: 'One input, two lines',
  why: 'Both lines would record the same microphone.',
  find: ({ session }) =>
    session.tracks
      .filter((t) => t.state === 'on' && t.input.kind === 'hardware')
      .flatMap((t, i, all) => {
        const first = all
          .slice(0, i)
          .find(
            (x) =>
              x.input.kind === 'hardware' && t.input.kind === 'hardware' && x.input.port === t.input.port,
          );
        return first && t.input.kind === 'hardware'
          ? [{ track: t.id, message: `${quoted(t)} and ${quoted(first)} both listen to “${t.input.port}”.` }]
          : [];
      }),
};
