import type { LivePorts, LiveWay } from '../devices/live.ts';

/** Which channels of the interface carry which port: channels from 0, one or two for each name. */
export interface PortMap {
  outs: Record<string, number[]>;
  ins: Record<string, number[]>;
  /** where the mix is heard: one channel gets the sum of both sides, more get left and right in turns */
  monitor: number[];
}

/** The mix on the first two channels, no port connected. */
export const NO_PORTS: PortMap = { outs: {}, ins: {}, monitor: [0, 1] };

/**
 * The channels of a real interface between the browser's blocks and the engine's longer ones. What comes in waits
 * until a block of the engine is full, what goes out until it is asked for: together `block` less one browser's block,
 * always the same, so that a measured round trip holds.
 */
export class PortBuffers implements LivePorts {
  private map = NO_PORTS;
  private ways = new Map<string, Map<string, LiveWay | null>>();
  /** the last block of every channel that came in, as a ring, and straightened out */
  private rings: Float64Array[] = [];
  private ins: Float64Array[] = [];
  private outs: Float64Array[] = [];
  private at = 0;
  /** linear peaks of every channel since they were read last */
  private peaks: { ins: number[]; outs: number[] } = { ins: [], outs: [] };

  /** @param block frames that the engine works at once */
  constructor(private readonly block: number) {}

  /** Other ports, or none; what they carried is forgotten. Allocates, so it is called between blocks only. */
  set(map: PortMap): void {
    this.map = map;
    const count = (names: Record<string, number[]>, more: number[]) =>
      1 + Math.max(-1, ...Object.values(names).flat(), ...more);
    const make = (n: number) => Array.from({ length: n }, () => new Float64Array(this.block));
    this.rings = make(count(map.ins, []));
    this.ins = make(this.rings.length);
    this.outs = make(count(map.outs, map.monitor));
    this.peaks = { ins: this.ins.map(() => 0), outs: this.outs.map(() => 0) };
    this.ways = new Map();
    for (const [send, out] of Object.entries(map.outs)) {
      const backs = Object.entries(map.ins).map(([name, back]): [string, LiveWay] => [
        name,
        { out: out.map((k) => this.outs[k]), back: back.map((k) => this.ins[k]) },
      ]);
      this.ways.set(send, new Map(backs));
    }
  }
  way(send: string, back: string): LiveWay | null {
    return this.ways.get(send)?.get(back) ?? null;
  }

  /** Takes what came in: channels of n frames; those that are missing are silent. */
  arrive(channels: readonly Float32Array[], n: number): void {
    for (let k = 0; k < this.rings.length; k++) {
      const ring = this.rings[k];
      const from = channels[k];
      for (let i = 0; i < n; i++) ring[(this.at + i) % this.block] = from ? from[i] : 0;
      if (from) this.peaks.ins[k] = Math.max(this.peaks.ins[k], peakOf(from, n));
    }
    this.at = (this.at + n) % this.block;
  }
  /** Before the engine works a block: the latest frames of every input, and empty outputs. */
  begin(): void {
    for (let k = 0; k < this.ins.length; k++) {
      const older = this.block - this.at;
      for (let i = 0; i < older; i++) this.ins[k][i] = this.rings[k][this.at + i];
      for (let i = older; i < this.block; i++) this.ins[k][i] = this.rings[k][i - older];
    }
    for (let k = 0; k < this.outs.length; k++) this.outs[k].fill(0);
  }
  /** Peaks of what came in and of what the loops sent out, without the mix; null where no port is connected. */
  takePeaks(): { ins: number[]; outs: number[] } | null {
    if (!this.ways.size) return null;
    const taken = this.peaks;
    this.peaks = { ins: this.ins.map(() => 0), outs: this.outs.map(() => 0) };
    return taken;
  }
  /** Hands n frames of the block from `at` on to the interface: the sends, and the mix on its own channels. */
  give(to: readonly Float32Array[], at: number, n: number, l: Float32Array, r: Float32Array): void {
    for (let k = 0; k < to.length; k++) {
      const from = this.outs[k];
      for (let i = 0; i < n; i++) to[k][i] = from ? from[at + i] : 0;
      if (from) this.peaks.outs[k] = Math.max(this.peaks.outs[k], peakOf(to[k], n));
    }
    const { monitor } = this.map;
    for (let m = 0; m < monitor.length; m++) {
      const channel = to[monitor[m]];
      if (!channel) continue;
      const side = m % 2 ? r : l;
      if (monitor.length === 1) for (let i = 0; i < n; i++) channel[i] += 0.5 * (l[at + i] + r[at + i]);
      else for (let i = 0; i < n; i++) channel[i] += side[at + i];
    }
  }
}

function peakOf(x: Float32Array, n: number): number {
  let peak = 0;
  for (let i = 0; i < n; i++) peak = Math.max(peak, Math.abs(x[i]));
  return peak;
}
