import type { ColumnProfile } from '@idrel/contract/catalog';

const number = (value: number): string =>
  value !== 0 && (Math.abs(value) >= 1e15 || Math.abs(value) < 1e-4)
    ? value.toExponential(3)
    : value.toLocaleString('en', { maximumFractionDigits: Math.abs(value) >= 1000 ? 0 : Math.abs(value) >= 1 ? 2 : 4 });

/** A figure of a column as people read it: a number, or a point in time, as exact as the span asks for. */
export function figure(value: number, { measure, span }: Pick<ColumnProfile, 'measure' | 'span'>): string {
  if (measure !== 'time') return number(value);
  const time = new Date(value * 1000);
  if (Number.isNaN(time.getTime())) return number(value);
  const text = time.toISOString();
  return span && span.to - span.from < 3 * 86_400 ? text.slice(0, 16).replace('T', ' ') : text.slice(0, 10);
}

/** Where the histogram's steps lie, in words. */
export const stepsOf = (profile: ColumnProfile): { label: string; rows: number }[] => {
  const { span, histogram } = profile;
  if (!span || !histogram) return [];
  const width = (span.to - span.from) / histogram.length;
  return histogram.map((rows, index) => ({
    label: `${figure(span.from + index * width, profile)} to ${figure(span.from + (index + 1) * width, profile)}`,
    rows,
  }));
};

/** From the smallest to the largest, in a few words; empty when that is not kept. */
export function extent(profile: ColumnProfile): string {
  if (profile.span)
    return profile.span.from === profile.span.to
      ? figure(profile.span.from, profile)
      : `${figure(profile.span.from, profile)} … ${figure(profile.span.to, profile)}`;
  if (profile.first === null || profile.last === null) return '';
  const short = (text: string) => (text.length > 24 ? `${text.slice(0, 23)}…` : text);
  return profile.first === profile.last ? short(profile.first) : `${short(profile.first)} … ${short(profile.last)}`;
}

/** What the profile rests on. */
export const basis = ({ rows, whole }: Pick<ColumnProfile, 'rows' | 'whole'>): string =>
  whole ? `all ${rows.toLocaleString('en')} rows` : `a random sample of ${rows.toLocaleString('en')} rows`;
