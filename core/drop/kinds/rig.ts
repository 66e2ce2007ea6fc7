import type { Kind } from './kind.ts';

export const rig: Kind = {
  id: 'rig',
  label: 'rig',
  holds: 'several tracks with everything between them',
  listed: true,
  is: (c) => !c.session && c.tracks.length > 1,
};
