import { shallowRef, type Ref } from 'vue';
import {
  NO_AUDITION,
  findSlot,
  type Audition,
  type Id,
  type Session,
  type Slot,
  type Track,
} from '../../../core/index.ts';
import { isCancelled, jobs, plain, type Running } from '../../audio/jobs.ts';
import type { Hearing, Match, ToEngine } from '../../audio/messages.ts';
import { useUi } from '../../ui/window.ts';

/** What is compared: several hearings of one line, the first being all as it is; `now` is heard. */
export interface Comparison {
  id: string;
  track: Id;
  slot: Id | null;
  label: string;
  hearings: Hearing[];
  now: number;
  last: number;
  match: Match | null;
  busy: number | null;
}
/** dB for what sounds at once while its loudness is still measured: it may be much louder than the line */
const CAREFUL = -12;

/** What comparing needs of the engine. */
interface Engine {
  post: (message: ToEngine) => void;
  /** brings sounds that chains play with, such as impulse responses */
  bring: (tracks: readonly Pick<Track, 'clips' | 'chain'>[]) => void;
  /** s: where the song is */
  now: () => number;
}
const AS_IS: Hearing = { id: 'as-is', label: 'As it is', at: 'line', audition: { bypass: [] } };

/** What is compared now, and which of it is heard. */
function makeHeard(source: Ref<Session | null>, { post, bring }: Engine) {
  const ui = useUi();
  const compare = shallowRef<Comparison | null>(null);
  let matching: Running<Match> | null = null;

  /** Whether what is compared is still there. */
  function holds(s: Session): boolean {
    const c = compare.value;
    const track = s.tracks.find((t) => t.id === c?.track);
    return !!c && !!track && (!c.slot || !!findSlot(track.chain, c.slot));
  }
  /**
   * Begins another comparison in the place of the one before.
   * @returns whether it is still what is compared
   */
  function begin(of: Omit<Comparison, 'hearings' | 'last' | 'match'>, others: Hearing[]): () => boolean {
    endCompare();
    const hearings = [AS_IS, ...others];
    compare.value = { ...of, hearings, last: 1, match: null };
    return () => compare.value?.hearings === hearings;
  }
  /** What could not be measured ends the comparison, unless another one has begun meanwhile. */
  function failed(e: unknown, isCurrent: boolean): void {
    if (!isCurrent || isCancelled(e)) return;
    endCompare();
    ui.fail(e);
  }
  /** Hears one of the hearings, by its number from 0. */
  function hear(n: number): void {
    const c = compare.value;
    if (!c?.hearings[n] || c.busy !== null) return;
    compare.value = { ...c, now: n, last: n === 0 ? c.last : n };
    postHearing();
  }
  /** What is heard now beside the session, as loud as the first hearing. */
  function auditionNow(): Audition {
    const c = compare.value;
    if (!c || c.now === 0 || c.busy !== null) return NO_AUDITION;
    const hearing = c.hearings[c.now];
    const master = source.value!.tracks.find((t) => t.role === 'master')!;
    const at = hearing.at === 'master' ? master.id : c.track;
    const gains = { [at]: c.match?.gains[c.now] ?? CAREFUL };
    // chains in it may be the stores' proxies, which cannot be posted
    return { ...plain(hearing.audition), gains };
  }
  /** Tells the engine what is heard now. */
  function postHearing(): void {
    const audition = auditionNow();
    bring(Object.values(audition.chains ?? {}).map((chain) => ({ clips: [], chain })));
    post({ type: 'audition', audition });
  }
  /** Measures in the place of what was measured before. */
  function measure(
    job: Parameters<typeof jobs.match>[0],
    progress?: (share: number) => void,
  ): Promise<Match> {
    matching = jobs.match(job, progress);
    return matching.done;
  }
  function endCompare(): void {
    matching?.cancel();
    matching = null;
    if (compare.value) post({ type: 'audition', audition: NO_AUDITION });
    compare.value = null;
  }
  return { compare, holds, begin, failed, hear, auditionNow, postHearing, measure, endCompare };
}
type Heard = ReturnType<typeof makeHeard>;

