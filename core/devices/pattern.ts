import { steps as stepsPicture } from './pictures/steps.ts';
import { choice, defineDevice, percent, toggle, wholeNumber, words } from './spec.ts';
import type { PatternLayer } from './instrument-type.ts';

export const LAYERS = 4;
const START: [channel: number, key: number, steps: string][] = [
  [10, 36, 'X...x...X...x...'],
  [10, 38, '....X.......X...'],
  [10, 42, 'x.x.x.x.x.x.x.x.'],
  [10, 46, '..............x.'],
];

/** Velocities of the signs that a row of steps is written in; digits are tenths of full. */
const VELOCITY: Record<string, number> = { X: 120, x: 92, o: 60 };
export const STEP_SIGNS = ['.', 'o', 'x', 'X'];

/** A row of steps as velocities: "X" strong, "x" normal, "o" soft, 1–9 in between, anything else silent. */
export const stepsOf = (text: string): number[] =>
  [...text.replace(/[\s|]/g, '')].map(
    (c) => VELOCITY[c] ?? (c >= '1' && c <= '9' ? Math.round((Number(c) / 10) * 127) : 0),
  );
/** Semitones above the layer's key, one hit after the other: "0 3 7". */
export const offsetsOf = (text: string): number[] => {
  const all = text
    .split(/[\s,]+/)
    .map(Number)
    .filter((v) => Number.isInteger(v) && Math.abs(v) <= 48);
  return all.length ? all : [0];
};

/** Plays notes by itself: four layers of steps, each to its own channel. Sound passes through. */
export const pattern = defineDevice({
  type: 'pattern',
  label: 'Pattern source',
  summary: 'Four layers of sixteenth steps, each to its own MIDI channel; for MIDI tracks.',
  hasKey: false,
  panel: 'steps',
  picture: stepsPicture,
  work: 0,
  params: Array.from({ length: LAYERS }, (_, i) => {
    const [channel, key, steps] = START[i];
    const l = `l${i + 1}`;
    const g = `Layer ${i + 1}`;
    return [
      toggle(`${l}.on`, `${g} plays`, g, i < 3),
      wholeNumber(`${l}.channel`, `${g} channel`, g, 1, 16, channel, ''),
      wholeNumber(`${l}.key`, `${g} key`, g, 0, 127, key, ''),
      words(`${l}.steps`, `${g} steps`, g, steps, 'X strong, x normal, o soft, . silent'),
      words(`${l}.keys`, `${g} semitones`, g, '0', 'Semitones above the key, one hit after the other'),
      percent(`${l}.gate`, `${g} length`, g, 5, 800, 90, {
        step: 5,
        help: 'How long a note lasts, of one step',
      }),
    ];
  })
    .flat()
    .concat([
      choice(
        'swing',
        'Swing',
        'Time',
        [
          { id: '50', label: 'straight' },
          { id: '54', label: 'a little' },
          { id: '58', label: 'medium' },
          { id: '66', label: 'triplets' },
        ],
        '50',
      ),
    ]),
  latency: () => 0,
  used: (p, id) => {
    const m = /^(l\d)\./.exec(id);
    return !m || id === `${m[1]}.on` || p[`${m[1]}.on`] === true;
  },
  pattern: (p): PatternLayer[] =>
    Array.from({ length: LAYERS }, (_, i) => `l${i + 1}`)
      .filter((l) => p[`${l}.on`])
      .map((l) => ({
        channel: p[`${l}.channel`] as number,
        steps: stepsOf(String(p[`${l}.steps`])),
        keys: offsetsOf(String(p[`${l}.keys`])).map((o) =>
          Math.min(127, Math.max(0, (p[`${l}.key`] as number) + o)),
        ),
        gate: (p[`${l}.gate`] as number) / 100,
      })),
  create: () => ({
    reduction: 0,
    level: -160,
    set() {
      /* its notes are read from its values */
    },
    process() {
      /* sound passes through */
    },
    reset() {
      /* no memory */
    },
  }),
});
