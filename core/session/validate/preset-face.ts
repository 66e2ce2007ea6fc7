import { LISTS, RANGES, SHELF_ID, TEXTS } from '../../model/limits.ts';
import {
  PART_IDS,
  PRESET_KINDS,
  ROLES,
  type LooseEnd,
  type Preset,
  type PresetContent,
  type Problem,
  type Requirements,
  type Session,
} from '../../model/types.ts';
import {
  checking,
  isListOf,
  isObject,
  isPart,
  isText,
  isWhole,
  isWithin,
  type Checking,
} from './checking.ts';

const isWidth = (v: unknown): boolean => v === 1 || v === 2;

/** What a shelf shows of a preset, and what it says of itself: everything but its content. */
export function presetFaceProblems(p: Preset): Problem[] {
  const out: Problem[] = [];
  const c = checking({ tracks: [] } as unknown as Session, out);
  c.text(p.name, '/name', 'A preset’s name', TEXTS.Preset.name);
  c.text(p.category, '/category', 'A category', TEXTS.Preset.category);
  c.text(p.colour, '/colour', 'A preset’s colour', TEXTS.Preset.colour);
  c.text(p.note, '/note', 'A preset’s note', TEXTS.Preset.note);
  checkTags(c, p.tags);
  if (!PRESET_KINDS.includes(p.kind)) {
    c.bad('/kind', 'kind', `A preset is one of: ${PRESET_KINDS.join(', ')}.`);
  }
  if (!isText(p.id) || !SHELF_ID.test(p.id)) {
    c.bad('/id', 'id', 'A preset’s id has 1 to 64 letters, digits, points and dashes.');
  }
  if (!isWhole(p.version, ...RANGES.Preset.version)) {
    c.bad('/version', 'version', 'Versions of a preset are counted from 1.');
  }
  const { parent } = p;
  if (parent !== null && !(isObject(parent) && isText(parent.preset) && Number.isFinite(parent.version))) {
    c.bad('/parent', 'parent', 'What a preset was saved from is a version of a preset, or nothing.');
  }
  if (!areRequirements(p.requirements)) {
    const message =
      'What a preset needs are names of devices, widths and its highest frequency. Save it again.';
    c.bad('/requirements', 'requirements', message);
  }
  return out;
}

function checkTags(c: Checking, tags: unknown): void {
  const most = LISTS.Preset.tags[1];
  if (!Array.isArray(tags) || tags.length > most) {
    c.bad('/tags', 'tags', `A preset has at most ${most} tags.`);
    return;
  }
  tags.forEach((tag, i) => c.text(tag, `/tags/${i}`, 'A tag', TEXTS.Preset.tags));
}

const areRequirements = (r: Requirements): boolean =>
  isObject(r) &&
  isListOf(r.devices, isText) &&
  isListOf(r.foreign, isText) &&
  isListOf(r.channels, isWidth) &&
  isWithin(r.topFrequency, RANGES.Requirements.topFrequency);

/** Which parts a preset holds, and what its lines were connected to. */
export function presetContentProblems({ parts, trackParts, looseEnds, session }: PresetContent): Problem[] {
  const out: Problem[] = [];
  const c = checking({ tracks: [] } as unknown as Session, out);
  const areParts = (v: unknown): boolean => isListOf(v, isPart);
  const isOwn =
    trackParts === undefined || (isObject(trackParts) && Object.values(trackParts).every(areParts));
  if (!areParts(parts) || !isOwn) {
    c.bad('/content/parts', 'choice', `Parts of a preset are: ${PART_IDS.join(', ')}.`);
  }
  looseEnds.forEach((end, i) => {
    if (!isEnd(end)) {
      const message =
        'A loose end says what it was: its line, kind, name, role and width. Save the preset again.';
      c.bad(`/content/looseEnds/${i}`, 'loose-end', message);
    }
  });
  if (session !== undefined && !(isObject(session) && SETTINGS.every((key) => key in session))) {
    const message = `A starter keeps of its session: ${SETTINGS.join(', ')}. Save it again.`;
    c.bad('/content/session', 'object', message);
  }
  return out;
}

/** What every starter keeps. */
const SETTINGS = ['sampleRate', 'bitDepth', 'tempo', 'meter', 'panLaw', 'setupId', 'note'] as const;

const ENDS = ['output', 'send', 'key', 'input', 'folder'];
const isEnd = (e: LooseEnd): boolean =>
  isObject(e) &&
  isText(e.track) &&
  isText(e.label) &&
  (e.at === undefined || isText(e.at)) &&
  (e.spare === undefined || isText(e.spare)) &&
  ENDS.includes(e.kind) &&
  ROLES.includes(e.role) &&
  isWidth(e.channels);
