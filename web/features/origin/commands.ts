import { useSession } from '../../document/doc.ts';
import type { Command, FeatureCommands } from '../../ui/commands.ts';
import { useSheets } from '../../ui/sheets.ts';

function commands(): Command[] {
  const session = useSession();
  const sheets = useSheets();
  const t = session.track;
  if (!t) return [];
  const group = `On ${t.name}`;
  const out: Command[] = [];
  const x = session.slot;
  if (x?.origin) {
    out.push({
      group,
      label: `${x.name} and the shelf`,
      run: () => sheets.open('origin', { at: x.id }),
    });
  }
  if (!t.origin) return out;
  const from = { preset: t.origin.preset, version: t.origin.version };
  return [
    ...out,
    {
      group,
      label: `${t.name} and the shelf: changed, newer, put back`,
      run: () => sheets.open('origin', { at: t.id }),
    },
    {
      group,
      label: `Compare ${t.name} with its preset`,
      run: () => sheets.open('compare', { a: from, b: { line: t.id } }),
    },
  ];
}

export const originCommands: FeatureCommands = {
  commands: (place) => (place === 'session' ? commands() : []),
};
