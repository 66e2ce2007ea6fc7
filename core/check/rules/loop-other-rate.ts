import { isReal, loopsIn, setMeasured } from '../loops.ts';
import { quoted, type Rule } from '../rule.ts';

export const loopOtherRate: Rule = {
  id: 'loop-other-rate',
  severity: 'warning',
  title: 'Measured at another rate or buffer',
  why: 'The same converters take another time at another rate or buffer; what was measured there says nothing here.',
  safe: true,
  find: ({ session, buffer }) =>
    loopsIn(session).flatMap(({ t, x }) => {
      const measured = x.hardware?.measured;
      if (!measured) return [];
      const what = `${quoted(x)} on ${quoted(t)} was measured at`;
      const told = (message: string) => ({
        track: t.id,
        slot: x.id,
        message: isReal(x) ? `${message} Open it and measure it again.` : message,
        // what real ports do can only be measured where they are
        ...(isReal(x) ? {} : { fix: 'Measure it again' }),
      });
      if (measured.sampleRate !== session.sampleRate) {
        return [told(`${what} ${measured.sampleRate} Hz; this session runs at ${session.sampleRate} Hz.`)];
      }
      if (isReal(x) && buffer !== null && measured.buffer !== buffer) {
        return [
          told(`${what} a buffer of ${measured.buffer} frames; the interface runs at ${buffer} frames now.`),
        ];
      }
      return [];
    }),
  fix: setMeasured,
};