/** Comparisons at equal loudness: with and without, with another chain, with and without a key. */
export function makeComparing(source: Ref<Session | null>, engine: Engine) {
  const ui = useUi();
  const heard = makeHeard(source, engine);
  const { compare, begin, failed, hear, measure } = heard;

  /**
   * Begins a comparison: measures all hearings once, then switches to the second. Asked again with the same
   * ones, it switches between the first and the one heard last.
   */
  async function compareHearings(
    id: string,
    track: Track,
    slot: Id | null,
    label: string,
    others: Hearing[],
  ): Promise<void> {
    const session = source.value;
    if (!session) return;
    if (compare.value?.id === id && compare.value.match) {
      hear(compare.value.now === 0 ? compare.value.last : 0);
      return;
    }
    const isCurrent = begin({ id, track: track.id, slot, label, now: 0, busy: 0 }, others);
    const { hearings } = compare.value!;
    try {
      const match = await measure({ session, track: track.id, hearings }, (share) => {
        if (isCurrent() && compare.value!.busy !== null) compare.value = { ...compare.value!, busy: share };
      });
      if (!isCurrent()) return;
      compare.value = { ...compare.value!, match, busy: null };
      hear(1);
    } catch (e) {
      failed(e, isCurrent());
    }
  }

  /** With and without one device or rack, or a whole line. */
  async function toggleCompare(track: Track, slot: Id | null): Promise<void> {
    const bypass = slot ? [slot] : track.chain.map((d) => d.id);
    if (bypass.length === 0) {
      ui.say(`“${track.name}” has no devices to compare.`);
      return;
    }
    const name = (slot && findSlot(track.chain, slot)?.name) || track.name;
    const label = slot ? 'Without it' : 'Chain bypassed';
    await compareHearings(`bypass ${bypass.join()}`, track, slot, name, [
      { id: 'without', label, at: 'line', audition: { bypass } },
    ]);
  }

  const { holds, auditionNow, endCompare } = heard;
  const hearAtOnce = makeAtOnce(source, engine, heard);
  const ways = { compareHearings, hearAtOnce, toggleCompare, keyHearings };
  return { compare, holds, auditionNow, hear, endCompare, ...ways };
}

/** Comparisons whose second hearing sounds before anything is measured. */
function makeAtOnce(
  source: Ref<Session | null>,
  { now }: Engine,
  { compare, begin, failed, postHearing, measure }: Heard,
) {
  /**
   * It sounds softly as long as it is not known how loud it is, is matched by the seconds around the song's place, and
   * then by more of it.
   */
  return async function hearAtOnce(
    id: string,
    track: Track,
    slot: Id | null,
    label: string,
    others: Hearing[],
  ): Promise<void> {
    const session = source.value;
    if (!session) return;
    const isCurrent = begin({ id, track: track.id, slot, label, now: 1, busy: null }, others);
    postHearing();
    const asked = { session, track: track.id, hearings: plain(compare.value!.hearings) };
    try {
      for (const near of [{ near: now() }, {}]) {
        const match = await measure({ ...asked, ...near });
        if (!isCurrent()) return;
        // what is silent around here may sound elsewhere
        if (match.lufs.some((lufs) => !Number.isFinite(lufs)) && 'near' in near) continue;
        compare.value = { ...compare.value!, match };
        postHearing();
      }
    } catch (e) {
      failed(e, isCurrent());
    }
  };
}

/**
 * The comparisons of a device that takes its key from a track. All are matched at the master, so that the
 * line stands in the mix as each of them makes it stand.
 */
function keyHearings(track: Track, device: Slot): Hearing[] {
  const key = device.kind === 'device' && device.key.kind === 'track' ? device.key.track : null;
  if (!key) return [];
  const chain = track.chain.map((slot) => slot.id);
  const hearing = (id: string, label: string, audition: Partial<Hearing['audition']>): Hearing => ({
    id,
    label,
    at: 'master',
    audition: { bypass: [], ...audition },
  });
  return [
    hearing('key-off', 'Key off', { keyOff: [device.id] }),
    hearing('trigger-muted', 'Trigger muted', { mute: [key] }),
    hearing('trigger-alone', 'Trigger alone', { solo: [key] }),
    hearing('bypassed', 'Chain bypassed', { bypass: chain }),
  ];
}
