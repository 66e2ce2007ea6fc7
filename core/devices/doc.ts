import { formatValue } from '../model/units.ts';
import { DEVICE_TYPES } from './index.ts';
import type { DeviceType } from './spec.ts';
import type { ParamSpec } from '../model/param.ts';

/** docs/devices.md from the devices' own tables; `npm run docs` writes it and a test holds it to that. */
export function deviceDoc(): string {
  const list = Object.values(DEVICE_TYPES).filter((d) => !d.foreign);
  return [
    '# Devices',
    '',
    'Made from the tables in `core/devices/` by `npm run docs`; do not edit by hand.',
    '',
    'Every value can be typed with its unit. Values that belong to the tempo may be adapted when a preset is ' +
      'dropped into a session of another tempo; the drop sheet says so first.',
    '',
    ...list.flatMap(section),
    '## Opaque',
    '',
    DEVICE_TYPES.opaque.summary,
    '',
  ].join('\n');
}

function section(d: DeviceType): string[] {
  const latency = d.latency(d.defaults, 48000);
  const facts = [
    d.hasKey ? 'Takes its key from any track, before or after its fader.' : '',
    latency
      ? `Latency with these defaults: ${latency} samples at 48 kHz; everything beside it waits.`
      : 'No latency with these defaults.',
    d.earlier?.length ? earlierText(d) : '',
    d.readings?.length ? `Also shows ${d.readings.join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join(' ');
  return [
    `## ${d.label}`,
    '',
    `${d.summary} ${facts}`,
    '',
    ...(d.params.length
      ? ['| value | group | range | default |', '| --- | --- | --- | --- |', ...rows(d.params), '']
      : []),
  ];
}

/** Which revision of its sound it plays, and what is kept of those before. */
function earlierText(d: DeviceType): string {
  const kept = d.earlier!.filter((e) => e.create).length;
  const before = kept ? 'earlier ones are kept for what was set with them' : 'earlier ones are not kept';
  return `Revision ${d.revision} of its sound; ${before}.`;
}

/** Bands, parts, layers and output trims that are alike are listed once. */
function rows(params: ParamSpec[]): string[] {
  const number = (p: ParamSpec) => {
    const m = /^([bplt])(\d+)(\.|$)/.exec(p.id);
    return m ? { kind: m[1], n: Number(m[2]) } : null;
  };
  const count = (kind: string) =>
    Math.max(
      ...params.map((p) => {
        const x = number(p);
        return x?.kind === kind ? x.n : 0;
      }),
    );
  return params
    .filter((p) => (number(p)?.n ?? 0) <= 1)
    .map((p) => {
      const x = number(p);
      const many = x?.n === 1 && count(x.kind) > 1 ? count(x.kind) : 0;
      const spread = (text: string) =>
        many ? text.replace(/(Band|Part|Layer|output) 1\b/, `$1 1–${many}`) : text;
      const first =
        many && x!.kind !== 't' && p.id !== 'b1.on'
          ? ` (${/^\w+/.exec(p.group)?.[0].toLowerCase().replace(/s$/, '')} 1)`
          : '';
      const group = x?.kind === 'b' && many ? `Bands 1–${many}` : spread(p.group);
      const tempo = p.tempoBound ? ', belongs to the tempo' : '';
      const usual = formatValue(p, p.default) + first + tempo;
      return `| ${[spread(p.label), group, range(p), usual].join(' | ')} |`;
    });
}

function range(p: ParamSpec): string {
  if (p.kind === 'number') return `${formatValue(p, p.min!)} … ${formatValue(p, p.max!)}`;
  if (p.kind === 'choice' && p.choices!.length > 30) {
    return `${p
      .choices!.slice(0, 4)
      .map((c) => c.label)
      .join(', ')} … ${p.choices!.at(-1)!.label}`;
  }
  if (p.kind === 'choice') return p.choices!.map((c) => c.label).join(', ');
  return p.kind === 'switch' ? 'on, off' : 'a text';
}
