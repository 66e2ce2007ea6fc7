import type { Ref } from 'vue';
import type { Here, JobNews, SessionChange } from '../../contract/index.ts';
import { CLIENT } from '../api/index.ts';

/**
 * Hears of changes to the open session while the window is seen. A browser allows few open connections, so a
 * hidden or left page lets go of its own; coming back, the first message says whether anything changed.
 * @param id the open session
 * @param heard is told of every change that another window made
 * @param printed is told of every print that moves on
 * @param here is told of other windows that have the session open
 */
export function makeListener(
  id: Ref<string | null>,
  heard: (session: string, revision: number) => void,
  printed: (entry: JobNews) => void,
  here: { begin(): void; heard(here: Here): void; end(): void },
) {
  let stream: EventSource | null = null;

  function stop(): void {
    stream?.close();
    stream = null;
    here.end();
  }
  function listen(): void {
    stop();
    const session = id.value;
    if (!session || document.visibilityState === 'hidden') return;
    stream = new EventSource(`/api/sessions/${session}/events?client=${CLIENT}`);
    stream.onopen = () => here.begin();
    stream.onmessage = (message: MessageEvent<string>) => {
      const change = JSON.parse(message.data) as SessionChange;
      if (change.client !== CLIENT) heard(session, change.revision);
    };
    stream.addEventListener('print', (message: MessageEvent<string>) => {
      printed(JSON.parse(message.data) as JobNews);
    });
    stream.addEventListener('here', (message: MessageEvent<string>) => {
      here.heard(JSON.parse(message.data) as Here);
    });
  }

  document.addEventListener('visibilitychange', listen);
  window.addEventListener('pageshow', (e) => {
    if (e.persisted) listen();
  });
  window.addEventListener('pagehide', stop);
  return { listen, stop };
}
