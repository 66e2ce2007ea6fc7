const KEY = 'rope-shelf-begun';

/** Whether a session was opened in this browser before: whoever has begun wants the list of sessions first. */
export const hasBegun = (): boolean => localStorage.getItem(KEY) !== null;

/** A session is open. */
export const hasWorked = (): void => localStorage.setItem(KEY, 'yes');
