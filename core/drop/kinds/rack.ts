import type { Kind } from './kind.ts';

export const rack: Kind = {
  id: 'rack',
  label: 'rack',
  holds: 'a chain or part of one',
  piece: true,
  listed: true,
};
