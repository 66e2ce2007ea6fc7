import { RANGES } from '../../model/ranges.ts';
import { DEPTHS, type PrintPlan, type Stem } from '../../model/print.ts';
import { isObject, type Checking } from './checking.ts';

const RATES = [44100, 48000, 88200, 96000, 176400, 192000];
/** stems and versions of one print; s of a range and of a tail */
const MOST = 256;
const LONGEST = 86400;
const LONGEST_TAIL = 120;

/** How a session is printed. Lines that are gone are no fault: a plan outlives them. */
export function checkPrintPlan(c: Checking, plan: PrintPlan): void {
  if (!isObject(plan) || !isObject(plan.file) || !isObject(plan.level)) {
    c.bad('/print', 'object', 'A print plan says what is printed, to which files and at which level.');
    return;
  }
  for (const key of ['stems', 'versions', 'off'] as const) {
    const list = plan[key] as unknown;
    if (!Array.isArray(list) || list.length > MOST) {
      c.bad(`/print/${key}`, 'list', `A print plan has a list of at most ${MOST} ${key}.`);
      return;
    }
  }
  plan.stems.forEach((stem, i) => checkStem(c, stem, `/print/stems/${i}`));
  plan.versions.forEach((v, i) => {
    const at = `/print/versions/${i}`;
    const isWhole = isObject(v) && Array.isArray(v.muted) && isObject(v.levels);
    if (!isWhole) {
      c.bad(at, 'object', 'A version of the mix says which lines are muted and how levels differ.');
    } else c.text(v.name, `${at}/name`, 'Name of a version', 200);
  });
  if (plan.range) {
    const { from, to } = plan.range;
    c.number(from, 0, LONGEST, '/print/range/from', 'Start of what is printed (s)');
    c.number(to, 0, LONGEST, '/print/range/to', 'End of what is printed (s)');
    if (to <= from) c.bad('/print/range/to', 'order', 'What is printed ends after it begins.');
  }
  c.number(plan.tail, 0, LONGEST_TAIL, '/print/tail', 'What is waited for silence (s)');
  c.number(plan.preRoll, 0, LONGEST_TAIL, '/print/preRoll', 'What is played before (s)');
  checkFile(c, plan.file);
  checkLevel(c, plan.level);
  checkMarks(c, plan.marks ?? []);
}

function checkMarks(c: Checking, marks: NonNullable<PrintPlan['marks']>): void {
  if (!Array.isArray(marks) || marks.length > MOST || !marks.every(isObject)) {
    c.bad('/print/marks', 'list', `A print has a list of at most ${MOST} marks.`);
    return;
  }
  marks.forEach((mark, i) => {
    c.number(mark.at, 0, LONGEST, `/print/marks/${i}/at`, 'Place of a mark (s)');
    c.text(mark.name, `/print/marks/${i}/name`, 'Name of a mark', 200);
  });
}

function checkStem(c: Checking, stem: Stem, at: string): void {
  if (!isObject(stem) || !Array.isArray(stem.lines) || !stem.lines.every((id) => typeof id === 'string')) {
    c.bad(at, 'object', 'A stem is a list of lines.');
    return;
  }
  c.text(stem.name, `${at}/name`, 'Name of a stem', 200);
  if (!DEPTHS.includes(stem.depth)) c.bad(`${at}/depth`, 'choice', `“${stem.name}”: unknown depth.`);
}

function checkFile(c: Checking, file: PrintPlan['file']): void {
  const at = '/print/file';
  if (file.format !== 'wav' && file.format !== 'flac') {
    c.bad(`${at}/format`, 'choice', 'A print is written as WAV or FLAC.');
  }
  if (file.format === 'flac' && file.bits === 32) {
    c.bad(`${at}/bits`, 'choice', 'FLAC has 16 or 24 bits here.');
  }
  if (![16, 24, 32].includes(file.bits)) c.bad(`${at}/bits`, 'choice', 'A print has 16, 24 or 32 bits.');
  if (!['none', 'triangular', 'shaped'].includes(file.dither)) {
    c.bad(`${at}/dither`, 'choice', 'Dither is none, triangular or shaped.');
  }
  if (file.rate !== null && !RATES.includes(file.rate)) {
    c.bad(`${at}/rate`, 'choice', `A print’s rate is the session’s or one of ${RATES.join(', ')} Hz.`);
  }
  if (typeof file.mono !== 'boolean') c.bad(`${at}/mono`, 'switch', 'Mono where it is mono: on or off.');
  c.text(file.names, `${at}/names`, 'Names of the files', 200);
}

function checkLevel(c: Checking, level: PrintPlan['level']): void {
  if (level.kind === 'as it is') return;
  c.number(level.ceiling, ...RANGES.PrintLevel.ceiling, '/print/level/ceiling', 'Ceiling (dBTP)');
  if (level.kind === 'loudness') {
    c.number(level.target, ...RANGES.PrintLevel.target, '/print/level/target', 'Loudness (LUFS)');
  } else if (level.kind !== 'peak') {
    c.bad('/print/level', 'choice', 'A print’s level is as it is, a peak or a loudness.');
  }
}
