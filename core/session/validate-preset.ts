import { RANGES } from '../model/limits.ts';
import { createSession, createTrack } from './create.ts';
import { clone, hashOf } from '../model/json.ts';
import type { Preset, Problem, Track } from '../model/types.ts';
import { isObject, isWithin } from './validate/checking.ts';
import { presetContentProblems, presetFaceProblems } from './validate/preset-face.ts';
import { validateSession } from './validate/index.ts';

/**
 * The invariants of a preset: its tracks must make a sound session when every loose end is tied to a
 * stand-in, and the hash must be that of the content. Never throws.
 */
export function validatePreset(preset: unknown): Problem[] {
  const p = preset as Preset;
  const c = p?.content;
  if (
    p?.format !== 'rope-shelf/preset' ||
    !c ||
    !Array.isArray(c.tracks) ||
    !Array.isArray(c.looseEnds) ||
    !Array.isArray(c.spares) ||
    !Array.isArray(c.parts) ||
    !Array.isArray(c.media)
  ) {
    return [{ path: '', rule: 'format', message: 'This is not a preset of this program.' }];
  }
  const face = presetFaceProblems(p);
  if (face.length) return face;
  if (c.tracks.length === 0) {
    return [{ path: '/content/tracks', rule: 'empty', message: 'A preset holds at least one track.' }];
  }
  const { tempo, sampleRate } = RANGES.PresetReference;
  if (!isWithin(p.reference?.tempo, tempo) || !isWithin(p.reference.sampleRate, sampleRate)) {
    return [
      {
        path: '/reference',
        rule: 'range',
        message: 'The tempo and sample rate that the preset was saved at are missing.',
      },
    ];
  }
  const remembered = checkReference(p.reference.lines);
  if (remembered) return [remembered];
  const content = presetContentProblems(c);
  if (content.length) return content;
  try {
    const stand = (t: Track): Track => ({ ...clone(t), role: t.role === 'master' ? 'bus' : t.role });
    const ends = c.looseEnds.map((e) =>
      createTrack(e.role === 'master' ? 'bus' : e.role, { id: e.id, name: e.label.trim() || 'loose end' }),
    );
    const problems = validateSession(
      createSession({
        ...c.session,
        tracks: [...c.tracks.map(stand), ...c.spares.map(stand), ...ends, createTrack('master')],
        media: c.media,
        print: c.print === undefined ? c.session?.print : c.print,
      }),
    );
    if (!problems.length && p.hash !== hashOf(c)) {
      problems.push({
        path: '/hash',
        rule: 'hash',
        message: 'The content hash does not belong to the content: it was changed on the way. Save it again.',
      });
    }
    return problems;
  } catch {
    return [{ path: '/content', rule: 'format', message: 'The preset’s content is not complete.' }];
  }
}

/** lines and devices that a preset remembers the sound of, at most */
const MOST = 512;
const isNumber = (v: unknown): boolean => typeof v === 'number' && Number.isFinite(v);

/** What is remembered of the sound: numbers, or nothing; null where it is so. */
function checkReference(lines: unknown): Problem | null {
  const wrong = (at: string): Problem => ({
    path: `/reference/lines${at}`,
    rule: 'reference',
    message: 'What a preset remembers of its sound is a list of figures for each line. Save it again.',
  });
  if (lines === undefined) return null;
  if (!isObject(lines) || Object.keys(lines).length > MOST) return wrong('');
  for (const [id, line] of Object.entries(lines)) {
    const isLine =
      isObject(line) &&
      ['seconds', 'loudness', 'truePeak', 'crest'].every((key) => isNumber(line[key])) &&
      Array.isArray(line.thirds) &&
      line.thirds.length <= MOST &&
      line.thirds.every(isNumber) &&
      Array.isArray(line.devices) &&
      line.devices.length <= MOST &&
      line.devices.every(
        (d) => isObject(d) && typeof d.id === 'string' && isNumber(d.mean) && isNumber(d.level),
      ) &&
      isObject(line.values) &&
      Object.values(line.values).every(isNumber);
    if (!isLine) return wrong(`/${id}`);
  }
  return null;
}
