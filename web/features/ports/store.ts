import { defineStore } from '../../ui/store.ts';
import { computed, ref, shallowRef } from 'vue';
import {
  NO_PORTS,
  loopsOfSession,
  type Device,
  type PortMap,
  type Session,
  type Studio,
} from '../../../core/index.ts';
import { useUi } from '../../ui/window.ts';
import { keepConnections, portMap, readConnections, type Connection } from './connection.ts';
import {
  askForInputs,
  canAsk,
  closeInputs,
  deviceOf,
  joinInputs,
  listDevices,
  openInputs,
  rateChanges,
  reasonOf,
  type OpenPorts,
} from './opening.ts';
import { makeSilenceWatch } from './silence.ts';

/** reports of the engine, about 30 a second, from one look at the rates to the next */
const REPORTS = 60;

/** The sink of a context that plays nowhere, so that the clock goes on without an output (Web Audio API). */
const NOWHERE = { type: 'none' } as const;
export type Sink = string | typeof NOWHERE;

/** The devices of this computer as the browser names them. */
function makeDevices() {
  const inputs = shallowRef<MediaDeviceInfo[]>([]);
  const outputs = shallowRef<MediaDeviceInfo[]>([]);
  /** why there are none, in words */
  const refused = ref('');

  async function look(): Promise<void> {
    const found = await listDevices();
    inputs.value = found.inputs;
    outputs.value = found.outputs;
  }
  async function ask(): Promise<void> {
    refused.value = '';
    try {
      await askForInputs();
    } catch (e) {
      refused.value = reasonOf(e);
    }
    await look();
  }
  return { inputs, outputs, refused, look, ask };
}

const studioOf = (s: Session): Studio | null => s.setup?.studio ?? null;

/** What is connected, kept in this browser, since another computer has other devices. */
function makeConnections() {
  const connections = shallowRef(readConnections());
  /** counts up when the engine has to be made anew */
  const version = ref(0);
  /** the page asks the engine to start again with what is connected now */
  let again: (() => void) | null = null;

  const connectionOf = (studio: Studio | null | undefined): Connection | null =>
    (studio && connections.value[studio.id]) || null;
  function put(studio: Studio, connection: Connection | null): void {
    const { [studio.id]: _was, ...rest } = connections.value;
    connections.value = connection ? { ...rest, [studio.id]: connection } : rest;
    keepConnections(connections.value);
  }
  function renew(): void {
    version.value++;
    again?.();
  }
  /** Tells the engine one state from another; '' where nothing is connected. */
  const keyOf = (s: Session): string => {
    const connection = connectionOf(studioOf(s));
    return connection ? `${version.value} ${JSON.stringify(connection)}` : '';
  };
  const onChange = (task: () => void) => {
    again = task;
  };
  return { connectionOf, put, renew, keyOf, onChange };
}

/** What of a connected interface is not there, in words; '' where nothing is missing. */
function missingOf(open: OpenPorts | null, isOutputLost: boolean): string {
  if (!open) return 'The interface is not open.';
  if (isOutputLost) return `The output “${open.connection.output.label}” is gone.`;
  const gone = open.sources.find((x) => x.isLost);
  return gone ? `The input “${gone.label}” is gone.` : (open.troubles[0] ?? '');
}

/** Tells rates that changed while all plays on: what was measured before says nothing any more. @returns whether any did */
function tellRates(open: OpenPorts): boolean {
  const changed = rateChanges(open);
  for (const { label, rate } of changed) {
    useUi().say(
      `“${label}” runs at ${rate / 1000} kHz now. All plays on; measure its loops again.`,
      'info',
      [],
      12000,
    );
  }
  return changed.length > 0;
}

