import {
  type BackupEntry,
  type BackupList,
  type ByHand,
  type ClearOutPage,
  type DropKept,
  type KeptSearch,
  type MergePresets,
  type NearGroups,
  type NearPreset,
  type PresetsMerged,
  type ShelfSearch,
  type ManyChanged,
  type ManyPresets,
  type PackBack,
  type PackPlan,
  type PackTaken,
  type PresetShelf,
  type TakePack,
  type TrashItem,
  type TrashPage,
  type CurrentVersions,
  type DefaultValue,
  type Defaults,
  type DropEntry,
  type Facets,
  type FolderCount,
  type HistoryEntry,
  type Imported,
  type JobDetail,
  type JobEntry,
  type MediaList,
  type NewDrop,
  type NewJob,
  type NewPack,
  type NewSession,
  type Notes,
  type PresetDetail,
  type PresetEntry,
  type PresetLikeness,
  type PresetMeta,
  type PresetPage,
  type PresetSaved,
  type Revision,
  type Saved,
  type SessionDocument,
  type SessionOpened,
  type HereNow,
  type Me,
  type NewPassword,
  type NewShare,
  type Person,
  type Shares,
  type SignIn,
  type SessionPage,
  type SessionQuery,
  type SessionsUsing,
  type SetupDetail,
  type SetupEntry,
  type SetupSaved,
  type ShelfLikeness,
  type ShelfQuery,
  type UpdatesSaid,
} from '../../contract/index.ts';
import {
  cutText,
  printedFromJson,
  type MediaRef,
  type Preset,
  type Session,
  type Studio,
} from '../../core/index.ts';
import { call, callForFile, query, type Blank } from './call.ts';
import { sendInPieces } from './sending.ts';

export { ApiError, CLIENT, type Blank } from './call.ts';
export { signInNeeded } from './signing.ts';

/** What a change is called in the history. */
export type StepWords = Pick<HistoryEntry, 'label' | 'kind'>;
/** letters of a step's words that are sent along */
const MOST_WORDS = 200;

/** bytes of a file that goes in one request; a longer one is sent in pieces, with its progress shown */
const AT_ONCE = 8 * 1024 * 1024;

/** Gives a file to the server, however long it is. */
function give<T>(file: File, path: string, type: string): Promise<T> {
  if (file.size > AT_ONCE) {
    return sendInPieces(file, (upload, signal) => call<T>('POST', `${path}${query({ upload })}`, { signal }));
  }
  return call<T>('POST', `${path}${query({ name: file.name })}`, {
    raw: file,
    headers: { 'Content-Type': type },
  });
}

