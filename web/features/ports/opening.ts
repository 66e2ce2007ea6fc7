import type { Connection, OpenInput, Plugged } from './connection.ts';

/** One input that is open. */
interface Source extends OpenInput {
  label: string;
  stream: MediaStream;
  /** Hz that it ran at when it was opened */
  rate: number | undefined;
  isLost: boolean;
}

/** What of an interface is open for the engine. */
export interface OpenPorts {
  connection: Connection;
  sources: Source[];
  /** in words: what could not be opened */
  troubles: string[];
  /** the browser gives no inputs to this page, and then names no outputs either */
  isDenied: boolean;
}

/** Why the browser gives no input, in words with the way out. */
export function reasonOf(e: unknown): string {
  const { name, message } = e as DOMException;
  const reasons: Record<string, string> = {
    NotAllowedError:
      'The browser may not use the inputs of this computer. Allow the microphone for this page in the browser’s site settings; until then loops play simulated or silent, as each one says.',
    NotFoundError: 'No input is plugged into this computer.',
    NotReadableError: 'The input is in use by another program, or the system refuses it.',
    OverconstrainedError: 'That input is not plugged in any more.',
  };
  return reasons[name] ?? `The input cannot be opened: ${message}`;
}

/** Whether this page may ask for inputs at all: browsers allow it on localhost and over https. */
export const canAsk = (): boolean => !!navigator.mediaDevices?.getUserMedia;

/** As it comes: nothing that is meant for speech is done to it. */
const asItComes = (deviceId?: string): MediaStreamConstraints => ({
  audio: {
    ...(deviceId ? { deviceId: { exact: deviceId } } : {}),
    echoCancellation: false,
    noiseSuppression: false,
    autoGainControl: false,
    channelCount: { ideal: 32 },
  },
});

/** Asks for the inputs; afterwards the browser names its devices. */
export async function askForInputs(): Promise<void> {
  const stream = await navigator.mediaDevices.getUserMedia(asItComes());
  stream.getTracks().forEach((track) => track.stop());
}

/** Devices by name; an entry that only repeats the default one is left out. */
export async function listDevices(): Promise<{ inputs: MediaDeviceInfo[]; outputs: MediaDeviceInfo[] }> {
  const all = (await navigator.mediaDevices?.enumerateDevices?.()) ?? [];
  const named = all.filter((d) => d.label && !['default', 'communications'].includes(d.deviceId));
  return {
    inputs: named.filter((d) => d.kind === 'audioinput'),
    outputs: named.filter((d) => d.kind === 'audiooutput'),
  };
}

/** The device that a connection means: the same one, or one of the same name after the browser forgot its ids. */
export const deviceOf = (wanted: Plugged, list: readonly MediaDeviceInfo[]): MediaDeviceInfo | undefined =>
  list.find((d) => d.deviceId === wanted.id) ?? list.find((d) => d.label === wanted.label);

/** Whether this page may use inputs: a browser that says no names no devices. */
async function isDenied(): Promise<boolean> {
  try {
    await askForInputs();
    return false;
  } catch (e) {
    return (e as DOMException).name === 'NotAllowedError';
  }
}

/** Opens the inputs of a connection; those that cannot be opened are told and left out. */
export async function openInputs(connection: Connection): Promise<OpenPorts> {
  const sources: Source[] = [];
  const troubles: string[] = [];
  const { inputs } = await listDevices();
  if (!inputs.length && (await isDenied())) {
    return { connection, sources, troubles: [reasonOf({ name: 'NotAllowedError' })], isDenied: true };
  }
  for (const wanted of connection.inputs) {
    const device = deviceOf(wanted, inputs);
    try {
      if (!device) throw new DOMException('', 'OverconstrainedError');
      const stream = await navigator.mediaDevices.getUserMedia(asItComes(device.deviceId));
      const { channelCount: channels = 1, sampleRate: rate } = stream.getAudioTracks()[0].getSettings();
      const offset = sources.reduce((sum, x) => sum + x.channels, 0);
      sources.push({
        first: wanted.first,
        channels,
        offset,
        label: wanted.label,
        stream,
        rate,
        isLost: false,
      });
    } catch (e) {
      troubles.push(`“${wanted.label}”: ${reasonOf(e)}`);
    }
  }
  return { connection, sources, troubles, isDenied: false };
}

/** Inputs that run at another rate than when they were opened, with that rate now known. */
export function rateChanges({ sources }: OpenPorts): { label: string; rate: number }[] {
  return sources.flatMap((source) => {
    const { sampleRate } = source.stream.getAudioTracks()[0].getSettings();
    if (source.isLost || !sampleRate || sampleRate === source.rate) return [];
    source.rate = sampleRate;
    return [{ label: source.label, rate: sampleRate }];
  });
}

/** All channels of the open inputs side by side, for the engine; null where there are none. */
export function joinInputs(context: AudioContext, { sources }: OpenPorts): AudioNode | null {
  const count = sources.reduce((sum, s) => sum + s.channels, 0);
  if (!count) return null;
  const joined = context.createChannelMerger(count);
  for (const source of sources) {
    const from = context.createMediaStreamSource(source.stream);
    const split = context.createChannelSplitter(source.channels);
    from.connect(split);
    for (let k = 0; k < source.channels; k++) split.connect(joined, k, source.offset + k);
  }
  return joined;
}

export const closeInputs = (open: OpenPorts | null): void =>
  open?.sources.forEach(({ stream }) => stream.getTracks().forEach((track) => track.stop()));
