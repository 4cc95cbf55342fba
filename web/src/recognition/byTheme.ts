import type { DetectorAnswer } from '@idrel/contract/recognition';

/** Detectors by theme, in the order of their list. */
export function byTheme<D extends Pick<DetectorAnswer, 'theme'>>(
  detectors: readonly D[],
): [theme: string, detectors: D[]][] {
  const themes = new Map<string, D[]>();
  for (const detector of detectors) themes.set(detector.theme, [...(themes.get(detector.theme) ?? []), detector]);
  return [...themes];
}
