import { useLocalStorage } from '@mantine/hooks';

/** Columns of the catalog's table, in their order: what each is called, whether it shows unasked, and how wide it is unless somebody made it otherwise. */
export const COLUMNS = {
  kind: { label: 'Kind', shown: true, track: '26px', least: 26 },
  path: { label: 'Name', shown: true, track: 'minmax(180px, 3fr)', least: 120 },
  description: { label: 'Description', shown: false, track: 'minmax(160px, 2fr)', least: 80 },
  source: { label: 'Source', shown: true, track: 'minmax(84px, 1fr)', least: 60 },
  domain: { label: 'Domain', shown: false, track: 'minmax(84px, 1fr)', least: 60 },
  classes: { label: 'Classes', shown: true, track: 'minmax(150px, 1.6fr)', least: 80 },
  level: { label: 'Level', shown: true, track: '84px', least: 40 },
  priority: { label: 'Priority', shown: false, track: '84px', least: 50 },
  standing: { label: 'Standing', shown: true, track: '84px', least: 60 },
  owners: { label: 'Owner', shown: true, track: 'minmax(80px, 1fr)', least: 60 },
  terms: { label: 'Terms', shown: false, track: 'minmax(84px, 1fr)', least: 60 },
  tags: { label: 'Tags', shown: false, track: 'minmax(100px, 1fr)', least: 60 },
  type: { label: 'Type', shown: false, track: 'minmax(84px, 1fr)', least: 60 },
  bytes: { label: 'Size', shown: false, track: '72px', least: 50 },
  uses: { label: 'Asked for', shown: false, track: '76px', least: 50 },
  rows: { label: 'Rows', shown: true, track: '62px', least: 40 },
} as const satisfies Record<string, { label: string; shown: boolean; track: string; least: number }>;
export type ColumnKey = keyof typeof COLUMNS;
export const COLUMN_KEYS = Object.keys(COLUMNS) as ColumnKey[];
/** What every row is known by: it is always there. */
export const ALWAYS: ColumnKey = 'path';
/** No column is wider. */
const MOST = 900;

/** What somebody chose otherwise than it is unasked. */
export interface Kept {
  readonly shown: Partial<Record<ColumnKey, boolean>>;
  /** In pixels. */
  readonly widths: Partial<Record<ColumnKey, number>>;
}
export const AS_USUAL: Kept = { shown: {}, widths: {} };

export const isShown = ({ shown }: Kept, key: ColumnKey): boolean =>
  key === ALWAYS || (shown[key] ?? COLUMNS[key].shown);
export const withShown = (kept: Kept, key: ColumnKey, shown: boolean): Kept => ({
  ...kept,
  shown: { ...kept.shown, [key]: shown },
});
/** @param width in pixels; undefined: as it is unasked */
export function withWidth(kept: Kept, key: ColumnKey, width: number | undefined): Kept {
  const { [key]: _before, ...widths } = kept.widths;
  if (width === undefined) return { ...kept, widths };
  return { ...kept, widths: { ...widths, [key]: Math.round(Math.min(MOST, Math.max(COLUMNS[key].least, width))) } };
}

/** Columns that show where the table is sorted by them. */
const SORTED: Readonly<Record<string, ColumnKey>> = { size: 'bytes', use: 'uses', priority: 'priority' };
/** The columns with that by which the table is sorted. */
export const sortedBy = (kept: Kept, sort: string): Kept => {
  const key = Object.hasOwn(SORTED, sort) ? SORTED[sort] : undefined;
  return key && !isShown(kept, key) ? withShown(kept, key, true) : kept;
};

/** The tracks of the columns that show, for a grid. */
export const tracksOf = (kept: Kept): string =>
  COLUMN_KEYS.filter((key) => isShown(kept, key))
    .map((key) => (kept.widths[key] === undefined ? COLUMNS[key].track : `${kept.widths[key]}px`))
    .join(' ');

/** What an earlier visit left, whatever it is: what is not known is left out. */
export function readKept(text: string | undefined): Kept {
  try {
    const { shown = {}, widths = {} } = JSON.parse(text ?? '{}') as { shown?: object; widths?: object };
    const of = <T>(all: object, is: (value: unknown) => value is T) =>
      Object.fromEntries(Object.entries(all).filter(([key, value]) => key in COLUMNS && is(value)));
    return {
      shown: of(shown, (value): value is boolean => typeof value === 'boolean'),
      widths: of(widths, (value): value is number => typeof value === 'number' && value > 0 && value <= MOST),
    };
  } catch {
    return AS_USUAL;
  }
}

/** The columns as somebody likes them in this browser. */
export function useKeptColumns(): [Kept, (change: (before: Kept) => Kept) => void] {
  const [kept, setKept] = useLocalStorage<Kept>({
    key: 'idrel-columns',
    defaultValue: AS_USUAL,
    getInitialValueInEffect: false,
    deserialize: readKept,
  });
  return [kept, setKept];
}
