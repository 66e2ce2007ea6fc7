import { compile, flatPlans } from '../engine/compile.ts';
import { blockFor, drive, OfflineRun, sessionLength, type RenderOptions } from '../engine/offline.ts';
import type { NodeRun } from '../engine/node.ts';
import { StereoDelay } from '../devices/align.ts';
import { LoudnessMeter, type Loudness } from '../measure/loudness.ts';
import type { MixVersion, PrintPlan, Stem } from '../model/print.ts';
import { MAX_LEVEL, MIN_LEVEL, type Id, type Session } from '../model/types.ts';
import { BEFORE_MASTER, MIX_SINK, sinkOf, withStems } from './arrange.ts';
import { addsUpTo, withoutDevices } from './plan.ts';
import { ProofKeeper, type Proof } from './proof.ts';
import { tenTo } from '../model/power.ts';

/** What is printed of one stem, of the mix or of a version of it, at the session's rate. */
export interface Printed {
  id: Id;
  name: string;
  kind: 'mix' | 'version' | 'stem';
  l: Float32Array;
  r: Float32Array;
}

export interface PrintedStems {
  mix: Printed | null;
  versions: Printed[];
  stems: Printed[];
  /** null where the stems are not meant to add up */
  proof: Proof | null;
}

type Options = Pick<RenderOptions, 'sounds' | 'onProgress' | 'signal' | 'blockSize'>;

/** Where the sound of one pass goes, block by block: every channel is as long as the others. */
export type TakeBlock = (name: Id, l: Float64Array, r: Float64Array, n: number) => void;

/** dBFS under which everything counts as silent, and how long it has to be */
const SILENT = tenTo(-90 / 20);
const SILENCE = 0.3;

/**
 * Prints the mix and all stems of a plan in one pass, and each version of the mix in one of its own.
 * @param plan see `planPrint`
 * @param options sounds by media id at the session's rate; progress from 0 to 1; a signal that calls it off
 * @returns everything equally long from the same start; the proof holds the stems against the mix
 */
export async function printStems(session: Session, plan: PrintPlan, options: Options): Promise<PrintedStems> {
  const kept = new Map<Id, Kept>();
  const take: TakeBlock = (name, l, r, n) => {
    const to = kept.get(name) ?? new Kept();
    kept.set(name, to);
    to.add(l, r, n);
  };
  const { proof, frames } = await printPasses(session, plan, take, options);
  const all = passesOf(plan).map(({ sink, ...one }): Printed => ({
    ...one,
    ...(kept.get(sink) ?? new Kept()).whole(frames),
  }));
  return {
    mix: all.find((x) => x.kind === 'mix') ?? null,
    versions: all.filter((x) => x.kind === 'version'),
    stems: all.filter((x) => x.kind === 'stem'),
    proof,
  };
}

/**
 * All passes of a plan: the mix with its stems, then each version of the mix, exactly as long. Everything is handed out
 * under the names of `passesOf`.
 */
export async function printPasses(
  session: Session,
  plan: PrintPlan,
  take: TakeBlock,
  options: Options,
): Promise<{ proof: Proof | null; frames: number }> {
  const count = 1 + plan.versions.length;
  const progress = (pass: number) => (share: number) => options.onProgress?.((pass + share) / count);
  const first = await printPass(session, plan, take, { ...options, onProgress: progress(0) });
  const only = { ...plan, stems: [], mix: true };
  for (const [i, version] of plan.versions.entries()) {
    const named: TakeBlock = (_mix, l, r, n) => take(version.id, l, r, n);
    const { frames } = first;
    const rest = { ...options, frames, onProgress: progress(i + 1) };
    await printPass(inVersion(session, version), only, named, rest);
  }
  return first;
}

/** A level that a version of the mix moves; one that is wholly down stays there. */
const movedLevel = (level: number, by = 0): number =>
  level <= MIN_LEVEL ? level : Math.max(MIN_LEVEL, Math.min(MAX_LEVEL, level + by));

/** The session as a version of its mix has it. */
export const inVersion = (s: Session, { muted, levels }: MixVersion): Session => ({
  ...s,
  tracks: s.tracks.map((t) => ({
    ...t,
    mute: t.mute || muted.includes(t.id),
    level: movedLevel(t.level, levels[t.id]),
  })),
});

