import type { Depth, Proof } from '../../../core/index.ts';

/** How far a stem goes, in words. */
export const DEPTH_WORDS: Record<Depth, string> = {
  source: 'the source alone',
  chain: 'after its chain',
  fader: 'after fader and pan',
  returns: 'with its share of the returns',
  buses: 'through its buses, with returns',
  master: 'through the master too',
};

/** dB with a real minus; silence as such. */
export const level = (db: number, digits = 1): string =>
  Number.isFinite(db) ? db.toFixed(digits).replace('-', '−') : '−∞';

/** s as minutes and seconds. */
export const clock = (seconds: number): string => {
  const whole = Math.round(seconds);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
};

/** Bytes as MB. */
export const megabytes = (bytes: number): string => (bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0);

/** Peak of a difference under which it counts as none for 24 bit: half a step, dBFS. */
const NOTHING = -150;
/** and under which nobody hears it beside music (common practice) */
const UNHEARD = -90;

/** Whether the stems add up, in words. */
export function proofText(p: Proof | null): { text: string; isGood: boolean } {
  if (!p) {
    return { text: 'These stems are not meant to add up: they are taken at other depths.', isGood: true };
  }
  const what = p.against === 'mix' ? 'the mix' : 'what comes into the master';
  if (p.residual === -Infinity) {
    return { text: `The stems add up to ${what} exactly: difference −∞ dB.`, isGood: true };
  }
  const text = `Taken from ${what}, the stems leave ${level(p.residual)} dBFS`;
  if (p.residual < NOTHING) return { text: `${text}: less than the last bit.`, isGood: true };
  if (p.residual < UNHEARD) return { text: `${text}: nothing that is heard.`, isGood: true };
  const [band] = [...p.bands].sort((a, b) => b[1] - a[1]);
  return { text: `${text}, most of it around ${band[0]} Hz and at ${clock(p.at ?? 0)}.`, isGood: false };
}
