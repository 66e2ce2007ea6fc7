import { canonicalJson } from '../../model/json.ts';
import type { Preset } from '../../model/types.ts';
import { filledBy, saturated, squared } from './apart.ts';
import { lineShapes, linesApart, type LineShape } from './line.ts';

/** A preset as far as it is heard: what is compared, made once for many comparisons. */
export interface PresetShape {
  /** what it is of: only presets of one kind are put into a group */
  kind: string;
  lines: readonly LineShape[];
  /** of a starter: what the session around its lines is set to */
  around: string;
}

const AROUND = 0.2;

export function presetShape({ kind, content }: Pick<Preset, 'kind' | 'content'>): PresetShape {
  const { sampleRate, tempo, meter, panLaw } = content.session ?? {};
  return {
    kind,
    lines: lineShapes(content),
    around: content.session ? canonicalJson([sampleRate, tempo, meter, panLaw]) : '',
  };
}

/**
 * `presetDistance` of shapes.
 * @param within what is further may come out as 1: nobody asks how far it is
 */
export function shapesApart(a: PresetShape, b: PresetShape, within = 1): number {
  const around = squared(a.around === b.around ? 0 : AROUND);
  const limit = within < 1 ? squared(filledBy(within)) - around : Infinity;
  return saturated(Math.sqrt(linesApart(a.lines, b.lines, limit) + around));
}

/**
 * How far two presets are apart in what they do, whatever they are called: 0 for the same sound only, towards 1 for
 * nothing in common; the same both ways; and the further a value is moved, the further they are apart.
 *
 * Differences are added as squares and filled up, d = 1 − e^−x at each level. Within a device: dB and octaves as they are
 * (24 dB and 4 octaves are one whole difference), other numbers by their way on the slider, switches and choices 0.3,
 * a sound to play with 0.6; bands of an EQ by what they change, paired as they fit best; values of an echo or a reverb by
 * how much of it is let through; a device that is off is not there. Within a chain: devices of one type in order, filters
 * of two types by their responses, the others alone; one that is alone counts 1, a gain, an EQ or an echo as much as it
 * is heard. Within a rig: lines of one role in order, with faders, pans, sends, keys and where they lead. The weights are
 * ours, set by ear and example (docs/likeness.md); Euclid's sum over pairs is common practice.
 */
export const presetDistance = (a: Preset, b: Preset): number => shapesApart(presetShape(a), presetShape(b));
