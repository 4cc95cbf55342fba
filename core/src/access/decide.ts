import { isSameMask, masksTogether, ORGANISATION } from './maskKinds.ts';
import { appliedMask } from './masks.ts';
import {
  asShown,
  BY_EMAIL,
  type ColumnDecision,
  type DecidedLimit,
  type Opens,
  type Person,
  type Policy,
  type ReadableColumn,
  type ReadableTable,
  type Reason,
  type RowLimit,
  type TableDecision,
} from './types.ts';

/** Whether a policy is for a person, with the purpose that they state. */
export function isFor(policy: Policy, person: Person): boolean {
  if (policy.purposes.length > 0 && !(person.purpose !== null && policy.purposes.includes(person.purpose)))
    return false;
  return isForAnyPurpose(policy, person);
}

/** Whether a policy is for a person, whatever they read for. */
export function isForAnyPurpose(policy: Policy, person: Person): boolean {
  if (policy.share !== null && policy.share !== person.share) return false;
  if (policy.opens === 'preview' && !person.preview) return false;
  return isNamedBy(policy, person, !(policy.effect === 'allow' && person.outside));
}

/**
 * Whether a person is among those whom a policy names, whatever else it asks.
 * @param counted whether they are one of everyone
 */
export function isNamedBy(
  policy: Pick<Policy, 'everyone' | 'groups' | 'people' | 'exceptGroups'>,
  person: Pick<Person, 'id' | 'groups'>,
  counted = true,
): boolean {
  if (policy.exceptGroups.some((group) => person.groups.includes(group))) return false;
  return (
    (policy.everyone && counted) ||
    policy.people.includes(person.id) ||
    policy.groups.some((group) => person.groups.includes(group))
  );
}

const reasonOf = (policy: Policy): Reason => ({ policyId: policy.id, policy: policy.name, effect: policy.effect });

type Target = {
  readonly id: string;
  readonly name: string;
  readonly ancestors: readonly string[];
  readonly classes: readonly string[];
};

/** Whether a policy means a table or column: by its table or what is above it, by the column itself, by a class the column carries, by what its filter finds. */
function means(policy: Policy, target: Target): boolean {
  const listed = policy.assets.includes(target.id) || policy.assets.some((asset) => target.ancestors.includes(asset));
  const classed = policy.classes.some((key) => target.classes.includes(key));
  const matched =
    policy.matched !== null &&
    (policy.matched.has(target.id) || target.ancestors.some((asset) => policy.matched?.has(asset)));
  // What is said together narrows each other: e-mail addresses of these tables, of those what is tagged so.
  const said = [
    ...(policy.assets.length > 0 ? [listed] : []),
    ...(policy.classes.length > 0 ? [classed] : []),
    ...(policy.matched !== null ? [matched] : []),
  ];
  const meant = said.length > 0 && said.every(Boolean);
  return meant && (policy.columns === null || policy.columns.includes(target.name) !== policy.columnsBut);
}

/** Whether a policy holds for a column of a table, or for one whose values the column carries on. */
export function holdsFor(policy: Policy, table: ReadableTable, column: ReadableColumn): boolean {
  const protects = policy.effect !== 'allow';
  const here: Target = {
    id: column.id,
    name: column.name,
    ancestors: table.ancestors,
    classes: protects ? [...column.classes, ...column.held] : column.classes,
  };
  return means(policy, here) || (protects && policy.carried && column.origins.some((origin) => means(policy, origin)));
}

/** From this level on a preview shows no value. */
const GUARDED = 3;
export const NOT_IN_PREVIEW = 'a preview shows nothing guarded';

/**
 * How a column is read.
 * @param policies for the person; those that do not hold for the column change nothing
 * @param giftOf what whoever gave a policy on may pass on of the column; without it, what was given on opens nothing
 */
export function decideColumn(
  policies: readonly Policy[],
  table: ReadableTable,
  column: ReadableColumn,
  giftOf: (policy: Policy) => ColumnDecision | undefined = () => undefined,
): ColumnDecision {
  const holding = policies.filter((policy) => holdsFor(policy, table, column));
  const of = (effect: Policy['effect']) => holding.filter((policy) => policy.effect === effect);
  const base = { id: column.id, name: column.name, type: column.type, mask: null, instead: null };
  const denied = of('deny');
  if (denied.length > 0) return { ...base, access: 'refused', reasons: denied.map(reasonOf) };
  const allowed = of('allow').flatMap((policy): Allowed[] => {
    if (policy.giver === null) return [{ policy, gift: null }];
    const gift = giftOf(policy);
    return gift && gift.access !== 'refused' ? [{ policy, gift }] : [];
  });
  const best = bestOf(allowed);
  if (!best) return { ...base, access: 'refused', reasons: [] };
  const protecting = of('protect').filter((policy) => policy.mask !== null);
  const reasons = [...protecting, ...allowed.map(({ policy }) => policy)].map(reasonOf);
  const isPreview = best.policy.opens === 'preview';
  const said = [...protecting.flatMap((policy) => policy.mask ?? []), ...(best.gift?.mask ? [best.gift.mask] : [])];
  const applied = said.map((one) => appliedMask(one, column));
  const { mask, clash } = masksTogether(applied.map((one) => one.mask));
  const how = {
    reasons,
    ...(isPreview ? { preview: true } : {}),
    ...(best.gift ? { given: best.policy.id } : {}),
  };
  if (isPreview && (column.level ?? 0) >= GUARDED && mask?.kind !== 'blank')
    return { ...base, ...how, access: 'masked', mask: { kind: 'blank' }, instead: NOT_IN_PREVIEW };
  if (mask === null) return { ...base, ...how, access: 'plain' };
  const instead = clash ? CLASH : (applied.flatMap((one) => one.instead ?? [])[0] ?? best.gift?.instead ?? null);
  const isMeant = said.some((one) => isSameMask(one, mask));
  return { ...base, ...how, access: 'masked', mask, instead: isMeant ? (best.gift?.instead ?? null) : instead };
}

