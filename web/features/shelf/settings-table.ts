import {
  hashOf,
  requirementsOf,
  safeName,
  settingsFromCsv,
  settingsToCsv,
  type Preset,
  type PresetContent,
} from '../../../core/index.ts';
import type { PresetDetail } from '../../../contract/index.ts';
import { api } from '../../api/index.ts';
import { askForFile, save } from '../../ui/save.ts';
import { useUi } from '../../ui/window.ts';

/** values and problems that are named in a message */
const NAMED = 3;
const several = (list: readonly string[]): string =>
  list.length > NAMED
    ? `${list.slice(0, NAMED).join('; ')}; and ${list.length - NAMED} more`
    : list.join('; ');

/** A preset as it stands on the shelf, with another content. */
const withContent = (detail: PresetDetail, content: PresetContent): Preset => ({
  ...detail.preset,
  name: detail.name,
  category: detail.category,
  colour: detail.colour,
  tags: detail.summary.tags,
  content,
  requirements: requirementsOf(content),
  hash: hashOf(content),
});

/** Saves the settings of a version as a table. */
export function saveSettings(preset: Preset, name: string): void {
  const file = `${safeName(`${name}, version ${preset.version}`)}.csv`;
  save(new Blob(['\uFEFF', settingsToCsv(preset.content)], { type: 'text/csv' }), file);
}

/** Takes settings in from a table, as the next version. @param done is called when there is one */
export function takeSettings(detail: PresetDetail, done: () => Promise<void>): void {
  const ui = useUi();
  askForFile('.csv,text/csv', async (file) => {
    try {
      const { content, changed, problems } = settingsFromCsv(detail.preset.content, await file.text());
      if (problems.length) {
        ui.say(`Nothing was taken in from “${file.name}”. ${several(problems)}`, 'error');
        return;
      }
      if (!changed.length) {
        ui.say(`“${file.name}” says what “${detail.name}” is set to already.`);
        return;
      }
      const next = withContent(detail, content);
      const { version } = await api.addVersion(detail.id, detail.version, next);
      await done();
      const values = several(changed.map((c) => `${c.label}: ${c.from} → ${c.to}`));
      ui.say(`Version ${version} of “${detail.name}” has the settings of “${file.name}”: ${values}`, 'done');
    } catch (e) {
      ui.fail(e);
    }
  });
}
