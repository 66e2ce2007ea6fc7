import { DEVICE_TYPES, type Likeness } from '../../../core/index.ts';

/** dB under the sound from which on its difference has no number worth telling */
const QUITE = -3;
const signed = (db: number) => `${db < 0 ? '−' : '+'}${Math.abs(db).toFixed(1)} dB`;
/** Hz in two figures: 2 kHz, 63 Hz. */
const hertz = (f: number) => (f >= 1000 ? `${Number((f / 1000).toPrecision(2))} kHz` : `${Math.round(f)} Hz`);

/** The bands that changed most, in words; at most three. */
export function bandsText({ bands }: Likeness): string {
  const named = bands.slice(0, 3).map(({ band, by }) => `${hertz(band)} ${signed(by)}`);
  const more = bands.length - named.length;
  return named.join(', ') + (more > 0 ? ` and ${more} more bands` : '');
}

/** By how much it differs, in one line. */
export function differenceText(l: Likeness): string {
  if (l.verdict === 'equal') return 'It sounds as it did when it was saved.';
  if (l.verdict === 'unknown') return l.why ?? 'It can’t be compared.';
  if (l.difference > QUITE) return 'It sounds quite otherwise than when it was saved.';
  return `It sounds otherwise: the difference lies ${Math.abs(l.difference).toFixed(0)} dB under the sound.`;
}

/** What is known of the cause: devices whose sound was changed on purpose. */
export const causesOf = ({ sounds }: Likeness): string[] =>
  sounds.map(({ type, then, now }) => {
    const label = DEVICE_TYPES[type]?.label ?? type;
    return now > then
      ? `${label} plays revision ${now} of its sound, ${then} then.`
      : `${label} played revision ${then} of its sound, which is not known here.`;
  });