export const api = {
  me: () => call<Me>('GET', '/me'),
  signIn: (o: SignIn) => call<Me>('POST', '/sign-in', { json: o }),
  signOut: () => call<void>('POST', '/sign-out'),
  signOutEverywhere: () => call<void>('POST', '/sign-out-everywhere'),
  changePassword: (o: NewPassword) => call<Me>('POST', '/password', { json: o }),
  people: () => call<Person[]>('GET', '/people'),
  shares: () => call<Shares>('GET', '/shares'),
  share: (o: NewShare) => call<Shares>('PUT', '/shares', { json: o }),
  endShare: (id: string) => call<void>('DELETE', `/shares/${id}`),
  sessions: (o: Blank<SessionQuery> = {}, signal?: AbortSignal) =>
    call<SessionPage>('GET', `/sessions${query(o)}`, { signal }),
  sessionFolders: () => call<FolderCount[]>('GET', '/sessions/folders'),
  sessionOpened: (id: string) => call<void>('POST', `/sessions/${id}/opened`),
  sessionFolder: (id: string, folder: string) =>
    call<void>('PUT', `/sessions/${id}/folder`, { json: { folder } }),
  session: (id: string) => call<SessionOpened>('GET', `/sessions/${id}`),
  here: (id: string, o: HereNow) => call<void>('POST', `/sessions/${id}/here`, { json: o }),
  createSession: (o: NewSession) => call<Saved>('POST', '/sessions', { json: o }),
  patchSession: (id: string, revision: number, ops: unknown[], step: StepWords, keepalive = false) =>
    call<Revision>('PATCH', `/sessions/${id}`, {
      json: ops,
      headers: {
        'If-Match': `"${revision}"`,
        'Content-Type': 'application/json-patch+json',
        'X-Step': encodeURIComponent(cutText(step.label, MOST_WORDS)),
        'X-Step-Kind': step.kind,
      },
      keepalive,
    }),
  history: (id: string, o: { from?: number; limit?: number; with?: 'back' } = {}) =>
    call<HistoryEntry[]>('GET', `/sessions/${id}/history${query(o)}`),
  sessionAt: (id: string, revision: number) =>
    call<SessionDocument>('GET', `/sessions/${id}/history/${revision}`),
  deleteSession: (id: string) => call<void>('DELETE', `/sessions/${id}`),
  restoreSession: (id: string) => call<void>('POST', `/sessions/${id}/restore`),
  importFile: (file: File) => give<Imported>(file, '/sessions/import', 'application/octet-stream'),
  exportNotes: (id: string) => call<Notes>('GET', `/sessions/${id}/export/notes`),
  presets: (o: Blank<ShelfQuery>, signal?: AbortSignal) =>
    call<PresetPage>('GET', `/presets${query(o)}`, { signal }),
  /** @param of the account whose shelf it is; '' for the own one */
  facets: (of = '') => call<Facets>('GET', `/presets/facets${query({ of })}`),
  preset: (id: string) => call<PresetDetail>('GET', `/presets/${id}`),
  presetVersion: (id: string, v: number) => call<Preset>('GET', `/presets/${id}/versions/${v}`),
  createPreset: (preset: Preset) => call<PresetSaved>('POST', '/presets', { json: { preset } }),
  addVersion: (id: string, based: number, preset: Preset) =>
    call<PresetSaved>('POST', `/presets/${id}/versions`, {
      json: { preset },
      headers: { 'If-Match': `"${based}"` },
    }),
  /** @param version that it was seen at; left out where another version does not matter, as for a pin */
  presetMeta: (id: string, o: PresetMeta, version?: number) =>
    call<PresetEntry>('PATCH', `/presets/${id}`, {
      json: o,
      ...(version === undefined ? {} : { headers: { 'If-Match': `"${version}"` } }),
    }),
  deletePreset: (id: string) => call<void>('DELETE', `/presets/${id}`),
  restorePreset: (id: string) => call<void>('POST', `/presets/${id}/restore`),
  likeness: (id: string) => call<PresetLikeness>('GET', `/presets/${id}/likeness`),
  /** renders it now */
  compareSound: (id: string) => call<PresetLikeness>('POST', `/presets/${id}/likeness`),
  /** the way it sounds now is the way it is meant */
  acceptSound: (id: string) => call<PresetLikeness>('DELETE', `/presets/${id}/likeness`),
  shelfLikeness: () => call<ShelfLikeness>('GET', '/presets/likeness'),
  currentVersions: (ids: string[]) => call<CurrentVersions>('POST', '/presets/current', { json: { ids } }),
  sessionsUsing: (id: string) => call<SessionsUsing>('GET', `/presets/${id}/sessions`),
  updateSessions: (id: string, sessions: string[], look: boolean) =>
    call<UpdatesSaid>('POST', `/presets/${id}/update`, {
      json: { sessions, look },
    }),
  /** @param of whose, of those who share their shelf; the own ones where it is left out */
  setups: (of?: string) => call<SetupEntry[]>('GET', of ? `/setups?of=${encodeURIComponent(of)}` : '/setups'),
  setup: (id: string) => call<SetupDetail>('GET', `/setups/${id}`),
  createSetup: (studio: Studio) => call<SetupSaved>('POST', '/setups', { json: { studio } }),
  addSetupVersion: (id: string, based: number, studio: Studio) =>
    call<SetupSaved>('POST', `/setups/${id}/versions`, {
      json: { studio },
      headers: { 'If-Match': `"${based}"` },
    }),
  deleteSetup: (id: string) => call<void>('DELETE', `/setups/${id}`),
  restoreSetup: (id: string) => call<void>('POST', `/setups/${id}/restore`),
  defaults: () => call<Defaults>('GET', '/defaults'),
  setDefault: (name: string, value: DefaultValue) => call<void>('PUT', `/defaults/${name}`, { json: value }),
  clearDefault: (name: string) => call<void>('DELETE', `/defaults/${name}`),
  media: () => call<MediaList>('GET', '/media'),
  upload: (file: File) => give<MediaRef>(file, '/media', 'audio/wav'),
  pack: (what: NewPack) => callForFile('POST', '/packs', { json: what }),
  /** sends a pack, and hears what would happen with it */
  lookAtPack: (file: File) =>
    sendInPieces(file, async (upload, signal) => {
      const plan = await call<PackPlan>('POST', '/packs/look', { json: { upload }, signal });
      return { upload, plan };
    }),
  takePack: (o: TakePack) => call<PackTaken>('POST', '/packs/take', { json: o }),
  putDemoIn: () => call<PackTaken>('POST', '/packs/demo'),
  takePackBack: (id: string) => call<PackBack>('POST', `/packs/taken/${id}/back`),
  dropUpload: (id: string) => call<void>('DELETE', `/uploads/${id}`),
  backups: () => call<BackupList>('GET', '/backups'),
  makeBackup: () => call<BackupEntry>('POST', '/backups'),
  keptSearches: () => call<KeptSearch[]>('GET', '/searches'),
  keepSearch: (name: string, search: ShelfSearch) =>
    call<void>('PUT', `/searches/${encodeURIComponent(name)}`, { json: { search } }),
  dropSearch: (name: string) => call<void>('DELETE', `/searches/${encodeURIComponent(name)}`),
  presetsNear: (id: string) => call<NearPreset[]>('GET', `/presets/${id}/near`),
  nearGroups: () => call<NearGroups>('GET', '/presets/near-groups'),
  mergePresets: (id: string, o: MergePresets) =>
    call<PresetsMerged>('POST', `/presets/${id}/merge`, { json: o }),
  builtByHand: () => call<ByHand[]>('GET', '/sessions/by-hand'),
  clearOut: (after: string) => call<ClearOutPage>('GET', `/presets/clear-out${query({ after })}`),
  trash: (from: number) => call<TrashPage>('GET', `/trash${query({ from })}`),
  emptyTrash: () => call<void>('DELETE', '/trash'),
  deleteForGood: (kind: TrashItem['kind'], id: string) => call<void>('DELETE', `/trash/${kind}/${id}`),
  changePresets: (o: ManyPresets) => call<ManyChanged>('POST', '/presets/many', { json: o }),
  putPresetsBack: (presets: PresetShelf[]) => call<void>('PUT', '/presets/many', { json: { presets } }),
  deletePresets: (ids: string[]) => call<void>('POST', '/presets/many/delete', { json: { ids } }),
  restorePresets: (ids: string[]) => call<void>('POST', '/presets/many/restore', { json: { ids } }),
  recordDrop: (o: NewDrop) => call<DropKept>('POST', '/drops', { json: o }),
  jobs: () => call<JobEntry[]>('GET', '/jobs'),
  job: async (id: string): Promise<JobDetail> => {
    const job = await call<JobDetail>('GET', `/jobs/${id}`);
    return { ...job, printed: job.printed?.map(printedFromJson) ?? null };
  },
  jobSession: (id: string, song: number) => call<Session>('GET', `/jobs/${id}/session/${song}`),
  createJob: (o: NewJob) => call<JobEntry>('POST', '/jobs', { json: o }),
  cancelJob: (id: string) => call<JobEntry>('POST', `/jobs/${id}/cancel`),
  repeatJob: (id: string) => call<JobEntry>('POST', `/jobs/${id}/again`),
  deleteJob: (id: string) => call<void>('DELETE', `/jobs/${id}`),
  /** without the rows of their reports */
  drops: (session: string) => call<DropEntry[]>('GET', `/drops/of/${session}`),
  drop: (id: string) => call<DropEntry>('GET', `/drops/${id}`),
};