interface Allowed {
  readonly policy: Policy;
  /** What its giver may pass on of the column; null where it stands on its own. */
  readonly gift: ColumnDecision | null;
}
/** Of what opens a column that which opens it furthest: to be read before to be shown, what stands on its own before what was given on, as it is before masked. */
function bestOf(allowed: readonly Allowed[]): Allowed | undefined {
  const rank = ({ policy, gift }: Allowed) =>
    (policy.opens === 'preview' ? 4 : 0) + (gift ? 2 : 0) + (gift?.mask ? 1 : 0);
  return allowed.reduce<Allowed | undefined>(
    (best, one) => (best === undefined || rank(one) < rank(best) ? one : best),
    undefined,
  );
}

/** Why nothing is told where masks meet that cannot be reconciled. */
export const CLASH = 'several policies mask it, and what one tells another hides';

/** Whether a policy limits the rows of a table: it lists the table, what is above it, or one of its columns; with classes or a filter, only where a column is meant by these. */
function limitsRows(policy: Policy, table: ReadableTable): boolean {
  if (policy.effect !== 'protect' || policy.rows === null) return false;
  if (
    policy.classes.length > 0 ||
    policy.matched !== null ||
    !policy.assets.some((asset) => table.ancestors.includes(asset))
  ) {
    return table.columns.some((column) => holdsFor({ ...policy, columns: null, columnsBut: false }, table, column));
  }
  return true;
}

/** A row limit as it is for one reader of one table; of a table of rights that is not there, or elsewhere, comes nothing. */
function limitFor(
  { column, values, attribute, through, least }: RowLimit,
  person: Person,
  table: ReadableTable,
): DecidedLimit {
  if (least !== undefined) return { column, values: [], through: null, least };
  if (through) {
    const named = through.by === BY_EMAIL ? [person.email] : attributeOf(person, through.by);
    if (through.at?.sourceId !== table.sourceId) return { column, values: [], through: null };
    const { schema, name } = through.at;
    return { column, values: named, through: { schema, name, column: through.column, reader: through.reader } };
  }
  return { column, values: attribute === null ? values : attributeOf(person, attribute), through: null };
}

const attributeOf = (person: Pick<Person, 'attributes'>, key: string): readonly string[] =>
  Object.hasOwn(person.attributes, key) ? (person.attributes[key] ?? []) : [];

/** By what digests for one organisation differ from those for others. */
export const organisationOf = (person: Pick<Person, 'attributes'>): string =>
  attributeOf(person, ORGANISATION).join('\n');

/**
 * What a person may read of a table: deny over protect over allow, and without an allow nothing.
 *
 * @param policies those in force; they need not be for this person
 */
export function decideTable(policies: readonly Policy[], person: Person, table: ReadableTable): TableDecision {
  const mine = policies.filter((policy) => isFor(policy, person));
  return decidedBy(policies, mine, person, table, handsAt(HANDS_MOST));
}

/** Through so many hands at most a right goes: what was given on further than that opens nothing. */
export const HANDS_MOST = 5;
/** Through how many hands what is asked about may still have come, and what was found of givers on the way. Nobody holds a right by having given it away: each way ends at what stands on its own. */
interface Hands {
  readonly left: number;
  readonly known: Map<string, TableDecision>;
}
const handsAt = (left: number): Hands => ({ left, known: new Map() });

/**
 * What a person may pass on of a table: what policies open to them that let them, under the masks and row limits that hold for them.
 * @param opens how far what they pass on is to open
 */
export function passableOf(
  policies: readonly Policy[],
  person: Person,
  table: ReadableTable,
  opens: Opens,
): TableDecision {
  // Whoever it is given to holds it through one hand more.
  return passed(policies, asShown(person), table, opens, handsAt(HANDS_MOST - 1));
}

