import { formatDb } from '../../model/units.ts';
import { plainPart } from './plain.ts';

export const level = plainPart(
  { id: 'level', label: 'Level', help: 'fader and polarity', section: 'fader' },
  [
    { key: 'level', label: 'level', text: (v) => formatDb(v) },
    { key: 'polarity', label: 'polarity', text: (v) => (v ? 'turned over' : 'as is') },
  ],
);
