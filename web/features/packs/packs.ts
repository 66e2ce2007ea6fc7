import type { NewPack, PackItem, PackPlan } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { askForFile, save } from '../../ui/save.ts';
import { useSheets } from '../../ui/sheets.ts';
import { useUi } from '../../ui/window.ts';

/** A pack that was sent, and what would happen with it. */
export interface SentPack {
  upload: string;
  plan: PackPlan;
}

/** What a file must end in to be a pack, or a preset by itself. */
export const isPackFile = (name: string): boolean => /\.ropeshelf\.zip$|\.preset\.json$/i.test(name);
export const PACK_FILES = '.ropeshelf.zip,.zip,.preset.json,.json';

/** Lets the browser save a pack of some things. */
export async function savePack(what: NewPack): Promise<void> {
  const ui = useUi();
  const busy = ui.say('Making the pack …', 'info', [], 0);
  try {
    const { blob, name } = await api.pack(what);
    save(blob, name);
    ui.say(`“${name}” is with what the browser saved (${(blob.size / 1e6).toFixed(1)} MB).`, 'done');
  } catch (e) {
    ui.fail(e);
  } finally {
    ui.close(busy);
  }
}

/** Asks for a pack, and shows what is in it. */
export const choosePack = (): void => askForFile(PACK_FILES, openPack);

/** Sends a pack, and shows what would happen with it. */
export async function openPack(file: File): Promise<void> {
  const ui = useUi();
  ui.settle('file');
  const busy = ui.say(`Reading “${file.name}” …`, 'info', [], 0);
  try {
    const sent = await api.lookAtPack(file);
    useSheets().open('pack', sent);
  } catch (e) {
    ui.fail(e, 'file');
  } finally {
    ui.close(busy);
  }
}

/** What becomes of a thing of a pack, in words. */
export function fateText({ kind, fate, versions, as }: PackItem): string {
  const [copy, its] = kind === 'preset' ? ['a variant', 'preset'] : ['a copy', kind];
  switch (fate) {
    case 'new':
      return 'new';
    case 'same':
      return 'here already';
    case 'newer':
      return versions === 1
        ? 'a newer version: it follows yours'
        : `${versions} newer versions: they follow yours`;
    case 'older':
      return 'yours is newer: nothing happens';
    case 'both':
      return `changed here and there: comes as ${copy}, “${as}”`;
    case 'trash':
      return 'in the trash here: it is brought back';
    case 'name':
      return `another ${its} has this name: comes as “${as}”`;
  }
}
/** Whether anything would happen with it. */
export const isIdle = ({ fate }: PackItem): boolean => fate === 'same' || fate === 'older';
