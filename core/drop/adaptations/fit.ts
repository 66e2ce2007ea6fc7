import type { AdaptationKind } from './adaptation.ts';

/**
 * Values that fit the sound that a preset meets, as they were worked out before (`fitNow`): each is made only where the
 * person, or their own setting, said so.
 */
export const fit: AdaptationKind = {
  id: 'fit',
  linesOnly: true,

  plan(c) {
    const [arriving] = c.arriving;
    if (!arriving || c.place.kind !== 'onto') return;
    for (const step of c.options.fit ?? []) {
      const path = `${arriving.id}/${step.path}`;
      const { label, from, to, fromText, toText, reason } = step;
      c.out.adaptations.push({
        path,
        label,
        from,
        to,
        fromText,
        toText,
        reason,
        on: c.options.adapt?.[path] ?? step.on,
      });
    }
  },
};

/** Where the trim before the chain stands among adaptations. */
export const trimPath = (local: string): string => `${local}/inputTrim`;
