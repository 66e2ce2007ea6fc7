import type { Kind } from './kind.ts';

export const starter: Kind = {
  id: 'starter',
  label: 'starter',
  holds: 'a whole session',
  whole: true,
  listed: true,
  is: (c) => !!c.session,
};
