import { type CarryingStep, spread, TRAVEL_KINDS, type TravelKind } from '../catalog/index.ts';

export { type CarryingStep, TRAVEL_KINDS, type TravelKind };

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
  readonly via: 'itself' | 'inside' | 'lineage';
  readonly how: HowCarried;
  /** How many steps away the column is from which it came by lineage. */
  readonly distance: number | null;
}

/** How a class is carried by what is said of it; undefined when it is not. A person's word stands above a detector's. */
export function howCarried({ found, decided }: Pick<Said, 'found' | 'decided'>): HowCarried | undefined {
  if (decided === 'dismissed') return undefined;
  if (decided === 'confirmed') return found === null ? 'person' : 'confirmed';
  return found === null || found === 'dismissed' ? undefined : found;
}

/** Kinds of steps by which a class goes on, where nothing else is said of it: the value itself arrives, not only a count, a sum or a mask of it. */
export const USUAL_TRAVEL: readonly TravelKind[] = ['copied', 'transformed'];

/**
 * What comes by lineage, by its plain definition: from whatever carries a class itself (and not only as a claim to settle), by steps of the kinds that carry this
 * class on, to whatever does not carry it itself; each by the shortest way, of equal ones from the first asset by id. What refuses the class does not pass it on.
 * @param itself what is carried itself
 * @param kindsOf the kinds of steps by which a class goes on
 */
export function travelled(
  itself: readonly Carried[],
  said: readonly Said[],
  steps: readonly CarryingStep[],
  kindsOf: (classKey: string) => readonly string[],
): Carried[] {
  return [...new Set(itself.map((one) => one.classKey))].flatMap((classKey) => {
    const refused = new Set(
      said.filter((one) => one.classKey === classKey && one.decided === 'dismissed').map(({ assetId }) => assetId),
    );
    const settled = new Map(
      itself.filter((one) => one.classKey === classKey && one.how !== 'to-settle').map((one) => [one.assetId, one.how]),
    );
    return spread([...settled.keys()], steps, kindsOf(classKey), (id) => refused.has(id)).map(
      ({ id, fromId, distance }): Carried => ({
        assetId: id,
        classKey,
        fromId,
        via: 'lineage',
        how: settled.get(fromId) as HowCarried,
        distance,
      }),
    );
  });
}

/**
 * What is carried, by its plain definition: each asset what is said of it, and what comes to it by lineage; and what holds a column what the column carries, as long
 * as the column is there. The catalog settles the same for what was touched; a test holds the two together.
 */
export function carriedBy(
  carriers: ReadonlyMap<string, Carrier>,
  said: readonly Said[],
  steps: readonly CarryingStep[] = [],
  kindsOf: (classKey: string) => readonly string[] = () => USUAL_TRAVEL,
): Carried[] {
  const itself = said.flatMap((one): Carried[] => {
    const how = howCarried(one);
    return how && carriers.has(one.assetId)
      ? [{ assetId: one.assetId, classKey: one.classKey, fromId: one.assetId, via: 'itself', how, distance: null }]
      : [];
  });
  // Something that holds what it comes from does not get it by lineage.
  const came = travelled(itself, said, steps, kindsOf).filter(
    ({ assetId, fromId }) => carriers.get(fromId)?.parentId !== assetId,
  );
  const inside = new Map<string, Carried>();
  for (const { assetId, classKey, how } of [...itself, ...came]) {
    const carrier = carriers.get(assetId);
    if (carrier?.kind !== 'column' || carrier.parentId === null || carrier.gone) continue;
    const known = inside.get(`${assetId} ${classKey}`);
    if (!known || known.how === 'to-settle')
      inside.set(`${assetId} ${classKey}`, {
        assetId: carrier.parentId,
        classKey,
        fromId: assetId,
        via: 'inside',
        how,
        distance: null,
      });
  }
  return [...itself, ...came, ...inside.values()];
}
