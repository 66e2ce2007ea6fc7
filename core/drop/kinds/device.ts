import type { Kind } from './kind.ts';

export const device: Kind = {
  id: 'device',
  label: 'device',
  holds: 'settings of one device',
  piece: true,
  listed: true,
};
