// npm run bench -- grow: what files and work on a whole session cost a line (a point, a note) as there are four times
// as many: 1 is in proportion. Wanted: at most 1.5.
import { join } from 'node:path';

const SIZES = [200, 800];
const ROUNDS = 3;
const POINTS = 12;
const CLIPS = 10;
const RATE = 48000;

/** A session with clips, moves, devices and a send on every line; every tenth has the name of another. */
function sessionOf(core, lines) {
  const ids = core.countedIds();
  const session = core.createSession({}, ids);
  const [master] = session.tracks;
  const output = { kind: 'track', track: master.id };
  const room = core.createTrack('return', { name: 'Room', output }, ids);
  const media = 'a'.repeat(64);
  const made = Array.from({ length: lines }, (_, i) => {
    const chain = [core.createDevice('eq', {}, {}, ids), core.createDevice('compressor', {}, {}, ids)];
    const clips = Array.from({ length: CLIPS }, (_, k) => ({
      ...{ id: ids('clip'), media, offset: 0, gain: 0 },
      ...{ start: k * 2, length: 1 },
    }));
    const sends = [core.createSend(room.id, { level: -12 }, ids)];
    const name = `Gull ${i % 10 === 9 ? i - 1 : i}`;
    const track = core.createTrack('audio', { name, output, chain, clips, sends }, ids);
    const points = Array.from({ length: POINTS }, (_, k) => ({ at: k, value: -1 - (k % 5) }));
    return { ...track, automation: [{ id: ids('lane'), of: track.id, param: 'level', on: true, points }] };
  });
  const sound = { id: media, name: 'gull.wav', sampleRate: RATE, channels: 1, frames: 100 * RATE };
  return { ...session, tracks: [...made, room, master], media: [sound] };
}

const soundOf = (core, session) =>
  new Map(session.media.map((m) => [m.id, core.writeWav([new Float32Array(RATE)], RATE, 16)]));

/** Each kind of work: what it begins with at a size, and what is timed. */
const WORK = {
  'a project file written': [
    (core, n) => sessionOf(core, n),
    (core, session) => core.writeDawproject(session, { media: soundOf(core, session) }),
  ],
  'a project file read': [
    (core, n) => projectOf(core, sessionOf(core, n)),
    (core, { bytes }) => core.readDawproject(bytes),
  ],
  'a project file written into what was read, half of its lines gone': [
    (core, n) => halfGone(core, projectOf(core, sessionOf(core, n))),
    (core, { session, source }) => core.writeDawproject(session, { source }),
  ],
  'a lane of points (20 for a line) written': [
    (core, n) => oneLane(core, n * 20),
    (core, session) => core.writeDawproject(session),
  ],
  'a MIDI file of one held key (100 notes for a line) read': [
    (core, n) => heldKey(core, n * 100),
    (core, bytes) => core.readMidi(bytes),
  ],
  'the line check': [sessionOf, (core, session) => core.lineCheck(session)],
  'all that is safe mended': [sessionOf, (core, session) => core.fixAllSafe(session)],
  'a starter made, dropped and verified': [
    sessionOf,
    (core, session) => {
      const preset = core.createPreset(core.captureStarter(session), { id: 'starter', name: 'Starter' });
      const empty = core.createSession();
      return core.applyDrop(empty, core.planDrop(empty, preset), preset);
    },
  ],
};

const projectOf = (core, session) => core.writeDawproject(session, { media: soundOf(core, session) });

function halfGone(core, { bytes }) {
  const { session } = core.readDawproject(bytes);
  const tracks = session.tracks.filter((t, i) => t.role !== 'audio' || i % 2);
  return { session: { ...session, tracks }, source: bytes };
}

function oneLane(core, points) {
  const session = sessionOf(core, 1);
  const [line] = session.tracks;
  const [lane] = line.automation;
  lane.points = Array.from({ length: points }, (_, k) => ({ at: k / 8, value: -1 - (k % 20) }));
  return { ...session, tracks: [{ ...line, clips: [] }, ...session.tracks.slice(1)], media: [] };
}

function heldKey(core, count) {
  const at = (k) => k / 480;
  const notes = Array.from({ length: count }, (_, k) => ({
    ...{ at: at(k), length: at(count), channel: 1, key: 60, velocity: 90 },
  }));
  return core.writeMidi({ tempo: 120, meter: [4, 4], tracks: [{ name: 'Held', notes, controllers: [] }] });
}

export async function grow(root, { row, x, time, median }) {
  const core = await import(join(root, 'dist/node/core/index.js'));
  for (const [what, [begin, work]] of Object.entries(WORK)) {
    const begun = SIZES.map((n) => begin(core, n));
    const rounds = Array.from({ length: ROUNDS + 1 }, () => begun.map((b) => time(() => work(core, b))));
    // the first round is warm-up
    const [few, many] = SIZES.map((_, k) => median(rounds.slice(1).map((r) => r[k])));
    const ratio = many / few / (SIZES[1] / SIZES[0]);
    row(what, x(ratio), `${few.toFixed(0)} : ${many.toFixed(0)} ms (want ≤ 1.5)`);
  }
}
