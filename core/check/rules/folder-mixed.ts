import { quoted, type Rule } from '../rule.ts';

export const folderMixed: Rule = {
  id: 'folder-mixed',
  severity: 'advice',
  title: 'Folder that sums only some',
  why: 'The folder’s fader moves some of its lines and not the others.',
  find: ({ session }) =>
    session.tracks
      .filter((t) => t.role === 'folder')
      .flatMap((f) => {
        const inside = session.tracks.filter((t) => t.folder === f.id);
        const here = inside.filter((t) => t.output.kind === 'track' && t.output.track === f.id);
        const away = inside.filter(
          (t) =>
            !here.includes(t) &&
            t.output.kind !== 'none' &&
            !(
              t.output.kind === 'track' && inside.some((x) => x.id === (t.output as { track: string }).track)
            ),
        );
        const go = away.length === 1 ? 'goes' : 'go';
        const names = away.map(quoted).join(', ');
        return here.length && away.length
          ? [
              {
                track: f.id,
                message: `The folder ${quoted(f)} sums ${here.length} of its lines, but ${names} ${go} elsewhere.`,
              },
            ]
          : [];
      }),
};
