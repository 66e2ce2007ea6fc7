import { formatValue } from '../model/units.ts';
import { DEVICE_TYPES } from './index.ts';
import type { DeviceType, ParamSpec } from './spec.ts';

/** docs/devices.md from the devices' own tables; `npm run docs` writes it and a test holds it to that. */
export function deviceDoc(): string {
  const list = Object.values(DEVICE_TYPES).filter((d) => d.type !== 'opaque');
  return [
    '# Devices', '', 'Made from the tables in `core/devices/` by `npm run docs`; do not edit by hand.', '',
    'Every value can be typed with its unit. Values that belong to the tempo may be adapted when a preset is dropped into a session of another tempo; the drop sheet says so first.', '',
    ...list.flatMap(section),
    '## Opaque', '', DEVICE_TYPES.opaque.summary, '',
  ].join('\n');
}

function section(d: DeviceType): string[] {
  const latency = d.latency(d.defaults, 48000);
  const facts = [
    d.hasKey ? 'Takes its key from any track, before or after its fader.' : '',
    latency ? `Latency with these defaults: ${latency} samples at 48 kHz; everything beside it waits.` : 'No latency with these defaults.',
    d.readings?.length ? `Also shows ${d.readings.join(', ')}.` : '',
  ].filter(Boolean).join(' ');
  return [`## ${d.label}`, '', `${d.summary} ${facts}`, '', ...(d.params.length ? ['| value | group | range | default |', '| --- | --- | --- | --- |', ...rows(d.params), ''] : [])];
}

/** Bands that are alike are listed once. */
function rows(params: ParamSpec[]): string[] {
  const first = params.filter((p) => !/^b[2-9]\./.test(p.id));
  const bands = params.filter((p) => p.id.startsWith('b1.')).length ? Math.max(...params.map((p) => Number(/^b(\d+)\./.exec(p.id)?.[1] ?? 0))) : 0;
  return first.map((p) => {
    const banded = p.id.startsWith('b1.') && bands > 1;
    const label = banded ? p.label.replace(/Band 1/, `Band 1–${bands}`) : p.label;
    return `| ${[label, banded ? `Bands 1–${bands}` : p.group, range(p), formatValue(p, p.default) + (banded && p.id !== 'b1.on' ? ' (band 1)' : '') + (p.tempoBound ? ', belongs to the tempo' : '')].join(' | ')} |`;
  });
}

function range(p: ParamSpec): string {
  if (p.kind === 'number') return `${formatValue(p, p.min!)} … ${formatValue(p, p.max!)}`;
  if (p.kind === 'choice') return p.choices!.map((c) => c.label).join(', ');
  return p.kind === 'switch' ? 'on, off' : 'a text';
}
