import { both } from '@idrel/core/catalog';

/** The address of the catalog that shows what all of these filters find. */
export const opens = (...filters: string[]): string => `/catalog?filter=${encodeURIComponent(both(...filters))}`;
