/** What opening a document needs of the one that it is opened in. */
interface Places<Got> {
  /** which one is open; null when none is */
  opened(): string | null;
  read(id: string): Promise<Got>;
  /** lets go of what is open, when all of it is sent or kept */
  shut(): Promise<void>;
  begin(got: Got): void;
}

/**
 * Opens one document in the place of another. The one that was asked for last is open in the end, whichever answer comes
 * first; who asks for the one that is on its way waits for the same.
 */
export function makeOpening<Got>({ opened, read, shut, begin }: Places<Got>) {
  let opening: { id: string; done: Promise<void> } | null = null;
  let shutting: Promise<void> | null = null;

  function open(id: string): Promise<void> {
    if (opening?.id === id) return opening.done;
    if (!opening && opened() === id) return Promise.resolve();
    const mine = { id, done: Promise.resolve() };
    opening = mine;
    const isWanted = () => opening === mine;
    mine.done = load(id, isWanted).finally(() => {
      if (isWanted()) opening = null;
    });
    return mine.done;
  }

  async function load(id: string, isWanted: () => boolean): Promise<void> {
    // the first one is asked for before anything is drawn
    if (shutting || opened() !== null) {
      shutting ??= shut().finally(() => {
        shutting = null;
      });
      await shutting;
    }
    const got = await read(id);
    if (isWanted()) begin(got);
  }

  return { open };
}
