import type { ReportRow, Verdict } from './types.ts';

/** A device or a connection of a preset, with what became of it. */
export interface Glanced {
  id: string;
  kind: 'device' | 'connection';
  label: string;
  verdict: Verdict;
  /** values that are not as they were saved, in words */
  notes: string[];
}
/** One line of a preset at a glance. */
export interface GlancedLine {
  id: string;
  name: string;
  /** what its own values (level, pan, name …) came to */
  verdict: Verdict;
  notes: string[];
  items: Glanced[];
}

/** the worst of what a device's values came to is what is said of it */
const ORDER: readonly Verdict[] = ['intact', 'tied', 'adapted', 'left out', 'unexplained'];
const worse = (a: Verdict, b: Verdict): Verdict => (ORDER.indexOf(b) > ORDER.indexOf(a) ? b : a);
/** A key of its own, or an end that leads nowhere on both sides, is no connection. */
const NOWHERE = new Set(['own', 'none', 'nothing']);

/**
 * An intact report line by line: a mark for every device and every connection, in the order of the signal.
 * @param rows of `verifyDrop`; what was kept of a report is enough
 */
export function glanceOf(rows: readonly ReportRow[]): GlancedLine[] {
  const lines = new Map<string, GlancedLine>();
  for (const row of rows) {
    const [line, part, ...rest] = row.path.split('/');
    const [name, label] = row.label.split(' · ');
    const at = lines.get(line) ?? { id: line, name, verdict: 'intact', notes: [], items: [] };
    lines.set(line, at);
    const kind = kindOf(row, part, rest);
    if (!kind) noted(at, row);
    else noted(itemOf(at, kind, idOf(kind, part, rest), labelOf(row, kind, label)), row);
  }
  for (const line of lines.values()) line.items.sort((a, b) => placeOf(a) - placeOf(b));
  return [...lines.values()];
}

/** In the order of the signal: input, devices with their keys, sends, output. */
function placeOf({ id, kind }: Glanced): number {
  if (id === 'input') return 0;
  if (id === 'output') return 3;
  return kind === 'device' || id.endsWith('/key') ? 1 : 2;
}

function noted(at: Glanced | GlancedLine, row: ReportRow): void {
  at.verdict = worse(at.verdict, row.verdict);
  if (row.verdict === 'intact') return;
  const why = row.reason ? ` (${row.reason})` : '';
  at.notes.push(`${row.label.split(' · ').slice(1).join(' · ')}: ${row.wanted} → ${row.found}${why}`);
}

/** What a row speaks of; null for a value of the line itself. */
function kindOf(row: ReportRow, part: string, rest: readonly string[]): Glanced['kind'] | null {
  const isOwn = rest.length === 0;
  const leads = part === 'output' || part === 'input' || rest.at(-1) === 'key';
  const isNowhere = NOWHERE.has(row.wanted) && NOWHERE.has(row.found);
  if (leads && !isNowhere) return 'connection';
  if (isOwn) return null;
  return row.label.split(' · ')[1]?.startsWith('send ') ? 'connection' : 'device';
}
const idOf = (kind: Glanced['kind'], part: string, rest: readonly string[]): string =>
  kind === 'connection' && rest.at(-1) === 'key' ? `${part}/key` : part;

function labelOf(row: ReportRow, kind: Glanced['kind'], label: string): string {
  if (kind === 'device') return label;
  const to =
    row.found === row.wanted || row.verdict === 'left out' ? row.wanted : `${row.wanted} → ${row.found}`;
  if (row.path.endsWith('/key')) return `key of ${label}: ${to}`;
  return row.path.split('/').length > 2 ? label : `${label}: ${to}`;
}

function itemOf(line: GlancedLine, kind: Glanced['kind'], id: string, label: string): Glanced {
  const known = line.items.find((item) => item.id === id);
  if (known) return known;
  const item: Glanced = { id, kind, label, verdict: 'intact', notes: [] };
  line.items.push(item);
  return item;
}
