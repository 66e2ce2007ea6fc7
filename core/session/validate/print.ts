import { LISTS, PRINT_RATES, RANGES, TEXTS } from '../../model/limits.ts';
import { DEPTHS, type PrintPlan, type Stem } from '../../model/print.ts';
import { isObject, type Checking } from './checking.ts';

const NUMBERS = RANGES.PrintPlan;

/** How a session is printed. Lines that are gone are no fault: a plan outlives them. */
export function checkPrintPlan(c: Checking, plan: PrintPlan): void {
  if (!isObject(plan) || !isObject(plan.file) || !isObject(plan.level)) {
    c.bad('/print', 'object', 'A print plan says what is printed, to which files and at which level.');
    return;
  }
  for (const key of ['stems', 'versions', 'off'] as const) {
    const list = plan[key] as unknown;
    const most = LISTS.PrintPlan[key][1];
    if (!Array.isArray(list) || list.length > most) {
      c.bad(`/print/${key}`, 'list', `A print plan has a list of at most ${most} ${key}.`);
      return;
    }
  }
  if (typeof plan.mix !== 'boolean') c.bad('/print/mix', 'switch', 'The mix is printed or not.');
  if (!plan.off.every((id) => typeof id === 'string')) {
    c.bad('/print/off', 'list', 'What is left off in a print are devices by their ids.');
  }
  plan.stems.forEach((stem, i) => checkStem(c, stem, `/print/stems/${i}`));
  plan.versions.forEach((v, i) => {
    const at = `/print/versions/${i}`;
    const isWhole =
      isObject(v) &&
      typeof v.id === 'string' &&
      Array.isArray(v.muted) &&
      v.muted.every((id) => typeof id === 'string') &&
      isObject(v.levels) &&
      Object.values(v.levels).every(Number.isFinite);
    if (!isWhole) {
      c.bad(at, 'object', 'A version of the mix says which lines are muted and how levels differ.');
    } else c.text(v.name, `${at}/name`, 'Name of a version', TEXTS.MixVersion.name);
  });
  if (plan.range !== null && !isObject(plan.range)) {
    c.bad('/print/range', 'object', 'What is printed is all of the song, or goes from a time to another.');
  } else if (plan.range) {
    const { from, to } = plan.range;
    c.number(from, ...NUMBERS.from, '/print/range/from', 'Start of what is printed (s)');
    c.number(to, ...NUMBERS.to, '/print/range/to', 'End of what is printed (s)');
    if (to <= from) c.bad('/print/range/to', 'order', 'What is printed ends after it begins.');
  }
  c.number(plan.tail, ...NUMBERS.tail, '/print/tail', 'What is waited for silence (s)');
  c.number(plan.preRoll, ...NUMBERS.preRoll, '/print/preRoll', 'What is played before (s)');
  checkFile(c, plan.file);
  checkLevel(c, plan.level);
  if (plan.marks !== undefined) checkMarks(c, plan.marks);
}

function checkMarks(c: Checking, marks: NonNullable<PrintPlan['marks']>): void {
  const most = LISTS.PrintPlan.marks[1];
  if (!Array.isArray(marks) || marks.length > most || !marks.every(isObject)) {
    c.bad('/print/marks', 'list', `A print has a list of at most ${most} marks.`);
    return;
  }
  marks.forEach((mark, i) => {
    c.number(mark.at, ...NUMBERS.at, `/print/marks/${i}/at`, 'Place of a mark (s)');
    c.text(mark.name, `/print/marks/${i}/name`, 'Name of a mark', TEXTS.PrintPlan.name);
  });
}

function checkStem(c: Checking, stem: Stem, at: string): void {
  const isWhole =
    isObject(stem) &&
    typeof stem.id === 'string' &&
    Array.isArray(stem.lines) &&
    stem.lines.every((id) => typeof id === 'string');
  if (!isWhole) {
    c.bad(at, 'object', 'A stem is a list of lines.');
    return;
  }
  c.text(stem.name, `${at}/name`, 'Name of a stem', TEXTS.Stem.name);
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
  if (file.rate !== null && !(PRINT_RATES as readonly number[]).includes(file.rate)) {
    c.bad(`${at}/rate`, 'choice', `A print’s rate is the session’s or one of ${PRINT_RATES.join(', ')} Hz.`);
  }
  if (typeof file.mono !== 'boolean') c.bad(`${at}/mono`, 'switch', 'Mono where it is mono: on or off.');
  c.text(file.names, `${at}/names`, 'Names of the files', TEXTS.PrintFile.names);
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
