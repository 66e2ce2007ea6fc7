import type { Nominal, Port } from '../model/hardware.ts';

/*
 * Levels of lines. 0 dBu is the voltage that makes 1 mW in 600 Ω: √0.6 V = 0.7746 V; 0 dBV is 1 V (IEC 60027-3).
 * dBFS: a full-scale sine is 0 dBFS; how many dBu it leaves the converter with is its alignment, +18 dBu by EBU
 * R 68, +24 dBu by SMPTE RP 155.
 */

/** V of 0 dBu. */
export const DBU_VOLTS = Math.sqrt(0.6);
/** dBu of 0 dBV: 20·log10(1 V / 0.7746 V) = 2.218. */
const DBU_OF_DBV = -20 * Math.log10(DBU_VOLTS);

/** dBu that a level of a sine in dBFS has behind a converter whose full scale is `alignment` dBu. */
export const dbuOfDbfs = (dbfs: number, alignment: number): number => dbfs + alignment;
/** dBFS that a level in dBu arrives with at a converter whose full scale is `alignment` dBu. */
export const dbfsOfDbu = (dbu: number, alignment: number): number => dbu - alignment;
/** V (RMS) of a level in dBu. */
export const voltsOfDbu = (dbu: number): number => DBU_VOLTS * 10 ** (dbu / 20);
/** dBu of V (RMS) over 0. */
export const dbuOfVolts = (volts: number): number => 20 * Math.log10(volts / DBU_VOLTS);
/** dBu of a level in dBV. */
export const dbuOfDbv = (dbv: number): number => dbv + DBU_OF_DBV;
/** dBV of a level in dBu. */
export const dbvOfDbu = (dbu: number): number => dbu - DBU_OF_DBV;

/** dBu that a line's nominal level stands for; null where it is digital. */
export function nominalDbu(nominal: Nominal): number | null {
  switch (nominal) {
    case 'plus4':
      return 4;
    case 'minus10':
      return dbuOfDbv(-10);
    case 'digital':
      return null;
  }
}

export const NOMINAL_LABELS: Record<Nominal, string> = {
  plus4: '+4 dBu',
  minus10: '−10 dBV',
  digital: 'digital',
};

/**
 * How much too hot a line of one nominal level arrives at one of another, in dB: +4 dBu into −10 dBV is 11.8,
 * the other way round −11.8; 0 where they are the same; null where a digital line meets an analogue one.
 */
export function tooHot(from: Nominal, to: Nominal): number | null {
  const [a, b] = [nominalDbu(from), nominalDbu(to)];
  if (a === null && b === null) return 0;
  return a === null || b === null ? null : a - b;
}

/** dB left between a level (dBFS of a sine) and what a unit stands before it clips (dBu), behind an output. */
export const headroomInUnit = (dbfs: number, out: Pick<Port, 'alignment'>, clipsAt: number): number =>
  clipsAt - dbuOfDbfs(dbfs, out.alignment);

/** dB left before the converter on the way back clips, for a level (dBu) that leaves a unit. */
export const headroomOnReturn = (dbu: number, back: Pick<Port, 'alignment'>): number =>
  -dbfsOfDbu(dbu, back.alignment);

/**
 * dB that a loop's return has to be raised by so that it comes back as loud as it left, by alignments alone when
 * it was not measured.
 */
export function unityGain(
  out: Pick<Port, 'alignment'>,
  back: Pick<Port, 'alignment'>,
  measuredGain?: number,
): number {
  return measuredGain === undefined ? back.alignment - out.alignment : -measuredGain;
}

/** dB between a unit's nominal level and where it clips (common practice: what runs at +4 dBu stands +24 dBu). */
const ABOVE_NOMINAL = 20;

/** Where a full-scale peak arrives on its way through a loop. */
export interface LoopLevels {
  /** dBu and V with which it leaves the computer */
  sent: number;
  volts: number;
  /** dB left in the unit; null where there is none, or a digital one */
  inUnit: number | null;
  /** dB left in the converter on the way back */
  onReturn: number;
}

/**
 * What a full-scale peak does in a loop.
 * @param send dB that the device sends with
 * @param unit the first unit that it meets
 * @param measuredGain dB of the loop when it was measured; otherwise units count as straight wires
 */
export function loopLevels(
  out: Pick<Port, 'alignment'>,
  back: Pick<Port, 'alignment'>,
  send: number,
  unit: { nominal: Nominal } | null,
  measuredGain?: number,
): LoopLevels {
  const sent = dbuOfDbfs(send, out.alignment);
  const nominal = unit && nominalDbu(unit.nominal);
  const onReturn = measuredGain === undefined ? headroomOnReturn(sent, back) : -(send + measuredGain);
  return {
    sent,
    volts: voltsOfDbu(sent),
    inUnit: nominal === null ? null : headroomInUnit(send, out, nominal + ABOVE_NOMINAL),
    onReturn,
  };
}
