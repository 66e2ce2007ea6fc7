import { defineStore } from '../../ui/store.ts';
import { computed, shallowRef, watch } from 'vue';
import type { JobEntry, JobNews, NewJob } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { useSession } from '../../document/doc.ts';

/** Where the files of a print are fetched. */
export const fileUrl = (job: string, song: number, file: number): string =>
  `/api/jobs/${job}/files/${song}/${file}`;
export const zipUrl = (job: string): string => `/api/jobs/${job}/zip`;

export const isUnderWay = ({ state }: JobEntry): boolean => state === 'queued' || state === 'running';

/** The prints on the server, newest first, as they are now. */
export const usePrintJobs = defineStore('print-jobs', () => {
  const session = useSession();
  const entries = shallowRef<ReadonlyMap<string, JobEntry>>(new Map());
  const list = computed(() =>
    [...entries.value.values()].sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1)),
  );
  /** the newest print of the open session; null where there is none */
  const ofSession = computed(
    () => list.value.find((job) => job.songs.some((song) => song.session === session.id)) ?? null,
  );
  /** prints that come before one */
  const before = (job: JobEntry): number =>
    list.value.filter((x) => isUnderWay(x) && x.createdAt < job.createdAt).length;

  function take(news: JobNews): void {
    const now = new Map(entries.value);
    if ('gone' in news) now.delete(news.id);
    else now.set(news.id, news);
    entries.value = now;
  }
  async function load(): Promise<void> {
    entries.value = new Map((await api.jobs()).map((job) => [job.id, job]));
  }
  async function queue(asked: NewJob): Promise<JobEntry> {
    const entry = await api.createJob(asked);
    take(entry);
    return entry;
  }
  const cancel = async (id: string) => take(await api.cancelJob(id));
  const again = async (id: string) => take(await api.repeatJob(id));
  async function remove(id: string): Promise<void> {
    await api.deleteJob(id);
    take({ id, gone: true });
  }
  /** Hears of all prints as long as it is wanted, where no open session does. @returns ends it */
  function listen(): () => void {
    const stream = new EventSource('/api/jobs/events');
    stream.onmessage = (m: MessageEvent<string>) => take(JSON.parse(m.data) as JobNews);
    // what moved on while nobody listened
    stream.onopen = () => void load().catch(() => undefined);
    return () => stream.close();
  }
  watch(
    () => session.printed,
    (entry) => entry && take(entry),
  );
  return { list, ofSession, before, load, queue, cancel, again, remove, listen };
});
