import type { PresetEntry } from '../../../contract/index.ts';

/** How large a preset is: its lines, or the devices of the one that it has. */
export function sizeText({ summary }: PresetEntry): string {
  if (summary.tracks > 1) return `${summary.tracks} lines`;
  const count = summary.devices.length;
  return `${count} ${count === 1 ? 'device' : 'devices'}`;
}

/** Its kind, with what parts it from what follows; a strip is the usual one and says nothing. */
export const kindText = ({ kind }: PresetEntry, apart: string): string =>
  kind === 'strip' ? '' : kind + apart;
