import type { SourceKind } from '@idrel/contract/sources';
import { PRIORITIES } from '@idrel/core/catalog';
import type { AssetKind } from '@idrel/core/things';
import dayjs from 'dayjs';
import relativeTime from 'dayjs/plugin/relativeTime';
import { useContext } from 'react';
import { LevelNames } from './levelNames.ts';

dayjs.extend(relativeTime);

const KINDS: Readonly<Record<AssetKind | SourceKind | 'domain' | 'source', string>> = {
  database: 'db',
  schema: 'sc',
  table: 'tb',
  view: 'vw',
  'materialised view': 'mv',
  'foreign table': 'ft',
  column: 'co',
  type: 'ty',
  sequence: 'sq',
  function: 'fn',
  procedure: 'pr',
  folder: 'fo',
  file: 'fi',
  'file set': 'fs',
  report: 'rp',
  dashboard: 'ds',
  application: 'ap',
  flow: 'fl',
  domain: 'dm',
  source: 'so',
  postgresql: 'pg',
  mariadb: 'my',
  sqlite: 'sl',
  objects: 'os',
  scripts: 'ss',
  reports: 'rs',
  orchestrator: 'oc',
  dcat: 'dc',
  events: 'ev',
  drawn: 'dh',
  pushed: 'pp',
};

/** Two letters for the kind of an asset; the whole word in the tooltip and for screen readers. */
export function KindMark({ kind }: { kind: string }) {
  return (
    <span className="kind" role="img" aria-label={kind} title={kind}>
      {(KINDS as Readonly<Record<string, string>>)[kind] ?? kind.slice(0, 2)}
    </span>
  );
}

/** A sensitivity level as soundings: one to four rising strokes, with the word. */
export function Level({ level, bare }: { level: number | null; bare?: boolean }) {
  const names = useContext(LevelNames);
  if (level === null) return <span className="quiet">{bare ? '' : 'not given'}</span>;
  return (
    <span
      className="level"
      title={[names[level - 1]?.meaning, names[level - 1]?.advice].filter(Boolean).join(' ') || undefined}
    >
      <span className="strokes" aria-hidden="true">
        {[1, 2, 3, 4].map((step) => (
          <i key={step} className={step <= level ? 'on' : ''} style={{ height: 3 + step * 2.2 }} />
        ))}
      </span>
      <span>{names[level - 1]?.name}</span>
    </span>
  );
}

/** How much something matters, as its word. */
export const PriorityMark = ({ grade }: { grade: number }) => (
  <span className={`priority p${grade}`}>{PRIORITIES[grade]}</span>
);

export const StandingMark = ({ standing }: { standing: string }) => (
  <span className={`standing ${standing}`}>{standing}</span>
);

/** A note, a caution or a stop, as its word; what it says in the tooltip. */
export const NoticeMark = ({ kind, text }: { kind: string; text?: string }) => (
  <span className={`mark is-${kind}`} title={text}>
    {kind}
    {text ? <span className="hidden-visually">: {text}</span> : null}
  </span>
);

/** The gravest notice of what stands in a line. */
export const Gravest = ({ notices }: { notices: readonly { kind: string; text: string }[] }) =>
  notices[0] ? (
    <NoticeMark kind={notices[0].kind} text={notices.map(({ kind, text }) => `${kind}: ${text}`).join('\n')} />
  ) : null;

/** A share (0 to 1) in words: only all is 100, only none is 0. */
export const percent = (share: number): string => {
  if (share === 0 || share === 1) return `${share * 100} %`;
  if (share >= 0.995) return '>99 %';
  return share < 0.0005 ? '<0.1 %' : `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;
};

/** Evidence: a thin bar, and the share in figures. @param narrow whether its bar is, or how wide in pixels */
export function Evidence({ share, label, narrow }: { share: number; label?: string; narrow?: boolean | number }) {
  return (
    <span className="evidence">
      <span className="bar" aria-hidden="true" style={narrow ? { width: narrow === true ? 44 : narrow } : undefined}>
        <i style={{ width: share === 0 ? 0 : `${Math.max(2, share * 100)}%` }} />
      </span>
      <span>
        {percent(share)}
        {label ? ` ${label}` : ''}
      </span>
    </span>
  );
}

/** A time as people say it; the exact one in the tooltip. */
export function When({ at }: { at: string | null }) {
  if (!at) return <span className="quiet">never</span>;
  return (
    <time dateTime={at} title={dayjs(at).format('D MMMM YYYY, HH:mm:ss')}>
      {dayjs(at).fromNow()}
    </time>
  );
}

export const count = (value: number | null | undefined): string =>
  value === null || value === undefined ? '' : Math.round(value).toLocaleString('en');
export const plural = (n: number, one: string, many = `${one}s`): string => `${count(n)} ${n === 1 ? one : many}`;
export function bytes(value: unknown): string {
  let size = Number(value);
  if (!Number.isFinite(size)) return '';
  for (const unit of ['B', 'kB', 'MB', 'GB']) {
    if (size < 1000) return `${size < 10 && unit !== 'B' ? size.toFixed(1) : Math.round(size)} ${unit}`;
    size /= 1000;
  }
  return `${size.toFixed(1)} TB`;
}

/** Long technical names are shortened in the middle: beginning and end tell most. */
export function Name({ text, most = 46 }: { text: string; most?: number }) {
  if (text.length <= most) return <span className="mono">{text}</span>;
  const head = Math.ceil(most * 0.55);
  return (
    <span className="mono" title={text}>
      {text.slice(0, head)}…{text.slice(text.length - (most - head - 1))}
    </span>
  );
}
