import { AudioWaveform } from '@lucide/vue';
import type { Track } from '../../../core/index.ts';
import type { MenuEntry } from '../../ui/menu.ts';
import { useSheets } from '../../ui/sheets.ts';

/** Fitting a line that came from the shelf to what sounds on it. */
export const fitMenu = (track: Track): MenuEntry[] =>
  track.origin && track.role !== 'master'
    ? [
        {
          label: 'Fit to this sound …',
          icon: AudioWaveform,
          run: () => useSheets().open('fit', { track: track.id }),
        },
      ]
    : [];
