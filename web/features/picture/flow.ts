import {
  addressText,
  formatDb,
  outLabel,
  type Id,
  type PresetContent,
  type Rack,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import { shapeOf } from './shapes.ts';

/** Sizes in px of the picture of a preset's flow. */
export const TILE = 76;
const GAP = 9;
const TOP = 18;
const ROW = 48;
const EDGE = 16;
const SEND = 20;
/** where chains begin, and where they end at least */
const START = 92;
const SHORTEST = 98;

type Shape = ReturnType<typeof shapeOf>;
export interface Bead {
  slot: Slot;
  x: number;
  y: number;
  /** worked out when it is asked for: most of a long preset is never looked at */
  shape: () => Shape;
}
export interface Fork {
  id: Id;
  name: string;
  x: number;
  y: number;
  /** one for each strand */
  paths: string[];
  /** where the line's own thread is broken */
  from: number;
  to: number;
}
/** Where a connection goes: to a line of the preset itself, or out of it. */
interface End {
  label: string;
  inside: boolean;
}
export interface FlowSend extends End {
  spare: boolean;
  level: string;
  x: number;
  y: number;
}
export interface FlowLine {
  track: Track;
  y: number;
  /** how far up and down it reaches */
  top: number;
  bottom: number;
  beads: Bead[];
  forks: Fork[];
  end: number;
  sends: FlowSend[];
  out: End;
  from: string;
}

/** Height of a chain: racks are as high as their strands together. */
function heightOf(chain: Slot[]): number {
  const heights = chain.map((slot) => {
    if (slot.kind === 'device') return ROW;
    return slot.strands.reduce((sum, strand) => sum + heightOf(strand.chain), 0) + 14;
  });
  return Math.max(ROW, ...heights);
}

/** A strand leaves the thread at (x, y), runs at `middle` to `end`, and joins again. */
function strandPath(x: number, y: number, middle: number, end: number): string {
  const leave = `M${x - GAP} ${y}C${x + 6} ${y} ${x} ${middle} ${x + EDGE} ${middle}`;
  const join = `C${end + EDGE} ${middle} ${end + 10} ${y} ${end + EDGE + GAP} ${y}`;
  return `${leave}H${end}${join}`;
}

/** Places chains along their threads. */
class Placer {
  readonly beads: Bead[] = [];
  readonly forks: Fork[] = [];

  constructor(private readonly tempo: number) {}

  /** Places a chain's devices along y from x; gives the x behind it. */
  chain(slots: Slot[], x: number, y: number): number {
    let at = x;
    for (const slot of slots) at = slot.kind === 'device' ? this.bead(slot, at, y) : this.rack(slot, at, y);
    return at;
  }
  private bead(slot: Slot & { kind: 'device' }, x: number, y: number): number {
    let made: Shape | null = null;
    const shape = () => (made ??= shapeOf(slot, TILE - 10, 20, 48000, this.tempo));
    this.beads.push({ slot, x, y: y - 22, shape });
    return x + TILE + GAP;
  }
  /** A rack forks into its strands and joins again. */
  private rack(rack: Rack, x: number, y: number): number {
    const heights = rack.strands.map((strand) => heightOf(strand.chain));
    let top = y - heights.reduce((sum, height) => sum + height, 0) / 2;
    const middles = heights.map((height) => {
      top += height;
      return top - height / 2;
    });
    const ends = rack.strands.map((strand, i) => this.chain(strand.chain, x + EDGE + GAP, middles[i]));
    const end = Math.max(x + EDGE + 40, ...ends);
    this.forks.push({
      id: rack.id,
      name: rack.name,
      x: x + EDGE,
      y: middles[0] - 26,
      from: x - GAP,
      to: end + EDGE + GAP,
      paths: middles.map((middle) => strandPath(x, y, middle, end)),
    });
    return end + EDGE + GAP + GAP;
  }
}

/** Every line of a preset with its places in the picture, from the top down. */
export function layFlow(content: PresetContent, tempo: number): FlowLine[] {
  let y = TOP;
  return content.tracks.map((track) => {
    const top = y;
    const height = heightOf(track.chain);
    // the name of a rack needs room above it
    const hasFork = height > ROW;
    const middle = y + height / 2 - 4 + (hasFork ? 14 : 0);
    const placer = new Placer(tempo);
    const end = Math.max(SHORTEST, placer.chain(track.chain, START, middle) + 6);
    const below = y + height + 10 + (hasFork ? 16 : 0);
    const sends = track.sends.map((s, i) => ({
      ...endOf(content, s.to),
      spare: !!content.looseEnds.find((e) => e.id === s.to)?.spare,
      level: formatDb(s.level),
      y: below + i * SEND,
      x: end + i * 10,
    }));
    y = below + 4 + track.sends.length * SEND;
    const { beads, forks } = placer;
    return {
      track,
      y: middle,
      top,
      bottom: y,
      beads,
      forks,
      end,
      sends,
      out: outOf(content, track),
      from: fromOf(content, track),
    };
  });
}

function endOf(content: PresetContent, id: Id): End {
  const own = content.tracks.find((t) => t.id === id);
  if (own) return { label: own.name, inside: true };
  return { label: content.looseEnds.find((e) => e.id === id)?.label ?? '?', inside: false };
}

function outOf(content: PresetContent, { role, output }: Track): End {
  if (output.kind === 'track') return endOf(content, output.track);
  if (role === 'master') return { label: 'speakers', inside: false };
  if (output.kind === 'midi') return { label: addressText(output), inside: false };
  return { label: output.kind === 'hardware' ? output.port : 'nowhere', inside: false };
}

function fromOf(content: PresetContent, { input }: Track): string {
  if (input.kind === 'midi') return addressText(input);
  if (input.kind !== 'deviceOutput') return '';
  const side = input.take === 'left' || input.take === 'right' ? input.take : 'both';
  return `from ${endOf(content, input.track).label}, ${outLabel({ pair: input.output, side })}`;
}

/** The thread of a line outside its racks: it is broken where a rack of the line itself forks. */
export function threadOf({ track, forks, y, end }: FlowLine): string {
  let path = '';
  let x = 8;
  for (const fork of forks.filter((f) => track.chain.some((slot) => slot.id === f.id))) {
    path += `M${x} ${y}H${fork.from}`;
    x = fork.to;
  }
  return `${path}M${x} ${y}H${end + 60}`;
}

/** A send peels off behind the chain. */
export const sendPath = ({ y, end }: FlowLine, send: FlowSend): string =>
  `M${send.x} ${y}V${send.y - 8}Q${send.x} ${send.y} ${send.x + 8} ${send.y}H${end + 60}`;

/** px after the end of a line where the words begin that say where it goes, and px that a letter is wide at most */
export const WORDS_AT = 76;
const LETTER = 6.4;
/** What stands at a send: its return, and how much of it. */
export const sendText = (s: FlowLine['sends'][number]): { label: string; level: string } => ({
  label: s.label,
  level: `${s.level}${s.spare ? ', copied' : ''}`,
});
function wordsWidth(l: FlowLine): number {
  const sends = l.sends.map(sendText).map(({ label, level }) => `${label} ${level}`);
  const longest = Math.max(...[l.out.label, ...sends].map((text) => text.length));
  return Math.max(139, longest * LETTER + 12);
}

/** Size of the whole picture. */
export function sizeOf(lines: FlowLine[]): { width: number; height: number } {
  const bottoms = lines.flatMap((l) => [
    l.y + 34,
    ...l.beads.map((b) => b.y + 56),
    ...l.sends.map((s) => s.y + 12),
  ]);
  return {
    width: Math.max(560, ...lines.map((l) => l.end + WORDS_AT + wordsWidth(l))),
    height: Math.max(70, ...bottoms),
  };
}

/** px of the picture around what is in sight that are drawn with it */
const AROUND = 400;

/**
 * The lines of a picture that are in sight, and some around them.
 * @param shown how the picture is shown: px that it is scrolled by, px that are in sight, and its scale
 */
export function linesInSight(
  lines: FlowLine[],
  shown: { scrolled: number; height: number; scale: number },
): FlowLine[] {
  const from = (shown.scrolled - AROUND) / shown.scale;
  const to = (shown.scrolled + shown.height + AROUND) / shown.scale;
  return lines.filter((l) => l.bottom >= from && l.top <= to);
}

/** The picture in words. */
export const flowTold = (lines: FlowLine[]): string =>
  lines
    .map(({ track, from, beads, sends, out }) => {
      const name = from ? `${track.name}, ${from}` : track.name;
      const devices = beads.map((b) => b.slot.name).join(', then ') || 'no devices';
      const sendsTo = sends.map((s) => s.label).join(', ') || 'nothing';
      return `${name}: ${devices}; sends to ${sendsTo}; out to ${out.label}`;
    })
    .join('. ');
