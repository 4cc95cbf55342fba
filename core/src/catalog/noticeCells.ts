import { NOTICE_KINDS, type NoticeKind } from './facts.ts';

/** So long a notice is at most, and a remark. */
export const NOTICE_LONGEST = 2000;
export const REMARK_LONGEST = 4000;

/** A notice as a cell of a sheet says it. */
export interface NoticeCell {
  readonly kind: NoticeKind;
  readonly text: string;
  /** Days as in 2026-11-27; null: from the day on which it is taken in, or until it is ended. */
  readonly starts: string | null;
  readonly ends: string | null;
}

/** `caution 2026-12-01 to 2026-12-31: Goes with the new year`. */
export const noticeInCell = ({ kind, text, starts, ends }: NoticeCell): string =>
  `${kind}${starts ? ` ${starts}` : ''}${ends ? ` to ${ends}` : ''}: ${text.replace(/\s+/g, ' ').trim()}`;

const isDay = (text: string): boolean => {
  const day = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(day.getTime()) && day.toISOString().startsWith(text);
};

/** Reads a notice off a cell; undefined where it is none. */
export function noticeIn(cell: string): NoticeCell | undefined {
  const match =
    /^\s*([a-z]+)(?:\s+(\d{4}-\d{2}-\d{2}))?(?:\s+(?:to|until)\s+(\d{4}-\d{2}-\d{2}))?\s*:\s*(.*\S)\s*$/is.exec(cell);
  const kind = NOTICE_KINDS.find((one) => one === match?.[1]?.toLowerCase());
  const [starts = null, ends = null, text = ''] = match?.slice(2) ?? [];
  if (!kind || [starts, ends].some((day) => day !== null && !isDay(day)) || (starts && ends && ends < starts))
    return undefined;
  return { kind, text: text.replace(/\s+/g, ' '), starts, ends };
}

/** Whether one that stands already is what a cell says: a day that the cell leaves out may be any. */
export const isSameNotice = (said: NoticeCell, there: NoticeCell): boolean =>
  said.kind === there.kind &&
  said.text === there.text &&
  (said.starts === null || said.starts === there.starts) &&
  said.ends === there.ends;
