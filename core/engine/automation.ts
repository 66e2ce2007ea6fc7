import { followsLane, laneTarget, laneValue } from '../session/automation.ts';
import { tieValue } from '../session/handles.ts';
import { tieTarget } from '../session/tie-targets.ts';
import { runningParams } from '../devices/index.ts';
import { devicesIn, racksIn } from '../session/slots.ts';
import type { Id, LanePoint, Params, Rack, Tie, Track } from '../model/types.ts';
import type { ParamSpec } from '../model/param.ts';
import {
  edgeGains,
  faderGains,
  flatPlans,
  keyGains,
  strandGains,
  type Edge,
  type NodePlan,
} from './compile.ts';
import type { EdgeRun } from './edge.ts';
import type { NodeRun } from './node.ts';
import type { SlotRun } from './slot.ts';

/**
 * Frames from one setting of automated values to the next; in between gains go straight and devices glide as
 * they do when a hand moves them.
 */
export const LANE_GRID = 128;

/** One value that is moved: read from points, for a handle's ties turned into what the tie makes of it. */
interface Drive {
  param: string;
  spec: ParamSpec;
  points: readonly LanePoint[];
  tie: { spec: ParamSpec; tie: Tie } | null;
}
interface DeviceLane {
  run: SlotRun;
  late: number;
  params: Params;
  drives: Drive[];
}
interface RackLane {
  run: SlotRun;
  late: number;
  rack: Rack;
  drives: { of: Id; drive: Drive }[];
}
interface Outgoing {
  run: EdgeRun;
  late: number;
  gains: (t: Track) => [number, number];
}

/** What leaves a track, as the running engine has it. */
export interface Leaving {
  edges: { run: EdgeRun; edge: Edge; late: number }[];
  keys: { run: EdgeRun; tap: 'pre' | 'post'; late: number }[];
}

/**
 * The lanes of one track while it runs. A value is read where its sound is: as much later than the song's
 * place as sound arrives there late, so that a move stays on the syllable whatever delays the path.
 */
export class TrackLanes {
  private readonly devices: DeviceLane[] = [];
  private readonly racks: RackLane[] = [];
  /** the track's own values as they stand, written over in place */
  private readonly own: Track;
  private readonly drives: { into: Record<string, unknown>; drive: Drive }[] = [];
  private readonly out: Outgoing[];

  constructor(
    readonly node: NodeRun,
    private readonly plan: NodePlan,
    private readonly law: -3 | -4.5 | 0,
    private readonly rate: number,
    slotOf: (id: Id) => SlotRun,
    leaving: Leaving,
  ) {
    const t = plan.track;
    this.own = { ...t, sends: t.sends.map((s) => ({ ...s })) };
    const late = new Map([...flatPlans(plan.slots)].map((p) => [p.slot.id, p.at]));
    const racks = racksIn(t.chain);
    for (const lane of t.automation ?? []) {
      const target = lane.on && lane.points.length ? laneTarget(t, lane) : null;
      if (!target) continue;
      const drive: Drive = { param: lane.param, spec: target.spec, points: lane.points, tie: null };
      const send = this.own.sends.find((s) => s.id === lane.of);
      if (lane.of === t.id) this.drives.push({ into: this.own as unknown as Record<string, unknown>, drive });
      else if (send) this.drives.push({ into: send as unknown as Record<string, unknown>, drive });
      else {
        const around = racks.find((r) => r.handles.some((h) => h.id === lane.of));
        if (!around) this.drive(t, lane.of, drive, late, slotOf);
        else {
          for (const tie of around.handles.find((h) => h.id === lane.of)!.ties) {
            const far = tieTarget(around, tie);
            if (far && followsLane(t, tie)) {
              this.drive(
                t,
                tie.slot,
                { ...drive, param: tie.param, tie: { spec: far.spec, tie } },
                late,
                slotOf,
              );
            }
          }
        }
      }
    }
    this.out =
      this.drives.length === 0
        ? []
        : [
            ...leaving.edges
              .filter((x) => !x.edge.closed && !x.edge.tap)
              .map((x) => ({ run: x.run, late: x.late, gains: (now: Track) => edgeGains(x.edge, now, law) })),
            ...leaving.keys.map((x) => ({
              run: x.run,
              late: x.late,
              gains: (now: Track) => keyGains(x.tap, now, law),
            })),
          ];
  }

