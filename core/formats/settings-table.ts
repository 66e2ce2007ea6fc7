import Papa from 'papaparse';
import { DEVICE_TYPES, isUsed, valueIn } from '../devices/index.ts';
import type { Device, PresetContent, Track } from '../model/types.ts';
import { formatValue, parseValue } from '../model/units.ts';
import { devicesIn, mapDevices } from '../session/slots.ts';
import { csvText, textBehind } from './spreadsheet.ts';

const COLUMNS = ['line', 'device', 'of', 'setting', 'what', 'value', 'unit'] as const;
type Row = Record<(typeof COLUMNS)[number], string>;

/** problems that are told: more nobody reads */
const MOST = 20;

/** What a table of settings says about a preset. */
export interface SettingsRead {
  /** the preset's content with what the table says; the same object when it says nothing new */
  content: PresetContent;
  /** values that are otherwise now, in words */
  changed: { label: string; from: string; to: string }[];
  /** rows that can't be taken, each with its number and the way out; nothing is taken then */
  problems: string[];
}

/**
 * The settings of a preset's devices as CSV (RFC 4180), one row a value: line and device by name for people, `of` and
 * `setting` by their ids for the way back, the value as a plain number, choice or text in the unit that stands beside it.
 * Values that say nothing with the others as they are (of a band that is off) are there, too.
 */
export function settingsToCsv(content: PresetContent): string {
  const rows = linesOf(content).flatMap((t) => devicesIn(t.chain).flatMap((d) => rowsOf(t, d)));
  return csvText(COLUMNS, rows);
}

const linesOf = (content: PresetContent): Track[] => [...content.tracks, ...content.spares];

const rowsOf = (t: Track, d: Device): string[][] =>
  (DEVICE_TYPES[d.type]?.params ?? []).map((p) => [
    t.name,
    d.name,
    d.id,
    p.id,
    p.label,
    String(valueIn(d, p)),
    p.unit ?? '',
  ]);

/**
 * Reads a table of settings back: rows may be left out, come in any order and in any separator that spreadsheets use;
 * values may be written as a person writes them (“2.5k”, “4:1”, “on”).
 */
export function settingsFromCsv(content: PresetContent, text: string): SettingsRead {
  const problems: string[] = [];
  const wanted = new Map<string, string>();
  const known = new Set(linesOf(content).flatMap((t) => devicesIn(t.chain).map((d) => d.id)));
  const { data, meta } = Papa.parse<Partial<Row>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (h) => h.trim().toLowerCase(),
  });
  const missing = ['of', 'setting', 'value'].filter((c) => !meta.fields?.includes(c));
  if (missing.length) {
    const columns = missing.map((c) => `“${c}”`).join(' and ');
    return {
      content,
      changed: [],
      problems: [`The table has no column ${columns}. Save one from here to see how it looks.`],
    };
  }
  data.forEach((row, i) => {
    const { of = '', setting = '', value = '' } = row;
    if (known.has(of.trim())) wanted.set(`${of.trim()}/${setting.trim()}`, value);
    else {
      problems.push(
        `Row ${i + 2}: this preset has no device “${of}”. Leave the column “of” as it was saved.`,
      );
    }
  });
  const changed: SettingsRead['changed'] = [];
  const set = (t: Track): Track => ({
    ...t,
    chain: mapDevices(t.chain, (d) => withSettings(d, t, wanted, changed, problems)),
  });
  const next = { ...content, tracks: content.tracks.map(set), spares: content.spares.map(set) };
  for (const key of wanted.keys()) {
    problems.push(
      `There is no setting “${key.split('/')[1]}” in its device. Leave the column “setting” as it was saved.`,
    );
  }
  if (problems.length) return { content, changed: [], problems: problems.slice(0, MOST) };
  return { content: changed.length ? next : content, changed, problems };
}

/** A device with what a table says of it; what was found is taken out of `wanted`. */
function withSettings(
  d: Device,
  t: Track,
  wanted: Map<string, string>,
  changed: SettingsRead['changed'],
  problems: string[],
): Device {
  const params = { ...d.params };
  const before = changed.length;
  for (const p of DEVICE_TYPES[d.type]?.params ?? []) {
    const typed = wanted.get(`${d.id}/${p.id}`);
    if (typed === undefined) continue;
    wanted.delete(`${d.id}/${p.id}`);
    const was = valueIn(d, p);
    if (textBehind(typed) === String(was)) continue;
    const read = parseValue(p, textBehind(typed));
    if ('error' in read) problems.push(`${t.name} · ${d.name} · ${read.error}`);
    else if (read.value !== was) {
      params[p.id] = read.value;
      const label = `${t.name} · ${d.name} · ${p.label}${isUsed(d, p.id) ? '' : ' (not in use)'}`;
      changed.push({ label, from: formatValue(p, was), to: formatValue(p, read.value) });
    }
  }
  return changed.length > before ? { ...d, params } : d;
}
