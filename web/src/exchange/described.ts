import { DESCRIBED_AS, DESCRIBED_MANY_AS, type DescribedAs } from '@idrel/core/exchange/formats';

/** A format with the address at which a file of it is made. */
export interface Out {
  readonly as: DescribedAs;
  readonly name: string;
  readonly about: string;
  readonly href: string;
}

const out = (as: DescribedAs, path: string, more: Readonly<Record<string, string>>): Out => ({
  as,
  name: DESCRIBED_AS[as].name,
  about: DESCRIBED_AS[as].about,
  href: `/api/v1/${path}?${new URLSearchParams({ as, ...more })}`,
});

/** The open formats of one asset. @param columns whether it has any of its own */
export const outsOf = (id: string, columns: boolean): readonly Out[] =>
  (Object.keys(DESCRIBED_AS) as DescribedAs[])
    .filter((as) => columns || (DESCRIBED_MANY_AS as readonly string[]).includes(as))
    .map((as) => out(as, 'described', { address: `/assets/${id}` }));

/** Those of what a filter finds. */
export const outsOfFound = (filter: string, under: string): readonly Out[] =>
  DESCRIBED_MANY_AS.map((as) => out(as, 'described-many', { filter, ...(under ? { under } : {}) }));
