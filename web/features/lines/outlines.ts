import { shallowRef, type Ref } from 'vue';
import { jobs } from '../../audio/jobs.ts';
import { afterFirst } from '../../ui/first.ts';

const known = new Map<string, Ref<number[]>>();

/** Peaks along a whole sound, made once in the render worker; empty until they are there, or where it is gone. */
export function outlineOf(media: string, rate: number): Ref<number[]> {
  const key = `${media} ${rate}`;
  const found = known.get(key);
  if (found) return found;
  const made = shallowRef<number[]>([]);
  known.set(key, made);
  const read = async () => {
    await afterFirst();
    made.value = await jobs.outline(media, rate).done;
  };
  read().catch(() => known.delete(key));
  return made;
}
