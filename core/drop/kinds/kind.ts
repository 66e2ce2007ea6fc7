import type { PresetContent, PresetKind } from '../../model/types.ts';

/** What a kind of preset is and how it is used. */
export interface Kind {
  id: PresetKind;
  label: string;
  /** what it holds, for lists and help */
  holds: string;
  /** goes into a chain, not onto a line of its own */
  piece?: boolean;
  /** makes up a whole session */
  whole?: boolean;
  /** named in lists; the kind that most presets are goes without saying */
  listed?: boolean;
  /** whether lines saved together are of this kind; left out where only a person or a slot says so */
  is?: (c: PresetContent) => boolean;
}
