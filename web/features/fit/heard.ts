import { createDevice, type Slot, type Track } from '../../../core/index.ts';

/** The chain of a line as it will be; a trim before it stands in it as a device, since only chains can be put in for hearing. */
export function heardChain(track: Track, later: Partial<Track>): Slot[] {
  const own = later.chain ?? track.chain;
  const gain = (later.inputTrim ?? track.inputTrim ?? 0) - (track.inputTrim ?? 0);
  if (!gain) return own;
  return [createDevice('trim', { gain }, { id: 'fit-trim', name: 'Trim before the chain' }), ...own];
}
