/** ms after which the browser has surely begun to read what it saves */
const BEGUN = 10000;

/** Lets the browser fetch something of the server and save it; its name comes with it. */
export function saveFrom(url: string): void {
  const a = document.createElement('a');
  a.href = url;
  a.download = '';
  a.click();
}

/** Lets the browser save a file under a name. */
export function save(blob: Blob, name: string): void {
  const a = document.createElement('a');
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), BEGUN);
}

/** Asks for a file of some kinds. */
export function askForFile(accept: string, take: (f: File) => Promise<unknown>): void {
  const input = document.createElement('input');
  input.type = 'file';
  input.accept = accept;
  input.onchange = () => {
    const f = input.files?.[0];
    if (f) void take(f);
  };
  input.click();
}
