/** ms after which what waits for the first screen begins anyway: what the screen shows may be long in coming */
const LONGEST = 3000;
/** ms that the browser may be busy with the screen meanwhile */
const BUSY = 500;
/** ms in place of that in a browser that does not say when it has nothing to do */
const SOON = 50;

/** When the browser has nothing else to do. */
function rest(): Promise<void> {
  return new Promise((done) => {
    if ('requestIdleCallback' in window) requestIdleCallback(() => done(), { timeout: BUSY });
    else setTimeout(done, SOON);
  });
}

let isShown = false;
let tell = (): void => undefined;
const shown = new Promise<void>((done) => {
  tell = done;
});

/** The first screen has what it is for, and is drawn next. */
export function firstShown(): void {
  void rest().then(() => {
    isShown = true;
    tell();
  });
}

/**
 * After the first screen is drawn, each in its turn: for what nobody sees yet, and for what only adds to what is seen.
 * Later on it is at once.
 */
export async function afterFirst(): Promise<void> {
  if (isShown) return;
  const late = setTimeout(tell, LONGEST);
  await shown;
  clearTimeout(late);
  await rest();
}

/** The same question, asked after the first screen is drawn. */
export function asksLate<Args extends unknown[], Answer>(ask: (...args: Args) => Promise<Answer>) {
  return async (...args: Args): Promise<Answer> => {
    await afterFirst();
    return ask(...args);
  };
}
