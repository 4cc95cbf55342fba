import { decideColumn, decided, decideTable, isFor, isUnstated } from './decide.ts';
import type { ColumnDecision, Person, Policy, ReadableColumn, ReadableTable, TableDecision } from './types.ts';

/** Positions of policies, in the order in which they are told. */
type Places = readonly number[];
const NONE: Places = [];

/**
 * Decides for many people and tables by the same policies. Whether a policy is for somebody, and whether it can mean a table, is looked up and not
 * asked of each policy. What comes out is what `decideTable` says, which is the definition; a property test holds the two together.
 */
export class Engine {
  readonly policies: readonly Policy[];
  readonly #forAll: number[] = [];
  readonly #byPerson = new Map<string, number[]>();
  readonly #byGroup = new Map<string, number[]>();
  readonly #byAsset = new Map<string, number[]>();
  readonly #byClass = new Map<string, number[]>();
  /** Policies that hold for whatever their filter finds, and for nothing that they list. */
  readonly #byFilter: number[] = [];
  readonly #carries: boolean;
  readonly #gives: boolean;
  readonly #any: Uint8Array;
  /** People for whom the same policies are share what was chosen of them. */
  readonly #readers = new Map<string, Chosen>();
  readonly #known = new WeakMap<Person, Reader>();

