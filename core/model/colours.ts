/**
 * Twelve track colours of our own. `day` and `night` are the swatches; both reach 3:1 against their theme's
 * line background (WCAG 2.2, 1.4.11),
 * which tests/reference/colours.test.ts computes. A colour is always shown beside a name, never alone.
 */
export const COLOURS = [
  { id: 'kelp', label: 'Kelp', day: '#3f7d4e', night: '#7cc48c' },
  { id: 'copper', label: 'Copper', day: '#b0602c', night: '#e0986a' },
  { id: 'lantern', label: 'Lantern', day: '#a07a10', night: '#e3bf58' },
  { id: 'brine', label: 'Brine', day: '#2f7f8c', night: '#6fc3cf' },
  { id: 'mussel', label: 'Mussel', day: '#4a5aa8', night: '#95a4ea' },
  { id: 'heather', label: 'Heather', day: '#8a4f9e', night: '#cb98dc' },
  { id: 'rosehip', label: 'Rosehip', day: '#b8405a', night: '#ee8aa0' },
  { id: 'tar', label: 'Tar', day: '#5a5752', night: '#b4b0a8' },
  { id: 'samphire', label: 'Samphire', day: '#6c8220', night: '#b5cb62' },
  { id: 'harbour', label: 'Harbour', day: '#2c72b0', night: '#78b6ea' },
  { id: 'rust', label: 'Rust', day: '#9a3d2a', night: '#e58d78' },
  { id: 'driftwood', label: 'Driftwood', day: '#82684c', night: '#cbb092' },
] as const;

export const colourOf = (id: string) => COLOURS.find((c) => c.id === id) ?? COLOURS[7];
