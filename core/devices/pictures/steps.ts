import { at, type Picture } from './picture.ts';

/** The steps of a pattern, a row a layer. */
export const steps: Picture = {
  name: '',
  shape(d, w, h) {
    const layers = d.layers();
    const cell = w / 16;
    const row = h / Math.max(1, layers.length);
    const mark = (i: number, k: number) =>
      `M${at(i * cell + 0.5)} ${at(k * row + row / 2)}h${at(Math.max(1, cell - 1))}`;
    const marks = layers.flatMap((l, k) =>
      Array.from({ length: 16 }, (_, i) =>
        l.steps.length && l.steps[i % l.steps.length] > 0 ? mark(i, k) : '',
      ),
    );
    return { line: marks.join('') || `M2 ${h / 2}H${w - 2}` };
  },
};