/** What of an interface is open for the engine, and what of it went. */
function makeOpening(connectionOf: (studio: Studio | null) => Connection | null, reconnect: () => void) {
  const ui = useUi();
  const open = shallowRef<OpenPorts | null>(null);
  /** frames of the buffer that the interface runs at; null while nothing is open */
  const buffer = ref<number | null>(null);
  /** when it was opened, ISO 8601: browsers take another time there and back after each opening */
  const openedAt = ref('');
  const outs = ref(2);
  /** set while the output is gone: what plays goes elsewhere */
  const isOutputLost = ref(false);
  /** set when no output is left at all: the clock goes on, and nothing is heard */
  let isNowhere = false;

  const tellLoss = (what: string) =>
    ui.say(what, 'error', [{ label: 'Connect it again', run: reconnect }], 20000, 'ports');
  function loseInput(label: string): void {
    const opened = open.value!;
    const sources = opened.sources.map((x) => (x.label === label ? { ...x, isLost: true } : x));
    open.value = { ...opened, sources };
    tellLoss(
      `The input “${label}” is gone. What came from it plays simulated or silent, as each loop says; nothing stops.`,
    );
  }
  /** @returns whether something else can be tried */
  function loseOutput(): boolean {
    if (!open.value || isNowhere) return false;
    isNowhere = isOutputLost.value;
    if (isOutputLost.value) return true;
    isOutputLost.value = true;
    tellLoss(
      `The output “${open.value.connection.output.label}” is gone. The mix plays on this computer’s own output, loops play simulated or silent; nothing stops.`,
    );
    return true;
  }
  /** Forgets that the output was gone: it is looked for the next time. */
  function findAgain(): void {
    isOutputLost.value = isNowhere = false;
  }
  function close(): void {
    closeInputs(open.value);
    open.value = buffer.value = null;
  }
  /** Opens what a session's studio is connected to; null where it is to nothing. */
  async function openFor(s: Session): Promise<{ sink: Sink } | null> {
    close();
    const connection = connectionOf(studioOf(s));
    if (!connection || !canAsk()) return null;
    const opened = await openInputs(connection);
    // what went with the output was told with it
    if (!isOutputLost.value) opened.troubles.forEach((trouble) => ui.say(trouble, 'error'));
    for (const source of opened.sources) {
      source.stream.getAudioTracks()[0].addEventListener('ended', () => {
        if (open.value?.connection === connection) loseInput(source.label);
      });
    }
    open.value = opened;
    const { outputs } = await listDevices();
    const output = isOutputLost.value ? undefined : deviceOf(connection.output, outputs);
    // why the browser names no outputs was told already
    if (!output && opened.isDenied) isOutputLost.value = true;
    else if (!output && !isOutputLost.value) loseOutput();
    return { sink: output?.deviceId ?? (isNowhere ? NOWHERE : '') };
  }
  /** Joins what is open to a context that has just been made. @returns channels out, and what comes in */
  function attach(context: AudioContext): { outs: number; input: AudioNode | null } {
    const { destination } = context;
    outs.value = Math.max(2, destination.maxChannelCount);
    if (destination.maxChannelCount >= 2) destination.channelCount = destination.maxChannelCount;
    destination.channelInterpretation = 'discrete';
    buffer.value = Math.round(context.baseLatency * context.sampleRate);
    openedAt.value = new Date().toISOString();
    return { outs: outs.value, input: joinInputs(context, open.value!) };
  }
  /** What carries what at this moment. */
  function mapFor(s: Session): PortMap {
    const [studio, opened] = [studioOf(s), open.value];
    if (!studio || !opened || isOutputLost.value) return NO_PORTS;
    const sends = loopsOfSession(s).map((l) => l.send);
    const live = opened.sources.filter((x) => !x.isLost);
    return portMap(studio, opened.connection, outs.value, live, sends);
  }
  function watchRates(): void {
    if (open.value && tellRates(open.value)) openedAt.value = new Date().toISOString();
  }
  const acts = { loseOutput, findAgain, close, openFor, attach, mapFor, watchRates };
  return { open, buffer, openedAt, isOutputLost, ...acts };
}

/**
 * Real ports: which devices of this computer the ports of a studio are, what of them is open for the engine, and what
 * became of it.
 */
export const usePorts = defineStore('ports', () => {
  const ui = useUi();
  const devices = makeDevices();
  const connections = makeConnections();
  const opening = makeOpening(connections.connectionOf, () => void reconnect());
  const { open, isOutputLost, mapFor } = opening;
  const isOpen = computed(() => open.value !== null);
  const peaks = shallowRef<{ ins: number[]; outs: number[] } | null>(null);
  const silence = makeSilenceWatch((name) => {
    const way = 'look at its cables, its unit and the level of the input';
    ui.say(`Nothing comes back from “${name}”: ${way}.`, 'info', [], 9000);
  });

  /** Connects a studio's ports, or nothing of it any more. */
  function put(studio: Studio, connection: Connection | null): void {
    connections.put(studio, connection);
    opening.findAgain();
    connections.renew();
  }
  async function reconnect(): Promise<void> {
    await devices.look();
    opening.findAgain();
    // where nothing plays it is opened by whatever needs it next
    opening.close();
    connections.renew();
  }
  async function openFor(s: Session) {
    const at = await opening.openFor(s);
    // the output is there again
    if (at && at.sink !== NOWHERE && at.sink !== '') ui.settle('ports');
    return at;
  }
  const isConnected = (s: Session): boolean => connections.connectionOf(studioOf(s)) !== null;
  /** Whether a loop is led over real ports now. */
  function isLive(s: Session, d: Device): boolean {
    const { sendPort, returnPort, through } = d.params;
    const map = mapFor(s);
    return through !== 'simulated' && String(sendPort) in map.outs && String(returnPort) in map.ins;
  }
  let reports = 0;
  function take(s: Session, found: { ins: number[]; outs: number[] } | null): void {
    peaks.value = found;
    if (!found) return;
    silence.take(s, mapFor(s), found);
    if (++reports % REPORTS === 0) opening.watchRates();
  }
  navigator.mediaDevices?.addEventListener?.('devicechange', () => {
    void devices.look();
    if (open.value && missingOf(open.value, isOutputLost.value)) void reconnect();
  });
  return {
    ...devices,
    ...connections,
    ...opening,
    openFor,
    put,
    isOpen,
    peaks,
    isConnected,
    missing: () => missingOf(open.value, isOutputLost.value),
    isLive,
    /** the context ended: its output was unplugged, or the system took it away */
    contextFailed: opening.loseOutput,
    reconnect,
    take,
  };
});
