import { shallowRef, type Ref } from 'vue';
import { NO_AUDITION, findSlot, type Id, type Session, type Slot, type Track } from '../../../core/index.ts';
import { jobs, type Running } from '../../audio/jobs.ts';
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
const AS_IS: Hearing = { id: 'as-is', label: 'As it is', at: 'line', audition: { bypass: [] } };

/** Comparisons at equal loudness: with and without, with another chain, with and without a key. */
export function makeComparing(source: Ref<Session | null>, post: (message: ToEngine) => void) {
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
    endCompare();
    const hearings = [AS_IS, ...others];
    const begun = { id, track: track.id, slot, label, hearings, now: 0, last: 1, match: null };
    compare.value = { ...begun, busy: 0 };
    const isCurrent = () => compare.value?.hearings === hearings;
    matching = jobs.match({ session, track: track.id, hearings }, (share) => {
      if (isCurrent() && compare.value!.busy !== null) compare.value = { ...compare.value!, busy: share };
    });
    try {
      const match = await matching.done;
      if (!isCurrent()) return;
      compare.value = { ...begun, match, busy: null };
      hear(1);
    } catch (e) {
      if (!isCurrent()) return;
      endCompare();
      ui.fail(e);
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

  /** Hears one of the hearings, by its number from 0. */
  function hear(n: number): void {
    const c = compare.value;
    const hearing = c?.hearings[n];
    if (!c?.match || !hearing) return;
    compare.value = { ...c, now: n, last: n === 0 ? c.last : n };
    const master = source.value!.tracks.find((t) => t.role === 'master')!;
    const at = hearing.at === 'master' ? master.id : c.track;
    const gains = { [at]: c.match.gains[n] };
    // chains in it may be the stores' proxies, which cannot be posted
    const plain = JSON.parse(JSON.stringify({ ...hearing.audition, gains })) as typeof NO_AUDITION;
    post({ type: 'audition', audition: n === 0 ? NO_AUDITION : plain });
  }

  function endCompare(): void {
    matching?.cancel();
    matching = null;
    if (compare.value) post({ type: 'audition', audition: NO_AUDITION });
    compare.value = null;
  }
  return { compare, holds, compareHearings, toggleCompare, keyHearings, hear, endCompare };
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
