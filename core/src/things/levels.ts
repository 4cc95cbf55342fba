/** Sensitivity levels, lowest first: the words by which searches and files know them, whatever an organisation calls them. */
export const LEVELS = ['open', 'internal', 'guarded', 'sealed'] as const;
export type LevelName = (typeof LEVELS)[number];
/** A place in {@link LEVELS}, counted from one. */
export type Level = 1 | 2 | 3 | 4;
