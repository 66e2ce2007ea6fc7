import { plain } from './pictures/plain.ts';
import { defineDevice } from './spec.ts';

/**
 * A third-party device that cannot run here: its state is kept byte for byte and sound passes through
 * unchanged.
 */
export const opaque = defineDevice({
  type: 'opaque',
  label: 'Third-party device',
  summary: 'Kept with its state from an imported file; passes sound through and is marked.',
  hasKey: false,
  keepsMono: true,
  foreign: true,
  makesSides: true,
  panel: 'foreign',
  picture: plain,
  work: 0,
  character: (d) => d.name,
  params: [],
  latency: () => 0,
  response: () => [1, 0],
  create: () => ({
    reduction: 0,
    level: -160,
    set() {
      /* nothing to set */
    },
    process() {
      /* passes through */
    },
    reset() {
      /* no memory */
    },
  }),
});