  /** Whether any lane moves something that runs. */
  get idle(): boolean {
    return !this.devices.length && !this.racks.length && !this.drives.length;
  }

  private drive(t: Track, of: Id, drive: Drive, late: Map<Id, number>, slotOf: (id: Id) => SlotRun): void {
    const device = devicesIn(t.chain).find((d) => d.id === of);
    const rack = device
      ? null
      : racksIn(t.chain).find((r) => r.id === of || r.strands.some((s) => s.id === of));
    const id = device?.id ?? rack?.id;
    // inactive things do not run
    if (!id || !late.has(id)) return;
    if (device) {
      const known = this.devices.find((d) => d.run.id === id);
      if (known) known.drives.push(drive);
      else {
        this.devices.push({
          run: slotOf(id),
          late: late.get(id)!,
          params: { ...runningParams(device) },
          drives: [drive],
        });
      }
    } else {
      const known =
        this.racks.find((r) => r.run.id === id) ??
        this.racks[
          this.racks.push({
            run: slotOf(id),
            late: late.get(id)!,
            rack: { ...rack!, blend: { ...rack!.blend }, strands: rack!.strands.map((s) => ({ ...s })) },
            drives: [],
          }) - 1
        ];
      known.drives.push({ of, drive });
    }
  }

  /** Everything stands as if it had come from the point of the grid before a place, on its way to the next. */
  start(position: number): void {
    const into = position % LANE_GRID;
    this.set(position - into, 0, true);
    if (into === 0) return;
    this.set(position - into + LANE_GRID, LANE_GRID, false);
    const runs = [
      this.node,
      ...this.out.map((o) => o.run),
      ...this.racks.flatMap((r) => r.run.rack!.strands),
    ];
    for (const run of runs) {
      run.gl.advance(into);
      run.gr.advance(into);
    }
  }

  /**
   * Sets everything to its value at a place.
   * @param position frames of the song
   * @param samples over which gains go there
   * @param immediate devices, too, are there at once
   */
  set(position: number, samples: number, immediate: boolean): void {
    const at = (late: number) => (position - late) / this.rate;
    for (const d of this.devices) {
      let moved = false;
      for (const x of d.drives) {
        const v = valueOf(x, at(d.late));
        if (d.params[x.param] !== v) {
          d.params[x.param] = v;
          moved = true;
        }
      }
      if (moved || immediate) d.run.move({ ...d.params }, immediate);
    }
    for (const r of this.racks) {
      for (const { of, drive } of r.drives) {
        const v = valueOf(drive, at(r.late));
        if (of === r.rack.id) r.rack.blend.position = v as number;
        else {
          Object.assign(
            r.rack.strands.find((s) => s.id === of)!,
            { [drive.param]: v },
          );
        }
      }
      const gains = strandGains(r.rack);
      r.run.rack!.strands.forEach((s, k) => {
        s.gl.to(gains[k][0], samples);
        s.gr.to(gains[k][1], samples);
      });
    }
    if (!this.drives.length) return;
    this.read(at(this.plan.latency));
    const [l, r] = this.plan.hushed || this.own.mute ? [0, 0] : faderGains(this.own, this.law);
    this.node.gl.to(l, samples);
    this.node.gr.to(r, samples);
    let read = this.plan.latency;
    for (const o of this.out) {
      if (o.late !== read) {
        this.read(at(o.late));
        read = o.late;
      }
      const [a, b] = o.gains(this.own);
      o.run.gl.to(a, samples);
      o.run.gr.to(b, samples);
    }
  }

  private read(seconds: number): void {
    for (const { into, drive } of this.drives) into[drive.param] = valueOf(drive, seconds);
  }
}

function valueOf(d: Drive, seconds: number): number | boolean {
  const v = laneValue(d.spec, d.points, seconds);
  if (d.tie) {
    const value = tieValue(d.tie.spec, d.tie.tie, v);
    return d.tie.spec.kind === 'switch' ? value >= 0.5 : value;
  }
  if (d.spec.kind === 'switch') return v >= 0.5;
  return v;
}
