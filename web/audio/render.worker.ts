import { integratedLoudness } from '../../core/measure/loudness.ts';
import { lineCheck } from '../../core/check/index.ts';
import { measureLevels } from '../../core/measure/levels.ts';
import { resample } from '../../core/measure/resample.ts';
import { measureSound } from '../../core/measure/sound.ts';
import { nullTest } from '../../core/drop/nulltest.ts';
import { render } from '../../core/engine/render.ts';
import { sessionLength } from '../../core/engine/offline.ts';
import { auditioned } from '../../core/engine/audition.ts';
import { devicesIn, mapSlots } from '../../core/session/slots.ts';
import { printInstrument } from '../../core/kit/print.ts';
import { tapTest } from '../../core/kit/tap.ts';
import { RECALLED, compareRecall, suspectControl } from '../../core/hardware/recall.ts';
import { measureSimulated } from '../../core/hardware/simulated.ts';
import { readWav } from '../../core/formats/wav.ts';
import type { Sound } from '../../core/engine/sound.ts';
import type { DropPlan } from '../../core/drop/types.ts';
import type { Id, Preset, Session } from '../../core/model/types.ts';
import { renderOverTwo, serveHelp, shareable, type ToHelper } from './shared.ts';
import type { Hearing, Job, LoopNow, Match } from './messages.ts';

/** Renders, measures and decodes beside the page, so that neither the interface nor the sound waits. */
const sounds = new Map<string, Promise<Sound>>();
const cancelled = new Set<number>();
/** seconds of a line that are measured at most */
const MEASURED = 120;

const load = (media: string, rate: number): Promise<Sound> => {
  const key = `${media}@${rate}`;
  const known = sounds.get(key);
  if (known) return known;
  const p = (async () => {
    const r = await fetch(`/api/media/${media}`);
    if (!r.ok) {
      throw new Error(
        r.status === 404
          ? 'A sound of this session is not in the database any more.'
          : 'A sound could not be loaded: the server does not answer.',
      );
    }
    const wav = readWav(new Uint8Array(await r.arrayBuffer()));
    const [l, r2] = [wav.channels[0], wav.channels[1] ?? wav.channels[0]].map((c, i, all) =>
      i === 1 && all[0] === c ? null : shareable(resample(c, wav.sampleRate, rate)),
    );
    return { l: l!, r: r2 ?? l! };
  })();
  sounds.set(key, p);
  p.catch(() => sounds.delete(key));
  return p;
};

/** Every sound that a session plays. */
async function soundsOf(s: Session): Promise<Map<string, Sound>> {
  const out = new Map<string, Sound>();
  for (const media of new Set(s.tracks.flatMap((t) => t.clips.map((c) => c.media)))) {
    out.set(media, await load(media, s.sampleRate));
  }
  return out;
}

/** The tracks that feed one track, with the track itself and the master: what a measurement of it needs. */
function upstream(s: Session, track: Id): Session {
  const keep = new Set([track]);
  for (let grew = true; grew;) {
    grew = false;
    for (const t of s.tracks) {
      if (keep.has(t.id)) continue;
      const feeds =
        s.tracks.some(
          (k) => keep.has(k.id) && k.input.kind !== 'none' && 'track' in k.input && k.input.track === t.id,
        ) ||
        t.role === 'midi' ||
        (t.output.kind === 'track' && keep.has(t.output.track)) ||
        t.sends.some((x) => keep.has(x.to)) ||
        s.tracks.some(
          (k) =>
            keep.has(k.id) && devicesIn(k.chain).some((d) => d.key.kind === 'track' && d.key.track === t.id),
        );
      if (feeds) {
        keep.add(t.id);
        grew = true;
      }
    }
  }
  return {
    ...s,
    tracks: s.tracks
      .filter((t) => keep.has(t.id) || t.role === 'master')
      .map((t) => ({ ...t, solo: false, mute: t.id === track ? false : t.mute })),
  };
}

/** A simulated loop as it is now, and what may be off when it was measured before. */
function loopNow({ device, sampleRate, then }: Extract<Job, { op: 'loop' }>): LoopNow {
  const now = measureSimulated(device, sampleRate, new Date().toISOString());
  const recalled = then && compareRecall(then, now);
  const isOff = recalled !== null && recalled.within > RECALLED;
  return { now, recalled, suspect: isOff ? suspectControl(device, now) : null };
}

/**
 * Loudness of everything to be heard in a comparison, each where it is measured, and the gains that make all
 * as loud as the first.
 */
