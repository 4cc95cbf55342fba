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

/** A step by which a value comes from one asset to another. */
export interface CarryingStep {
  readonly from: string;
  readonly to: string;
  readonly kind: string;
  /** Somebody said that it is wrong. */
  readonly wrong: boolean;
}
/** Kinds of steps by which a class can go on; a mask never passes it. */
export const TRAVEL_KINDS = ['copied', 'transformed', 'aggregated'] as const;
export type TravelKind = (typeof TRAVEL_KINDS)[number];
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
  const found: Carried[] = [];
  for (const classKey of new Set(itself.map((one) => one.classKey))) {
    const kinds = kindsOf(classKey);
    const open = steps.filter((step) => !step.wrong && kinds.includes(step.kind));
    const refused = new Set(
      said.filter((one) => one.classKey === classKey && one.decided === 'dismissed').map(({ assetId }) => assetId),
    );
    const settled = itself.filter((one) => one.classKey === classKey && one.how !== 'to-settle');
    const met = new Map(settled.map((one) => [one.assetId, one]));
    let ring = settled;
    for (let distance = 1; ring.length > 0; distance += 1) {
      const next = new Map<string, Carried>();
      for (const { assetId, fromId, how } of ring)
        for (const { to } of open.filter((step) => step.from === assetId)) {
          if (met.has(to) || refused.has(to)) continue;
          const known = next.get(to);
          if (!known || fromId < known.fromId)
            next.set(to, { assetId: to, classKey, fromId, via: 'lineage', how, distance });
        }
      ring = [...next.values()];
      for (const one of ring) met.set(one.assetId, one);
      found.push(...ring);
    }
  }
  return found;
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
