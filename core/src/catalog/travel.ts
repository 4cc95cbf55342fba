/** A step by which a value comes from one asset to another. */
export interface CarryingStep {
  readonly from: string;
  readonly to: string;
  readonly kind: string;
  /** Somebody said that it is wrong. */
  readonly wrong: boolean;
}
/** Kinds of steps by which something can go on; a mask never passes it. */
export const TRAVEL_KINDS = ['copied', 'transformed', 'aggregated'] as const;
export type TravelKind = (typeof TRAVEL_KINDS)[number];

/** Where something came to along lineage: from where it stands itself, and by how many steps. */
export interface CameTo {
  readonly id: string;
  readonly fromId: string;
  readonly distance: number;
}

/**
 * Where something comes to by steps of some kinds, by its plain definition: each place by the shortest way, of equal ones from the first by id. It does not come to
 * where it stands itself, nor where it is kept out, and goes no further from there.
 * @param from where it stands itself
 * @param steps in any order
 * @param kinds of the steps by which it goes on
 */
export function spread(
  from: readonly string[],
  steps: readonly CarryingStep[],
  kinds: readonly string[],
  keptOut: (id: string) => boolean,
): CameTo[] {
  const open = steps.filter((step) => !step.wrong && kinds.includes(step.kind));
  const met = new Set(from);
  const found: CameTo[] = [];
  let ring = from.map((id) => ({ id, fromId: id }));
  for (let distance = 1; ring.length > 0; distance += 1) {
    const next = new Map<string, CameTo>();
    for (const { id, fromId } of ring)
      for (const { to } of open.filter((step) => step.from === id)) {
        if (met.has(to) || keptOut(to)) continue;
        const known = next.get(to);
        if (!known || fromId < known.fromId) next.set(to, { id: to, fromId, distance });
      }
    ring = [...next.values()];
    for (const { id } of ring) met.add(id);
    found.push(...next.values());
  }
  return found;
}

/** A tag that was given to an asset. */
export interface GivenTag {
  readonly assetId: string;
  readonly tagId: string;
  readonly value: string;
}
/** By which kinds of steps a tag goes on, and which kinds of asset may carry it; null: all. */
export interface TravellingTag {
  readonly travels: readonly string[];
  readonly kinds: readonly string[] | null;
}
/** An asset by which tags go: what holds a column is where the tags of the table stand. */
export interface TagPlace {
  readonly kind: string;
  readonly parentId: string | null;
}
export interface CameTag extends GivenTag {
  readonly fromId: string;
  readonly distance: number;
}

/**
 * The steps of tags: those of the edges, for tags that stand at columns; and for tags of tables each of them from what holds the one column to what holds the other.
 */
function tagSteps(steps: readonly CarryingStep[], places: ReadonlyMap<string, TagPlace>): CarryingStep[] {
  const seenIn = (id: string) => {
    const place = places.get(id);
    return place?.kind === 'column' ? place.parentId : id;
  };
  return steps.flatMap((step) => {
    const [from, to] = [seenIn(step.from), seenIn(step.to)];
    return from && to && from !== to ? [step, { ...step, from, to }] : [step];
  });
}

/**
 * Which tags come where along lineage, by their plain definition: each value of each tag spreads from what was given it; not to what was given the tag itself, with
 * whichever value, nor to what refuses it, nor to kinds that may not carry it.
 */
export function travelledTags(
  given: readonly GivenTag[],
  refused: readonly Pick<GivenTag, 'assetId' | 'tagId'>[],
  steps: readonly CarryingStep[],
  places: ReadonlyMap<string, TagPlace>,
  rules: ReadonlyMap<string, TravellingTag>,
): CameTag[] {
  const taken = tagSteps(steps, places);
  return [...rules].flatMap(([tagId, { travels, kinds }]) => {
    const own = given.filter((one) => one.tagId === tagId);
    const out = new Set([...own, ...refused.filter((one) => one.tagId === tagId)].map(({ assetId }) => assetId));
    const keptOut = (id: string) => out.has(id) || (kinds !== null && !kinds.includes(places.get(id)?.kind ?? ''));
    return [...new Set(own.map(({ value }) => value))].flatMap((value) =>
      spread(
        own.filter((one) => one.value === value).map(({ assetId }) => assetId),
        taken,
        travels,
        keptOut,
      ).map(({ id, fromId, distance }) => ({ assetId: id, tagId, value, fromId, distance })),
    );
  });
}