/** Everything that a plan prints, in the order of its files, with the name under which a pass hands it out. */
export const passesOf = (plan: PrintPlan): (Pick<Printed, 'id' | 'name' | 'kind'> & { sink: Id })[] => [
  ...(plan.mix ? [{ sink: MIX_SINK, id: MIX_SINK, name: 'Mix', kind: 'mix' as const }] : []),
  ...plan.versions.map(({ id, name }) => ({ sink: id, id, name, kind: 'version' as const })),
  ...plan.stems.map(({ id, name }) => ({ sink: sinkOf(id), id: sinkOf(id), name, kind: 'stem' as const })),
];

/**
 * One pass over the session: everything is handed out block by block, so that an hour needs no more memory than a
 * minute.
 * @param options `frames`: exactly so many; otherwise the range and what rings on behind it
 */
export async function printPass(
  session: Session,
  plan: PrintPlan,
  take: TakeBlock,
  options: Options & { frames?: number },
): Promise<{ proof: Proof | null; frames: number }> {
  const pass = new Pass(session, plan, take, options);
  try {
    await drive(pass.steps(), options);
    return { proof: pass.proof(), frames: pass.frames };
  } finally {
    pass.end();
  }
}

/** Plays the mix as a plan prints it, to know its loudness and true peak before anything is written. */
export async function measureMix(session: Session, plan: PrintPlan, options: Options): Promise<Loudness> {
  const meter = new LoudnessMeter(session.sampleRate);
  const only = { ...plan, mix: true, stems: [], versions: [] };
  const take: TakeBlock = (_mix, l, r, n) =>
    meter.add([l, r].map((side) => Float32Array.from(side.subarray(0, n))));
  await printPass(session, only, take, options);
  return meter.end();
}

/** Where a stem's sound is read while the session plays. */
interface Outlet {
  name: Id;
  node: NodeRun;
  /** of stems before the chains: what arrives at each line, delayed so that it lies as late as everything else */
  before: { l: Float64Array; r: Float64Array; wait: StereoDelay }[];
}

class Pass {
  frames = 0;
  private readonly run: OfflineRun;
  private readonly outlets: Outlet[];
  private readonly keeper: ProofKeeper | null;
  private readonly reference: NodeRun | null = null;
  private readonly sum: [Float64Array, Float64Array];
  private readonly work: [Float64Array, Float64Array];
  /** frames of the pass before the first one that is kept */
  private readonly skip: number;
  private readonly least: number;
  private readonly most: number;
  private silentFor = 0;
  private isOver = false;

  constructor(
    session: Session,
    plan: PrintPlan,
    private readonly take: TakeBlock,
    options: Options & { frames?: number },
  ) {
    const s = withoutDevices(session, plan.off);
    const fs = s.sampleRate;
    const from = plan.range?.from ?? 0;
    const to = plan.range?.to ?? sessionLength(s);
    const start = Math.max(0, from - plan.preRoll);
    const arranged = withStems(compile(s), plan.stems);
    this.least = options.frames ?? Math.round((to - from) * fs);
    this.most = options.frames ?? this.least + Math.round(plan.tail * fs);
    const parts = arranged.schedule.nodes.reduce((n, plan) => n + 1 + [...flatPlans(plan.slots)].length, 0);
    const blockSize = options.blockSize ?? blockFor(parts);
    this.run = new OfflineRun(
      s,
      { ...options, blockSize, from: start, to: start, taps: [] },
      null,
      (schedule) => withStems(schedule, plan.stems).schedule,
    );
    this.skip = arranged.latency + Math.round((from - start) * fs);
    const { engine, block } = this.run;
    const node = (id: Id) => engine.node(id)!;
    this.outlets = [
      ...(plan.mix ? [{ name: MIX_SINK, node: node(MIX_SINK), before: [] }] : []),
      ...plan.stems.map((stem) => this.outlet(stem, arranged.latency, fs)),
    ];
    const against = plan.stems.length ? addsUpTo(plan.stems) : null;
    this.keeper = against && new ProofKeeper(fs, against);
    if (against) this.reference = node(against === 'mix' ? MIX_SINK : BEFORE_MASTER);
    this.sum = [new Float64Array(block), new Float64Array(block)];
    this.work = [new Float64Array(block), new Float64Array(block)];
    this.run.onPiece = (at, n) => this.piece(at, n);
  }

