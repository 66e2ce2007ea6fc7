/** The program's own words, each in a line. */
export const TERMS = {
  strand: 'A strand is one parallel path inside a rack; the blend leads from one to the next.',
  handle: 'A handle is one control that moves several values at once, each over its own range.',
  'loose end':
    'A loose end is a connection that leads out of a preset: it is tied to something in this session.',
  spare:
    'A spare is a copy of the bus or return that a preset leads to; it comes along where this session has none.',
  rig: 'A rig is several lines with everything between them.',
  starter: 'A starter is a whole session to begin others from; work in those never changes it.',
} as const;
export type Term = keyof typeof TERMS;
