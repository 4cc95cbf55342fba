import { isSameMask, masksTogether, ORGANISATION } from './maskKinds.ts';
import { appliedMask } from './masks.ts';
import {
  BY_EMAIL,
  type ColumnDecision,
  type DecidedLimit,
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
  if (policy.exceptGroups.some((group) => person.groups.includes(group))) return false;
  return (
    (policy.everyone && !(policy.effect === 'allow' && person.outside)) ||
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

/** How a column is read. @param policies for the person; those that do not hold for the column change nothing */
export function decideColumn(
  policies: readonly Policy[],
  table: ReadableTable,
  column: ReadableColumn,
): ColumnDecision {
  const holding = policies.filter((policy) => holdsFor(policy, table, column));
  const of = (effect: Policy['effect']) => holding.filter((policy) => policy.effect === effect);
  const base = { id: column.id, name: column.name, type: column.type, mask: null, instead: null };
  const denied = of('deny');
  if (denied.length > 0) return { ...base, access: 'refused', reasons: denied.map(reasonOf) };
  const allowed = of('allow');
  if (allowed.length === 0) return { ...base, access: 'refused', reasons: [] };
  const protecting = of('protect').filter((policy) => policy.mask !== null);
  const reasons = [...protecting, ...allowed].map(reasonOf);
  const applied = protecting.flatMap((policy) => (policy.mask ? [appliedMask(policy.mask, column)] : []));
  const { mask, clash } = masksTogether(applied.map((one) => one.mask));
  if (mask === null) return { ...base, access: 'plain', reasons };
  const instead = clash ? CLASH : (applied.flatMap((one) => one.instead ?? [])[0] ?? null);
  const isMeant = protecting.some((policy) => policy.mask && isSameMask(policy.mask, mask));
  return { ...base, access: 'masked', mask, instead: isMeant ? null : instead, reasons };
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
  const unstated = policies.filter((policy) => isUnstated(policy, person));
  return decided(
    mine,
    unstated,
    person,
    table,
    table.columns.map((column) => decideColumn(mine, table, column)),
  );
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
  const whole = rowLimits.length === 0 && columns.every((column) => column.access === 'plain');
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
