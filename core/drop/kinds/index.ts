import type { PresetContent, PresetKind } from '../../model/types.ts';
import { device } from './device.ts';
import type { Kind } from './kind.ts';
import { patch } from './patch.ts';
import { rack } from './rack.ts';
import { rig } from './rig.ts';
import { starter } from './starter.ts';
import { strip } from './strip.ts';

/** Every kind of preset; a new one is one file and one line here. */
export const KINDS: readonly Kind[] = [device, rack, strip, rig, patch, starter];

/** The description of a kind; undefined for one that a newer program saved. */
export const kindNamed = (id: PresetKind | (string & {})): Kind | undefined => KINDS.find((k) => k.id === id);

/** A device or rack: a piece of a chain, not a line of its own. */
export const isPiece = (id: PresetKind | (string & {})): boolean => kindNamed(id)?.piece ?? false;

/** What lines that were saved together are. */
export const kindOf = (content: PresetContent): PresetKind => KINDS.find((k) => k.is?.(content))!.id;
