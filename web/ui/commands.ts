/** One thing that can be done now, for the palette and the keyboard. */
export interface Command {
  group: string;
  label: string;
  /** the key that it comes with: "Ctrl Z"; the keyboard listens to it, or to what it is changed to */
  keys?: string;
  run: () => void;
}

/** Keys of the whole window, as the keyboard sheet lists them. */
export type Shortcut = [keys: string, what: string];

/**
 * What a feature lends to the shell. `commands` are asked for anew whenever the palette is looked at; `key`
 * hears a key before the commands do, and says whether it took it.
 */
export interface FeatureCommands {
  /** `place`: the screen that is seen, by the name of its route */
  commands?: (place: Place) => Command[];
  /** asked when the palette opens (with no text) and while something is typed there: to fetch what may be meant */
  prepare?: (text: string) => Promise<void>;
  key?: (e: KeyboardEvent, place: Place) => boolean;
  shortcuts?: Shortcut[];
}

/** Names of the routes: what is seen now. */
export type Place =
  | 'welcome'
  | 'sessions'
  | 'session'
  | 'map'
  | 'check'
  | 'shelf'
  | 'hardware'
  | 'patch'
  | 'print'
  | 'prints'
  | 'settings'
  | 'trash';
/** Screens that show the open session. */
export const ofSession = (place: Place): boolean =>
  place === 'session' || place === 'map' || place === 'check' || place === 'patch' || place === 'print';

/** Whether a key was pressed in something that has its own use for it: a button, a value, a radio. */
export const onControl = (e: KeyboardEvent): boolean => {
  const el = e.target as HTMLElement;
  return (
    el instanceof HTMLButtonElement || el instanceof HTMLInputElement || el.getAttribute('role') === 'radio'
  );
};