function passed(
  policies: readonly Policy[],
  person: Person,
  table: ReadableTable,
  opens: Opens,
  hands: Hands,
): TableDecision {
  const key = `${opens} ${hands.left} ${person.id}`;
  const known = hands.known.get(key);
  if (known) return known;
  const theirs = policies.filter(
    (policy) =>
      isFor(policy, person) &&
      (policy.effect !== 'allow' || (policy.passesOn && (policy.opens === 'read' || opens === 'preview'))),
  );
  const found = decidedBy(policies, theirs, person, table, hands);
  hands.known.set(key, found);
  return found;
}

function decidedBy(
  policies: readonly Policy[],
  mine: readonly Policy[],
  person: Person,
  table: ReadableTable,
  hands: Hands,
): TableDecision {
  const gifts = new Map<string, Gift>();
  for (const policy of mine) {
    const { id, giver, opens } = policy;
    if (giver === null || hands.left === 0) continue;
    // What asks for a purpose is passed on to who states it.
    const as = asShown({ ...giver, purpose: person.purpose });
    const { columns, rowLimits } = passed(policies, as, table, opens, { ...hands, left: hands.left - 1 });
    // By which policies the giver's rows are limited is not told to whoever it is given to.
    gifts.set(id, { columns, rowLimits: rowLimits.map((limit) => ({ ...limit, reason: reasonOf(policy) })) });
  }
  const columns = table.columns.map((column, at) =>
    decideColumn(mine, table, column, ({ id }) => gifts.get(id)?.columns[at]),
  );
  const unstated = policies.filter((policy) => isUnstated(policy, person));
  const decision = decided(mine, unstated, person, table, columns);
  return gifts.size === 0 ? decision : withRowsOf(gifts, decision);
}

/** What a giver may pass on, with the limits of their rows. */
type Gift = Pick<TableDecision, 'columns' | 'rowLimits'>;

const keyOfLimit = ({ column, values, through, least }: DecidedLimit): string =>
  JSON.stringify([column, values, through, least ?? null]);

/**
 * What was given on tells the rows that its giver is told, and no others. Where a person reads by gifts alone, these limits hold for them too; where they read
 * more of the table than that, a gift that would widen it opens nothing, so that it takes no row from them either.
 */
function withRowsOf(gifts: ReadonlyMap<string, Gift>, decision: TableDecision): TableDecision {
  const held = new Set(decision.rowLimits.map(keyOfLimit));
  const missing = (id: string | undefined) =>
    id === undefined ? [] : (gifts.get(id)?.rowLimits ?? []).filter((limit) => !held.has(keyOfLimit(limit)));
  const open = decision.columns.filter(({ access }) => access !== 'refused');
  if (open.every(({ given }) => missing(given).length === 0)) return decision;
  if (open.every(({ given }) => given !== undefined)) {
    const more = new Map(open.flatMap(({ given }) => missing(given)).map((limit) => [keyOfLimit(limit), limit]));
    return { ...decision, access: 'partly', rowLimits: [...decision.rowLimits, ...more.values()] };
  }
  const columns = decision.columns.map((column): ColumnDecision => {
    const limits = missing(column.given);
    if (limits.length === 0) return column;
    const { id, name, type } = column;
    return {
      id,
      name,
      type,
      access: 'refused',
      mask: null,
      instead: null,
      reasons: limits.map(({ reason }) => reason),
    };
  });
  return { ...decision, access: 'partly', columns };
}

/** Whether a policy would open something to a person who stated its purpose. */
export const isUnstated = (policy: Policy, person: Person): boolean =>
  policy.effect === 'allow' && isForAnyPurpose(policy, person) && !isFor(policy, person);

/**
 * What a person may read of a table, by policies that were chosen beforehand: each that holds for something of it must be among them.
 * @param mine those for the person that may mean the table or one of its columns
 * @param unstated those that would be, if the person stated a purpose
 * @param columns how its columns are read, in their order
 */
export function decided(
  mine: readonly Policy[],
  unstated: readonly Policy[],
  person: Person,
  table: ReadableTable,
  columns: readonly ColumnDecision[],
): TableDecision {
  const rowLimits = mine
    .filter((policy) => limitsRows(policy, table))
    .flatMap((policy) => (policy.rows ? [{ ...limitFor(policy.rows, person, table), reason: reasonOf(policy) }] : []));
  const purposes = unstated
    .filter((policy) => table.columns.some((column) => holdsFor(policy, table, column)))
    .flatMap((policy) => policy.purposes);
  const open = columns.filter((column) => column.access !== 'refused').length;
  const whole = rowLimits.length === 0 && columns.every((column) => column.access === 'plain' && !column.preview);
  return {
    tableId: table.id,
    schema: table.schema,
    name: table.name,
    access: open === 0 ? 'no' : whole ? 'yes' : 'partly',
    columns,
    purposes: [...new Set(purposes)].sort(),
    rowLimits,
  };
}
