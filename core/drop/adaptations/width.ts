import type { AdaptationKind } from './adaptation.ts';

const word = (n: 1 | 2): string => (n === 1 ? 'mono' : 'stereo');

/** A chain on a line of another width: every device plays both, so that only a person needs to know. */
export const width: AdaptationKind = {
  id: 'width',

  plan(c) {
    const [t, line] = [c.arriving[0], c.target];
    if (!line || t.channels === line.channels || !c.has(t, 'chain')) return;
    c.out.facts.push(
      `The preset was made on a ${word(t.channels)} track; “${line.name}” is ${word(line.channels)}. Every device here plays both.`,
    );
  },
};