async function match(
  s: Session,
  track: Id,
  hearings: Hearing[],
  signal: { aborted: boolean },
  onProgress: (p: number) => void,
): Promise<Match> {
  const onMaster = hearings.some((h) => h.at === 'master');
  const part = onMaster ? s : upstream(s, track);
  const loaded = await soundsOf(part);
  const to = Math.min(onMaster ? 8 : 15, sessionLength(part) || 5);
  const tapOf = (h: Hearing) => (h.at === 'master' ? 'master' : `${track}:pre`);
  const out: Match = { lufs: [], gains: [], first: [] };
  // the first one is measured wherever any of them is: all are matched to it at their own place
  const base: Record<string, number> = {};
  for (const [i, h] of hearings.entries()) {
    const heard = auditioned(part, { ...h.audition, gains: {} });
    const x: Session = {
      ...heard,
      tracks: heard.tracks.map((t) => ({
        ...t,
        chain: mapSlots(t.chain, (d) =>
          h.audition.bypass.includes(d.id) ? { ...d, state: 'bypassed' as const } : d,
        ),
      })),
    };
    const taps = i === 0 ? [...new Set(hearings.map(tapOf))] : [tapOf(h)];
    const rendered = await renderOverTwo(
      x,
      {
        sounds: loaded,
        to,
        taps,
        signal: signal as AbortSignal,
        onProgress: (p) => onProgress((i + p) / hearings.length),
      },
      () => new Worker(new URL('./render.worker.ts', import.meta.url), { type: 'module' }),
    );
    const measured = Object.fromEntries(taps.map((t) => [t, integratedLoudness(rendered[t], s.sampleRate)]));
    if (i === 0) Object.assign(base, measured);
    const [lufs, first] = [measured[tapOf(h)], base[tapOf(h)]];
    out.lufs.push(lufs);
    out.first.push(first);
    out.gains.push(
      Number.isFinite(lufs) && Number.isFinite(first) ? Math.max(-24, Math.min(24, first - lufs)) : 0,
    );
  }
  return out;
}

self.onmessage = async (m: MessageEvent<{ id: number; job: Job } | { cancel: number } | ToHelper>) => {
  if ('help' in m.data) {
    serveHelp(m.data);
    return;
  }
  if ('cancel' in m.data) {
    cancelled.add(m.data.cancel);
    return;
  }
  const { id, job } = m.data;
  const signal = {
    get aborted() {
      return cancelled.has(id);
    },
  };
  const onProgress = (share: number) => self.postMessage({ id, progress: share });
  try {
    if (job.op === 'sound') {
      const s = await load(job.media, job.rate);
      const l = s.l.slice();
      const r = s.r === s.l ? l : s.r.slice();
      self.postMessage(
        { id, result: { l, r } },
        { transfer: [...new Set([l.buffer, r.buffer])] as Transferable[] },
      );
    } else if (job.op === 'match') {
      self.postMessage({ id, result: await match(job.session, job.track, job.hearings, signal, onProgress) });
    } else if (job.op === 'check') self.postMessage({ id, result: lineCheck(job.session, job.levels) });
    else if (job.op === 'loop') self.postMessage({ id, result: loopNow(job) });
    else if (job.op === 'tap') {
      self.postMessage({
        id,
        result: await tapTest(job.session, job.slot, { signal: signal as AbortSignal, onProgress }),
      });
    } else if (job.op === 'print') {
      const lines = await printInstrument(job.session, job.slot, {
        sounds: await soundsOf(job.session),
        signal: signal as AbortSignal,
        onProgress,
      });
      self.postMessage(
        { id, result: lines },
        { transfer: lines.flatMap((x) => [x.l.buffer, x.r.buffer]) as Transferable[] },
      );
    } else if (job.op === 'figures') {
      // the line as it plays, after its chain and before its fader
      const part = upstream(job.session, job.track);
      const taps = [`${job.track}:pre`];
      const [l, r] = (
        await render(part, {
          sounds: await soundsOf(part),
          taps,
          to: Math.min(MEASURED, sessionLength(part)),
          signal: signal as AbortSignal,
          onProgress,
        })
      )[taps[0]];
      self.postMessage({ id, result: measureSound(l, r, part.sampleRate) });
    } else if (job.op === 'levels') {
      const loaded = await soundsOf(job.session);
      self.postMessage({
        id,
        result: await measureLevels(job.session, loaded, { signal: signal as AbortSignal, onProgress }),
      });
    } else {
      self.postMessage({
        id,
        result: await nullTest(job.session, job.preset as Preset, job.plan as DropPlan, {
          signal: signal as AbortSignal,
          onProgress,
        }),
      });
    }
  } catch (e) {
    const { message, code } = e as Error & { code?: string };
    self.postMessage({ id, error: { message, code } });
  }
};