  /** @param policies those in force; they are not changed while the engine is used */
  constructor(policies: readonly Policy[]) {
    this.policies = policies;
    for (const [place, policy] of policies.entries()) {
      if (policy.everyone) this.#forAll.push(place);
      for (const id of policy.people) add(this.#byPerson, id, place);
      for (const id of policy.groups) add(this.#byGroup, id, place);
      // What is said together narrows each other: one of them is enough to find it by.
      if (policy.assets.length > 0) for (const id of policy.assets) add(this.#byAsset, id, place);
      else if (policy.classes.length > 0) for (const key of policy.classes) add(this.#byClass, key, place);
      else if (policy.matched !== null) this.#byFilter.push(place);
    }
    this.#any = new Uint8Array(policies.length).fill(MINE);
    this.#carries = policies.some(({ carried, effect }) => carried && effect !== 'allow');
    this.#gives = policies.some(({ giver }) => giver !== null);
  }

  /** All that is decided for one person. */
  for(person: Person): Reader {
    const known = this.#known.get(person) ?? this.#reader(person);
    this.#known.set(person, known);
    return known;
  }

  #reader(person: Person): Reader {
    const candidates = new Set<number>(this.#forAll);
    for (const place of this.#byPerson.get(person.id) ?? NONE) candidates.add(place);
    for (const group of person.groups) for (const place of this.#byGroup.get(group) ?? NONE) candidates.add(place);
    const mine: number[] = [];
    const unstated: number[] = [];
    for (const place of [...candidates].sort((a, b) => a - b)) {
      const policy = this.policies[place] as Policy;
      if (isFor(policy, person)) mine.push(place);
      else if (isUnstated(policy, person)) unstated.push(place);
    }
    // Of what was given on it can be another's policies that ask for a purpose.
    const key = `${mine.join(' ')}/${unstated.join(' ')}${this.#gives ? `/${person.purpose ?? ''}` : ''}`;
    const chosen = this.#readers.get(key) ?? this.#choose(mine, unstated);
    this.#readers.set(key, chosen);
    return new Reader(this, person, chosen, key);
  }

  /** Policies that may mean a table, or one of its columns, for anybody: all that do are among them. */
  meaning(table: ReadableTable): Policy[] {
    const all: Chosen = { isMine: this.#any, byFilter: this.#byFilter };
    const found = new Set<number>();
    this.atTable(table, all, found);
    for (const column of table.columns) this.atColumn(column, all, found);
    return [...found].sort((a, b) => a - b).map((place) => this.policies[place] as Policy);
  }

  #choose(mine: Places, unstated: Places): Chosen {
    const isMine = new Uint8Array(this.policies.length);
    for (const place of mine) isMine[place] = MINE;
    for (const place of unstated) isMine[place] = UNSTATED;
    return { isMine, byFilter: this.#byFilter.filter((place) => isMine[place] !== 0) };
  }

  /** Policies for a person that may mean all of a table, since they list what it lies in or their filter finds that. @internal */
  atTable({ ancestors }: Pick<ReadableTable, 'ancestors'>, { isMine, byFilter }: Chosen, found: Set<number>): void {
    for (const id of ancestors)
      for (const place of this.#byAsset.get(id) ?? NONE) if (isMine[place] !== 0) found.add(place);
    for (const place of byFilter) {
      const matched = this.policies[place]?.matched;
      if (ancestors.some((id) => matched?.has(id))) found.add(place);
    }
  }

  /** Those that may mean a column itself, or one whose values it carries on. @internal */
  atColumn(column: ReadableColumn, { isMine, byFilter }: Chosen, found: Set<number>): void {
    const take = (places: Places | undefined) => {
      for (const place of places ?? NONE) if (isMine[place] !== 0) found.add(place);
    };
    take(this.#byAsset.get(column.id));
    for (const key of column.classes) take(this.#byClass.get(key));
    for (const key of column.held) take(this.#byClass.get(key));
    for (const place of byFilter) if (this.policies[place]?.matched?.has(column.id)) found.add(place);
    if (!this.#carries) return;
    for (const origin of column.origins) {
      take(this.#byAsset.get(origin.id));
      for (const id of origin.ancestors) take(this.#byAsset.get(id));
      for (const key of origin.classes) take(this.#byClass.get(key));
      for (const place of byFilter) {
        const matched = this.policies[place]?.matched;
        if (matched?.has(origin.id) || origin.ancestors.some((id) => matched?.has(id))) found.add(place);
      }
    }
  }
}

const MINE = 1;
const UNSTATED = 2;

/** Which policies are for a person: 0 where one is not, else whether it is, or would be for a purpose. */
interface Chosen {
  readonly isMine: Uint8Array;
  readonly byFilter: Places;
}

/** What one person may read, by the policies of an engine. */
export class Reader {
  readonly #engine: Engine;
  readonly #person: Person;
  readonly #chosen: Chosen;
  /** Which policies are for the person: of whom it is the same read the same columns. */
  readonly key: string;

  constructor(engine: Engine, person: Person, chosen: Chosen, key: string) {
    this.#engine = engine;
    this.#person = person;
    this.#chosen = chosen;
    this.key = key;
  }

  /** As `decideTable` says. */
  decide(table: ReadableTable): TableDecision {
    const all = new Set<number>();
    this.#engine.atTable(table, this.#chosen, all);
    const whole = this.#listed(all);
    const every = new Set(all);
    // Most columns of a table are read alike, since nothing but what the table lies in decides on them.
    let alike: Omit<ColumnDecision, 'id' | 'name' | 'type'> | undefined;
    const columns = table.columns.map((column) => {
      const own = new Set<number>();
      this.#engine.atColumn(column, this.#chosen, own);
      let grew = false;
      for (const place of own)
        if (!all.has(place)) {
          every.add(place);
          grew = true;
        }
      if (grew) return decideColumn(this.#listed(new Set([...all, ...own])).mine, table, column);
      if (alike) return { id: column.id, name: column.name, type: column.type, ...alike };
      const decision = decideColumn(whole.mine, table, column);
      if (whole.isEven) {
        const { id: _, name: __, type: ___, ...rest } = decision;
        alike = rest;
      }
      return decision;
    });
    const { mine, unstated } = every.size === all.size ? whole : this.#listed(every);
    if (mine.some(isGiven)) return this.#byDefinition(table);
    return decided(mine, unstated, this.#person, table, columns);
  }

  /** How the person reads one column of a table: as {@link decide} says of it, for less. */
  column(table: ReadableTable, column: ReadableColumn): ColumnDecision {
    const found = new Set<number>();
    this.#engine.atTable(table, this.#chosen, found);
    this.#engine.atColumn(column, this.#chosen, found);
    const { mine } = this.#listed(found);
    if (!mine.some(isGiven)) return decideColumn(mine, table, column);
    const columns = table.columns.some(({ id }) => id === column.id) ? table.columns : [column];
    return (
      this.#byDefinition({ ...table, columns }).columns.find(({ id }) => id === column.id) ??
      decideColumn([], table, column)
    );
  }

  /** What was given on rests on policies for whoever gave it: these are looked up as well. */
  #byDefinition(table: ReadableTable): TableDecision {
    return decideTable(this.#engine.meaning(table), this.#person, table);
  }

  #listed(found: ReadonlySet<number>): Listed {
    if (found.size === 0) return EMPTY;
    const places = [...found].sort((a, b) => a - b);
    const of = (what: number) =>
      places
        .filter((place) => this.#chosen.isMine[place] === what)
        .map((place) => this.#engine.policies[place] as Policy);
    const mine = of(MINE);
    return { mine, unstated: of(UNSTATED), isEven: mine.every(isEven) };
  }
}

/** Whether a policy that lists what a table lies in means all of its columns alike, and shows nothing of them by what they are. */
const isEven = ({ columns, classes, matched, mask, opens, giver }: Policy): boolean =>
  columns === null && classes.length === 0 && matched === null && mask === null && opens === 'read' && giver === null;
const isGiven = ({ giver }: Policy): boolean => giver !== null;

interface Listed {
  readonly mine: readonly Policy[];
  readonly unstated: readonly Policy[];
  /** Whether they mean all columns of a table alike. */
  readonly isEven: boolean;
}
const EMPTY: Listed = { mine: [], unstated: [], isEven: true };

function add(index: Map<string, number[]>, key: string, place: number): void {
  const known = index.get(key);
  if (known) {
    if (known.at(-1) !== place) known.push(place);
  } else index.set(key, [place]);
}
