import { useSession } from '../../document/doc.ts';
import { onControl, ofSession, type Command, type FeatureCommands, type Place } from '../../ui/commands.ts';
import { useAudio } from './store.ts';

function playing(place: Place): Command[] {
  const audio = useAudio();
  if (!ofSession(place) || !useSession().doc) return [];
  return [
    { group: 'Transport', label: audio.playing ? 'Stop' : 'Play', keys: 'Space', run: () => audio.toggle() },
    { group: 'Transport', label: 'Back to the start', keys: 'Home', run: () => audio.seek(0) },
  ];
}

function hearing(): Command[] {
  const audio = useAudio();
  const session = useSession();
  const out: Command[] = [
    {
      group: 'View',
      label: audio.mono ? 'Hear both sides again' : 'Mono check',
      keys: 'O',
      run: () => {
        audio.mono = !audio.mono;
      },
    },
  ];
  const t = session.track;
  if (!t) return out;
  const group = `On ${t.name}`;
  out.push({
    group,
    label: 'With / without at equal loudness',
    keys: 'W',
    run: () => void audio.toggleCompare(t, session.selectedDevice),
  });
  const x = session.slot;
  const keyed = x ? audio.keyHearings(t, x) : [];
  if (x && keyed.length) {
    out.push({
      group,
      label: `Compare the key of ${x.name}`,
      keys: 'Shift W',
      run: () => void audio.compareHearings(`key ${x.id}`, t, x.id, x.name, keyed),
    });
  }
  return out;
}

/** While something is compared, its number is heard. */
function key(e: KeyboardEvent, place: Place): boolean {
  const audio = useAudio();
  if (place !== 'session' || !/^[1-9]$/.test(e.key) || !audio.compare?.match || onControl(e)) return false;
  audio.hear(Number(e.key) - 1);
  return true;
}

export const transportCommands: FeatureCommands = {
  commands: (place) => [...playing(place), ...(place === 'session' ? hearing() : [])],
  key,
  shortcuts: [
    ['Space', 'Play or stop'],
    ['Home', 'Back to the start'],
    ['W', 'With or without, at equal loudness'],
    ['Shift W', 'Compare a key: off, trigger muted, trigger alone, bypassed'],
    ['O', 'Mono check'],
    ['1 … 9', 'While comparing: hear that one'],
  ],
};
