/** What is made of what, and what lies in what. */
export interface MadeOf {
  /** From a relation or a column to another. */
  readonly steps: readonly { readonly from: string; readonly to: string }[];
  /** Of each column the relation that it lies in. */
  readonly within: ReadonlyMap<string, string>;
}
export interface Inherited {
  readonly grade: number;
  readonly from: string;
  readonly distance: number;
}

/**
 * What everything inherits of what is made from it: the plain definition, to which what the database settles is held. The highest grade; of that the nearest
 * that has it itself, by steps upstream; of equally near ones the first id. Where a relation has it itself, the columns that its columns are made from are one
 * step away from it. What holds a column that has or inherits a grade has it with one step more, and hands on nothing of that.
 * @param own grades that things have themselves, by id; those of grade 0 hand on nothing
 */
export function inheritedPriority({ steps, within }: MadeOf, own: ReadonlyMap<string, number>): Map<string, Inherited> {
  const into = new Map<string, Set<string>>();
  const lead = (to: string, from: string) => into.set(to, (into.get(to) ?? new Set()).add(from));
  for (const { from, to } of steps) lead(to, from);
  const found = new Map<string, Inherited>();
  const offer = (id: string, other: Inherited) => {
    if (id === other.from) return;
    const now = found.get(id);
    const isBetter =
      !now ||
      other.grade > now.grade ||
      (other.grade === now.grade &&
        (other.distance < now.distance || (other.distance === now.distance && other.from < now.from)));
    if (isBetter) found.set(id, other);
  };
  for (const [seed, grade] of own) {
    if (grade === 0) continue;
    const columns = [...within].flatMap(([column, holder]) => (holder === seed ? [column] : []));
    const met = new Set<string>();
    let ring = [seed, ...columns];
    for (let distance = 1; ring.length > 0; distance += 1) {
      const next = new Set(ring.flatMap((id) => [...(into.get(id) ?? [])]).filter((id) => !met.has(id)));
      for (const id of next) {
        met.add(id);
        offer(id, { grade, from: seed, distance });
      }
      ring = [...next];
    }
  }
  for (const [column, { grade, from, distance }] of [...found]) {
    const holder = within.get(column);
    if (holder !== undefined) offer(holder, { grade, from, distance: distance + 1 });
  }
  for (const [column, grade] of own) {
    const holder = within.get(column);
    if (holder !== undefined && grade > 0) offer(holder, { grade, from: column, distance: 1 });
  }
  return found;
}
