/** How a class is carried: a detector's claim that is still to settle, or certain; a claim that was confirmed; or a person's word alone. */
export type HowCarried = 'to-settle' | 'certain' | 'confirmed' | 'person';

/** What is said of a class and an asset: what the organisation makes of a detector's claim, and what somebody decided. */
export interface Said {
  readonly assetId: string;
  readonly classKey: string;
  readonly found: 'to-settle' | 'certain' | 'confirmed' | 'dismissed' | null;
  readonly decided: 'confirmed' | 'dismissed' | null;
}
export interface Carrier {
  readonly id: string;
  readonly parentId: string | null;
  readonly kind: string;
  readonly gone: boolean;
}
/** A class that an asset carries: itself, or since something inside of it does. */
export interface Carried {
  readonly assetId: string;
  readonly classKey: string;
  readonly fromId: string;
  readonly via: 'itself' | 'inside';
  readonly how: HowCarried;
}

/** How a class is carried by what is said of it; undefined when it is not. A person's word stands above a detector's. */
export function howCarried({ found, decided }: Pick<Said, 'found' | 'decided'>): HowCarried | undefined {
  if (decided === 'dismissed') return undefined;
  if (decided === 'confirmed') return found === null ? 'person' : 'confirmed';
  return found === null || found === 'dismissed' ? undefined : found;
}

/**
 * What is carried, by its plain definition: each asset what is said of it, and what holds a column what the column carries, as long as the column is there.
 * The catalog settles the same for what was touched; a test holds the two together.
 */
export function carriedBy(carriers: ReadonlyMap<string, Carrier>, said: readonly Said[]): Carried[] {
  return said.flatMap((one): Carried[] => {
    const how = howCarried(one);
    const carrier = carriers.get(one.assetId);
    if (!how || !carrier) return [];
    const { classKey } = one;
    const itself: Carried = { assetId: carrier.id, classKey, fromId: carrier.id, via: 'itself', how };
    if (carrier.kind !== 'column' || carrier.parentId === null || carrier.gone) return [itself];
    return [itself, { assetId: carrier.parentId, classKey, fromId: carrier.id, via: 'inside', how }];
  });
}