  private outlet(stem: Stem, latency: number, fs: number): Outlet {
    const { engine, block } = this.run;
    const name = sinkOf(stem.id);
    const plans = new Map(engine.schedule!.nodes.map((n) => [n.track.id, n]));
    const before = (stem.depth === 'source' ? stem.lines : []).flatMap((id) => {
      const [line, plan] = [engine.node(id), plans.get(id)];
      if (!line || !plan || plan.silent) return [];
      line.arriving ??= { l: new Float64Array(block), r: new Float64Array(block) };
      const wait = new StereoDelay(fs, block);
      wait.set(latency - plan.inputLatency, true);
      return [{ ...line.arriving, wait }];
    });
    return { name, node: engine.node(name)!, before };
  }

  *steps(): Generator<number, void> {
    const { block } = this.run;
    const all = this.skip + this.least;
    for (let at = 0; !this.isOver; at += block) {
      const rest = this.skip + this.most - at;
      if (rest <= 0) return;
      this.run.process(at, Math.min(block, rest));
      yield Math.min(1, at / Math.max(1, all));
    }
  }

  /** A stretch that was just played. */
  private piece(at: number, n: number): void {
    const first = Math.max(0, this.skip - at);
    if (first >= n || this.isOver) return;
    const [sl, sr] = this.sum;
    sl.fill(0, 0, n);
    sr.fill(0, 0, n);
    let loudest = 0;
    const count = n - first;
    for (const outlet of this.outlets) {
      const [l, r] = this.soundOf(outlet, n);
      if (outlet.name !== MIX_SINK) {
        for (let i = 0; i < n; i++) {
          sl[i] += l[i];
          sr[i] += r[i];
        }
      }
      for (let i = first; i < n; i++) loudest = Math.max(loudest, Math.abs(l[i]), Math.abs(r[i]));
      this.take(outlet.name, l.subarray(first, n), r.subarray(first, n), count);
    }
    if (this.keeper && this.reference) {
      const { l, r } = this.reference;
      for (let i = first; i < n; i++) this.keeper.add(l[i] - sl[i], r[i] - sr[i]);
    }
    this.frames += count;
    this.listenForTheEnd(loudest, count);
  }
  private soundOf({ node, before }: Outlet, n: number): [Float64Array, Float64Array] {
    if (!before.length) return [node.l, node.r];
    const { l, r } = node;
    const [wl, wr] = this.work;
    l.fill(0, 0, n);
    r.fill(0, 0, n);
    for (const line of before) {
      wl.set(line.l.subarray(0, n));
      wr.set(line.r.subarray(0, n));
      line.wait.process(wl, wr, n);
      for (let i = 0; i < n; i++) {
        l[i] += wl[i];
        r[i] += wr[i];
      }
    }
    return [l, r];
  }
  /** Behind the range the print ends as soon as everything has been silent for a while. */
  private listenForTheEnd(loudest: number, n: number): void {
    this.silentFor = loudest < SILENT ? this.silentFor + n : 0;
    const isQuiet = this.silentFor >= SILENCE * this.run.engine.sampleRate;
    if (this.frames >= this.most || (this.frames >= this.least && isQuiet)) this.isOver = true;
  }

  proof(): Proof | null {
    return this.keeper?.end() ?? null;
  }
  end(): void {
    this.run.end();
  }
}

/** Sound of unknown length while it grows. */
class Kept {
  private readonly parts: [Float32Array, Float32Array][] = [];
  add(l: Float64Array, r: Float64Array, n: number): void {
    this.parts.push([Float32Array.from(l.subarray(0, n)), Float32Array.from(r.subarray(0, n))]);
  }
  /** All of it, exactly so many frames. */
  whole(frames: number): { l: Float32Array; r: Float32Array } {
    const [l, r] = [new Float32Array(frames), new Float32Array(frames)];
    let at = 0;
    for (const [pl, pr] of this.parts) {
      const n = Math.min(pl.length, frames - at);
      if (n <= 0) break;
      l.set(pl.subarray(0, n), at);
      r.set(pr.subarray(0, n), at);
      at += n;
    }
    return { l, r };
  }
}
