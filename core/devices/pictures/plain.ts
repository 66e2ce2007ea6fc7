import { type Picture } from './picture.ts';

/** A line: nothing is known of what it does. */
export const plain: Picture = {
  name: '',
  shape: (_d, w, h) => ({ line: `M4 ${h / 2}H${w - 4}` }),
};
