import type { Control, ControlKind, Family, Nominal, UnitWidth } from '../../model/hardware.ts';
import type { Params } from '../../model/types.ts';
import type { DeviceType } from '../spec.ts';

/** One stage of a simulated unit: a device of the program, set by the panel. */
export interface Stage {
  device: DeviceType;
  params: Params;
}

/** A unit that is simulated: a panel, and what it sounds like. Our own inventions; they resemble no real unit. */
export interface UnitModel {
  id: string;
  /** what it is, in a word or two */
  label: string;
  family: Family;
  width: UnitWidth;
  hasKey: boolean;
  nominal: Nominal;
  panel: Control[];
  /** the stages for the positions of the panel; always the same devices in the same order */
  stages(at: (control: string) => number): Stage[];
}

/** Where a control stands that nobody has set. */
export const restOf = (panel: readonly Control[]): Record<string, number> =>
  Object.fromEntries(panel.map((c) => [c.id, c.default]));

type Range = Pick<Control, 'unit' | 'min' | 'max' | 'default'> & Partial<Control>;

const control =
  (kind: ControlKind, taper: Control['taper'] = 'linear') =>
  (id: string, label: string, place: [column: number, row: number], range: Range): Control => ({
    id,
    label,
    kind,
    taper,
    column: place[0],
    row: place[1],
    ...range,
  });

export const knob = control('knob');
export const logKnob = control('knob', 'log');
export const fader = control('fader');

/** A knob that only stands at its steps. */
export const stepped = (
  id: string,
  label: string,
  place: [number, number],
  unit: Control['unit'],
  steps: number[],
  def: number,
  more: Partial<Control> = {},
): Control =>
  control('stepped knob')(id, label, place, {
    unit,
    min: Math.min(...steps),
    max: Math.max(...steps),
    default: def,
    steps,
    ...more,
  });

/** A switch of named positions, numbered from 0. */
export const turn = (
  id: string,
  label: string,
  place: [number, number],
  labels: string[],
  def: number,
  more: Partial<Control> = {},
): Control =>
  control('switch')(id, label, place, {
    unit: '',
    min: 0,
    max: labels.length - 1,
    default: def,
    labels,
    ...more,
  });

export const button = (id: string, label: string, place: [number, number], more: Partial<Control> = {}) =>
  control('button')(id, label, place, {
    unit: '',
    min: 0,
    max: 1,
    default: 0,
    labels: ['out', 'in'],
    ...more,
  });

/** An EQ's bands by number: type, frequency, gain, Q. */
export const bandsOf = (bands: Record<number, [string, number, number, number?]>): Params =>
  Object.fromEntries(
    Object.entries(bands).flatMap(([n, [type, freq, gain, q]]) => [
      [`b${n}.on`, true],
      [`b${n}.type`, type],
      [`b${n}.freq`, freq],
      [`b${n}.gain`, gain],
      [`b${n}.q`, q ?? 0.71],
    ]),
  );
