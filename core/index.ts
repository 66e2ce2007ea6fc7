/**
 * The public core: plain data in, plain data out; runs in the browser, a worker, an AudioWorklet and Node.
 */
export * from './model/types.ts';
export * from './model/print.ts';
export { COLOURS, colourOf } from './model/colours.ts';
export { cutText, NAME_LENGTH, nameWith } from './model/text.ts';
export {
  createSession,
  createTrack,
  createDevice,
  createSend,
  masterOf,
  trackOf,
  placeFor,
  freeName,
} from './session/create.ts';
export * from './edit/index.ts';
export { copyParts, duplicateTrack, duplicateTracks } from './drop/copy.ts';
export { validateSession, validateStudio } from './session/validate/index.ts';
export { validateChange } from './session/validate/change.ts';
export { validatePreset } from './session/validate-preset.ts';
export {
  canonicalJson,
  clone,
  hashOf,
  merge3,
  same,
  sha256Hex,
  sharing,
  type Conflict,
} from './model/json.ts';
export {
  MAX_DEPTH,
  chainAt,
  createRack,
  createStrand,
  devicesIn,
  findSlot,
  mapDevices,
  mapSlots,
  placeOf,
  racksAround,
  racksIn,
  renewLanes,
  renewOrigin,
  renewSlot,
  renewTrack,
  slotIds,
  walkSlots,
  withChainAt,
} from './session/slots.ts';
export { keyText, pitchCorrectionsIn } from './session/key.ts';
export {
  BLEND_SPEC,
  STRAND_LEVEL,
  STRAND_PAN,
  switchTargets,
  tieRange,
  tieTarget,
  tieTargets,
  usefulRange,
  type TieTarget,
} from './session/tie-targets.ts';
export {
  CONTROLLER_NAMES,
  bend,
  controllerName,
  controllersIn,
  dropDeadTies,
  freeController,
  handleConflicts,
  monoOf,
  moveController,
  moveHandle,
  moversOf,
  setIn,
  takenTo,
  tiePosition,
  tieValue,
  turnOnLine,
  type HandleConflict,
  type PickUp,
} from './session/handles.ts';
export {
  automated,
  laneTarget,
  laneTargets,
  laneValue,
  tidyPoints,
  type LaneTarget,
} from './session/automation.ts';
export {
  MIDI_CHANNELS,
  MIDI_PORTS,
  PERCUSSION,
  accepts,
  addressText,
  freeAddresses,
  hears,
  instrumentsIn,
  instrumentsOn,
  keyName,
  listenersIn,
  outLabel,
  outText,
  sameAddress,
  sentBy,
  takersOf,
  type Instrument,
  type Listener,
} from './session/midi.ts';
export { outPlace, type OutPlace } from './devices/instrument.ts';
export type { InstrumentPart, InstrumentType, PatternLayer } from './devices/instrument-type.ts';
export {
  pathThrough,
  signalGraph,
  type Flow,
  type FlowKind,
  type FlowNode,
  type SignalGraph,
} from './session/graph.ts';
export { randomIds, countedIds, type IdMaker } from './model/ids.ts';
export {
  NOTES,
  formatDb,
  formatPan,
  formatValue,
  fromPosition,
  noteFor,
  noteMs,
  parseValue,
  tidy,
  toPosition,
} from './model/units.ts';
export { LiveMeter, METER_READINGS } from './devices/live-meter.ts';
export {
  ADDABLE,
  DEVICE_TYPES,
  isListed,
  isUsed,
  changesSince,
  newestRevision,
  playedAs,
  revisionOf,
  runningParams,
  valueIn,
} from './devices/index.ts';
export { frequencyGrid, type Picture, type PictureView, type Shape } from './devices/pictures/picture.ts';
export { pictured } from './devices/pictures/pictured.ts';
export { noteName, readingText } from './devices/readings.ts';
export type { DeviceType, PanelKind } from './devices/spec.ts';
export { EQ_BANDS } from './devices/eq.ts';
export type { ParamSpec } from './model/param.ts';
export { CompileError, compile, panGains, strandGains, type Schedule } from './engine/compile.ts';
export { Renderer } from './engine/renderer.ts';
export { NO_PORTS, PortBuffers, type PortMap } from './engine/ports.ts';
export { NO_AUDITION, auditioned, type Audition } from './engine/audition.ts';
export { beExact } from './devices/kernels/index.ts';
export type { Sound, SoundWindow } from './engine/sound.ts';
export { RenderCancelled, sessionLength, type Rendered, type RenderOptions } from './engine/offline.ts';
export { render, renderNow } from './engine/render.ts';
export { integratedLoudness, kWeighting, measureLoudness, type Loudness } from './measure/loudness.ts';
export { measureLevels } from './measure/levels.ts';
export { truePeak } from './measure/truepeak.ts';
export { chroma, measureKey, measureTempo, type Key, type Tempo } from './measure/music.ts';
export { measureSound, type SoundFigures } from './measure/sound.ts';
export { SPACES, soundOfSpace, spaceId, spaceOf } from './devices/convolution/spaces.ts';
export { mediaIn, playedWith, portable, soundsIn } from './session/media.ts';
export { Resampler, resample } from './devices/resample.ts';
export { decayCurve, rt60 } from './measure/decay.ts';
export { makeFingerprint, soundOfPreset } from './shelf/fingerprint.ts';
export { likenessOf } from './shelf/likeness.ts';
export type { Fingerprint, Likeness } from './model/fingerprint.ts';
export { denseFrom, echoDensity, repetition, spectralDeviation } from './measure/space.ts';
export { Spectrum } from './measure/spectrum.ts';
export { logFrequencies, responseCurve } from './measure/response.ts';
export { DUPLICATE_PARTS, PARTS, SONG_PARTS, USUAL_PARTS, partsOf, togglePart } from './drop/parts/index.ts';
export { KINDS, isPiece, kindNamed } from './drop/kinds/index.ts';
export {
  capture,
  captureSlot,
  captureStarter,
  createPreset,
  requirementsOf,
  type CaptureOptions,
  type Captured,
  type EndChoice,
  type Leaving,
  type PresetDraft,
} from './drop/capture.ts';
export { planDrop } from './drop/plan.ts';
export type {
  Adaptation,
  Choice,
  Difference,
  DropPlan,
  FitValue,
  EndPlan,
  Form,
  Place,
  PlanOptions,
  PortPlan,
  ReportRow,
  StandIn,
  UnitPlan,
  Verdict,
} from './drop/types.ts';
export { DropRefused, applyDrop } from './drop/apply.ts';
export { verifyDrop, type IntactReport } from './drop/verify.ts';
export { lineOf, rootAgain, rootsOf, sideOf, tieToShelf, type Root } from './drop/roots.ts';
export { changesOf, type Change } from './drop/changes.ts';
export {
  letGo,
  newLines,
  putBack,
  stateOf,
  updateFromShelf,
  type RootState,
  type Update,
  type UpdateConflict,
  type UpdateOptions,
} from './drop/update.ts';
export { adaptedHere, takeBackAdapted, type AdaptedHere } from './drop/adapted.ts';
export {
  borrow,
  dropSeveral,
  linesFromStrip,
  nothingToDecide,
  startSession,
  type Several,
} from './drop/several.ts';
export { RULES, fixAllSafe, fixFinding, lineCheck, silence, type Finding } from './check/index.ts';
export type { Levels, Rule, Severity } from './check/rule.ts';
export { glanceOf, type Glanced, type GlancedLine } from './drop/glance.ts';
export { NULL_SILENCE, NULL_STRETCHES, NULL_THIRDS, type NullPicture } from './drop/null-picture.ts';
export { nullTest, testSignal, type NullResult } from './drop/nulltest.ts';
export { align } from './drop/align.ts';
export { applyMove, planMove, type MoveOptions, type MovePlan } from './drop/move.ts';
export { diffPresets } from './drop/diff.ts';
export { FormatError } from './formats/errors.ts';
export { WavFile, readWav, writeWav, type ReadBytes, type WavData } from './formats/wav.ts';
export { readZip, ZIP_LIMITS } from './formats/zip.ts';
export { writeZip } from './formats/zip-write.ts';
export {
  PACK_LIMITS,
  readPack,
  studioHash,
  writePack,
  type PackAbout,
  type PackContents,
  type PackDocument,
  type PackLine,
  type PackRead,
  type PackedFileKind,
} from './formats/pack.ts';
export { fateOf, nameFromPack, type PackFate } from './shelf/pack-fate.ts';
export { readDawproject, type DawRead } from './formats/dawproject/read.ts';
export { writeDawproject, type DawWritten } from './formats/dawproject/write.ts';
export { canonicalXml } from './formats/dawproject/xml.ts';
export { unprint, withLinePrint } from './session/print.ts';
export {
  applyLayout,
  instrumentAt,
  planLayout,
  type KitLayout,
  type LayoutChoice,
  type LayoutOptions,
  type LayoutRow,
} from './kit/layout.ts';
export { applyPlayer, planPlayer, playerRows, type PlayerPlan, type PlayerRow } from './kit/player.ts';
export {
  TAP,
  tapTest,
  tappable,
  type TapCell,
  type TapResult,
  type TapRow,
  type TapVerdict,
} from './kit/tap.ts';
export { WORKING_LEVEL, measureOutputs, setTrims, type OutputLevel } from './kit/level.ts';
export {
  LONGEST_TAIL,
  addsUpTo,
  planPrint,
  printOutlook,
  sources,
  stemsBy,
  type PrintOutlook,
  type StemsBy,
} from './print/plan.ts';
export {
  inVersion,
  measureMix,
  passesOf,
  printPass,
  printStems,
  type Printed,
  type PrintedStems,
} from './print/stems.ts';
export type { Proof } from './print/proof.ts';
export {
  SHEET_FORMATS,
  compareSheets,
  recallSheet,
  type SheetFigure,
  type SheetFormat,
} from './formats/recall-sheet.ts';
export { recallDocument, type SheetDocument } from './formats/recall-document.ts';
export {
  MemoryStore,
  gainFor,
  gainsTogether,
  levelOf,
  printFiles,
  printedFromJson,
  printTakes,
  writeTakes,
  type FilesOptions,
  type Growing,
  type MakeFlac,
  type PrintFileMade,
  type PrintFiles,
  type PrintStore,
  type SongTakes,
} from './formats/print-files.ts';
export { flacWith, type FlacLibrary } from './formats/flac.ts';
export type { Scratch } from './print/take.ts';
export { nameBy, namesBy, safeName, type NameFields } from './print/names.ts';
export {
  readBroadcastExtension,
  writeBroadcastWav,
  type BroadcastExtension,
  type BroadcastOptions,
  type Cue,
} from './formats/broadcast.ts';
export { measureReference, referenceNow, referenceUnder } from './fit/reference.ts';
export { applyFit, fitNow, planFit, type FitPlan, type FitRefusal, type FitStep } from './fit/plan.ts';
export { balanceEq, balanceOf, type Balance } from './fit/balance.ts';
export { piecesOf, planEven, type EvenRow } from './fit/even.ts';
export type { DeviceFigures, LineReference, PitchRange, Sibilance } from './model/reference.ts';
export type { Undivided } from './print/arrange.ts';
export { RING, canPrint, printLines } from './print/lines.ts';
export { waysIn } from './session/reach.ts';
export { upstream } from './session/upstream.ts';
export { arranged, freed, movedSend } from './session/sends.ts';
export { linesToPrint, printInstrument, withPrint } from './kit/print.ts';
export type { PrintedLine } from './session/print.ts';
export { readMidi, writeMidi, type MidiData, type MidiTrack } from './formats/midi.ts';
export {
  dbfsOfDbu,
  dbuOfDbfs,
  dbuOfDbv,
  dbuOfVolts,
  dbvOfDbu,
  headroomInUnit,
  headroomOnReturn,
  loopLevels,
  NOMINAL_LABELS,
  tooHot,
  unityGain,
  voltsOfDbu,
  type LoopLevels,
} from './hardware/levels.ts';
export {
  bayJack,
  placesOf,
  portJack,
  unitJack,
  inputsOf,
  outputsOf,
  type Place as JackPlace,
} from './hardware/jacks.ts';
export { followSignal, patchProblems, type Followed, type HardwareProblem } from './hardware/follow.ts';
export { planPatch, standing, type Move, type PatchPlan, type WantedPatch } from './hardware/plan.ts';
export { stereoSweep, sweepSignal } from './hardware/sweep.ts';
export { agreed, measureLoop, type LoopFigures } from './hardware/measure.ts';
export { measureSimulated, simulatedRoundTrip } from './hardware/simulated.ts';
export { framesFor, measureTaken, signalFor, type Taken } from './hardware/taken.ts';
export { UNIT_MODELS, restOf, type UnitModel } from './devices/units/index.ts';
export { matchHardware, type UnitChoice, type UnitMatch } from './hardware/match.ts';
export {
  carryPositions,
  controlSpec,
  nearestPosition,
  positionText,
  positionsOf,
} from './hardware/positions.ts';
export {
  simulatedLine,
  loopsOfSession,
  pairName,
  portNames,
  portsNamed,
  setupOf,
  unitsUsed,
  wantedPatches,
  type SessionLoop,
} from './hardware/studio.ts';
export { RECALLED, compareRecall, suspectControl, type Recalled, type Suspect } from './hardware/recall.ts';
export { tickOf, tickOfMove } from './hardware/ticks.ts';
export * from './model/hardware.ts';
export { presetDistance, presetShape, shapesApart, type PresetShape } from './shelf/distance/index.ts';
export { NEAR, nearDuplicates, nearGroups, nearest } from './shelf/distance/groups.ts';
export { chainShapes, chainsOfShape, type LineChain } from './shelf/distance/lines.ts';
export { movedOrigins, versionKey } from './drop/origins.ts';
export { settingsFromCsv, settingsToCsv, type SettingsRead } from './formats/settings-table.ts';
