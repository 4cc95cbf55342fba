import type { Schedule } from '@idrel/contract/scanning';
import { nextTimes } from '@idrel/core/scanning';

export const isoTimes = (schedule: Schedule | null, now: number): string[] =>
  schedule ? nextTimes(schedule, now, 5).map((time) => new Date(time).toISOString()) : [];

export const nextAt = (schedule: Schedule | null): string | null => isoTimes(schedule, Date.now())[0] ?? null;
