import type { Kind } from './kind.ts';

export const strip: Kind = {
  id: 'strip',
  label: 'strip',
  holds: 'one track',
  is: (c) => !c.session && c.tracks.length === 1,
};
