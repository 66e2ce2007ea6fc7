// A sound card whose outputs are plugged into its inputs: PulseAudio from Debian on a socket of its own.
import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const CHANNELS = 'rate=48000 format=float32le channels=2';

/**
 * Starts a sound card with two outputs, “Deck out”, that come back at two inputs, “Deck in”.
 * @returns `env` for a browser that shall see it; `unplug` and `plug`; `freeze`; `end`
 */
export async function startSoundCard() {
  const folder = mkdtempSync(join(tmpdir(), 'rope-shelf-pulse-'));
  const socket = join(folder, 'socket');
  const env = { PULSE_SERVER: `unix:${socket}`, PULSE_RUNTIME_PATH: folder, PULSE_STATE_PATH: folder };
  const child = spawn(
    'pulseaudio',
    [
      '-n',
      '--daemonize=no',
      '--exit-idle-time=-1',
      '--use-pid-file=no',
      '-L',
      `module-native-protocol-unix socket=${socket} auth-anonymous=1`,
    ],
    { stdio: 'ignore', env: { ...process.env, ...env } },
  );
  const pactl = (...args) =>
    execFileSync('pactl', args, {
      env: { ...process.env, ...env },
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    }).trim();
  for (let n = 0; ; n++) {
    try {
      pactl('info');
      break;
    } catch (e) {
      if (n > 100) throw e;
      await new Promise((r) => setTimeout(r, 100));
    }
  }
  let output = '';
  const plug = () => {
    output = pactl(
      'load-module',
      'module-null-sink',
      'sink_name=deck',
      ...CHANNELS.split(' '),
      'sink_properties=device.description="Deck\\ out"',
    );
    pactl(
      'load-module',
      'module-remap-source',
      'source_name=back',
      'master=deck.monitor',
      'channels=2',
      'remix=no',
      'source_properties=device.description="Deck\\ in"',
    );
  };
  plug();
  return {
    env,
    plug,
    /** the input hangs on the output: both go */
    unplug: () => pactl('unload-module', output),
    /** it asks for nothing and gives nothing any more, and yet is there */
    freeze: (isStill) => pactl('suspend-sink', 'deck', isStill ? '1' : '0'),
    end: async () => {
      const gone = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      await gone;
      rmSync(folder, { recursive: true, force: true, maxRetries: 3 });
    },
  };
}
