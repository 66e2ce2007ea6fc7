import type { PartId, Parts, Preset, Track } from '../../model/types.ts';
import { automation } from './automation.ts';
import { chain } from './chain.ts';
import { clips } from './clips.ts';
import { colour } from './colour.ts';
import { folder } from './folder.ts';
import { hardware } from './hardware.ts';
import { input } from './input.ts';
import { keys } from './keys.ts';
import { level } from './level.ts';
import { name } from './name.ts';
import { note } from './note.ts';
import { output } from './output.ts';
import { pan } from './pan.ts';
import { SECTIONS, type Part } from './part.ts';
import { sends } from './sends.ts';

/**
 * What travels of a line, in the order in which it is listed and taken; a new part is one file and one line
 * here. What speaks of the ids of others stands behind them.
 */
export const PARTS: readonly Part[] = [
  chain,
  sends,
  level,
  pan,
  output,
  input,
  keys,
  hardware,
  folder,
  name,
  colour,
  note,
  clips,
  automation,
];

/** The same in the order in which reports and differences tell of them. */
export const TOLD: readonly Part[] = SECTIONS.flatMap((s) => PARTS.filter((p) => p.section === s));
/** Those that live inside the devices of a chain. */
export const IN_CHAIN: readonly Part[] = PARTS.filter((p) => p.device);

const idsOf = (parts: readonly Part[]): Parts => parts.map((p) => p.id);
/** What belongs to one song. */
export const SONG_PARTS: Parts = idsOf(PARTS.filter((p) => p.song));
/** The usual set: everything but what belongs to one song. */
export const USUAL_PARTS: Parts = idsOf(PARTS.filter((p) => !p.song));
/** Usual for duplicating a line: what makes its sound and where it goes; level, pan, input and sound are its own. */
export const DUPLICATE_PARTS: Parts = idsOf(PARTS.filter((p) => p.duplicated));
/** Usual for a drop onto a line that is there. */
export const ONTO_PARTS: Parts = ['chain', 'sends', 'keys', 'hardware'];

/** What of a preset's track is meant: its own parts where it has them, and of these what was asked for. */
export const partsOf = (preset: Preset, t: Track, parts: Parts): Parts =>
  (preset.content.trackParts?.[t.id] ?? preset.content.parts).filter((p) => parts.includes(p));

/** The parts with one of them put in or taken out, in their usual order. */
export const togglePart = (parts: readonly PartId[], id: PartId): Parts =>
  idsOf(PARTS).filter((p) => (p === id ? !parts.includes(id) : parts.includes(p)));
