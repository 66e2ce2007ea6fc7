import type { Kind } from './kind.ts';

export const patch: Kind = {
  id: 'patch',
  label: 'patch',
  holds: 'hardware routing',
  listed: true,
};
