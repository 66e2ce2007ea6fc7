import type { Kind } from './kind.ts';

export const patch: Kind = {
  id: 'patch',
  label: 'patch',
  holds: 'a way through hardware: units, positions, ports, what was measured',
  piece: true,
  listed: true,
};
