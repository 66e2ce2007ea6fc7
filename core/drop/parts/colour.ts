import { plainPart } from './plain.ts';

export const colour = plainPart(
  { id: 'colour', label: 'Colour', help: '', section: 'face', duplicated: true },
  [{ key: 'colour', label: 'colour', text: String }],
);
