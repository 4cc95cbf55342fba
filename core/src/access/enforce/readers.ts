import { organisationOf } from '../decide.ts';
import { Engine, type Reader } from '../engine.ts';
import { type Mask, masksTogether } from '../maskKinds.ts';
import {
  BY_EMAIL,
  type DecidedLimit,
  type Person,
  type Policy,
  type ReadableTable,
  type TableDecision,
} from '../types.ts';

/** A login of a source with all who come in as it. */
export interface KnownLogin {
  readonly login: string;
  readonly people: readonly Person[];
}

/** A column that some readers see, as it is or under a mask. */
export interface OpenColumn {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  readonly mask: Mask | null;
}

/** What some readers see of a table. */
export interface OpenTable {
  readonly table: ReadableTable;
  readonly columns: readonly OpenColumn[];
  /** All of them must hold for a row to be seen. */
  readonly limits: readonly DecidedLimit[];
}

/** Logins that see the same of all tables. */
export interface Readers {
  readonly logins: readonly string[];
  /** Of those who come in as them, by which some digests differ. */
  readonly organisation: string;
  readonly tables: readonly OpenTable[];
}

/**
 * Types whose text a session's settings make coarser or finer: whoever reads could choose which part is shown, digest a value at each coarseness, or have noise
 * drawn anew and take the mean.
 */
const WRITTEN_BY_SETTINGS = /^(real|double precision|float[48]?|money)\b/i;
/** Types of which a session's time zone decides the day: moved over the edge of a month, a moment tells where it lies. */
const IN_A_ZONE = /with time zone|^timestamptz|^timetz/i;
/** Types that are written alike in every session. */
const ALWAYS_WRITTEN_ALIKE =
  /^(text|character|character varying|varchar|char|bpchar|citext|name|smallint|integer|bigint|int[248]?|numeric|decimal|boolean|bool|uuid)(\([\d, ]+\))?$/i;
const FROM_TEXT: ReadonlySet<string> = new Set(['partial', 'substitute', 'digest', 'noise', 'general district']);
const FROM_DAY: ReadonlySet<string> = new Set(['general year', 'general month', 'general age']);

/**
 * A policy as a database can hold it: what is allowed at hours, for a stated purpose or for a preview only is not allowed there, since a right knows none of these; what is
 * kept at hours is kept always.
 */
export function heldByDatabase(policies: readonly Policy[]): Policy[] {
  return policies
    .filter(
      ({ effect, hours, purposes, opens }) =>
        effect !== 'allow' || (hours === null && purposes.length === 0 && opens === 'read'),
    )
    .map((policy) => ({ ...policy, hours: null }));
}

/**
 * Sorts the logins of a source by what they may see of its tables. Of a login that several people share, what each of them may see.
 *
 * @param policies in force, as {@link heldByDatabase} gives them
 * @returns those who see something, in the order of their first logins
 */
export function readersOfSource(
  policies: readonly Policy[],
  logins: readonly KnownLogin[],
  tables: readonly ReadableTable[],
): Readers[] {
  const engine = new Engine(policies);
  // Of people only what a row limit asks for can make a difference beside the policies that are for them.
  const asked = new Set(
    policies
      .flatMap(({ rows }) => (rows ? [rows.attribute ?? rows.through?.by ?? ''] : []))
      .filter((key) => key !== ''),
  );
  const like = (person: Person, reader: Reader) =>
    JSON.stringify([
      reader.key,
      organisationOf(person),
      asked.has(BY_EMAIL) ? person.email : null,
      [...asked].sort().map((key) => (Object.hasOwn(person.attributes, key) ? person.attributes[key] : null)),
    ]);
  const alike = new Map<string, { logins: string[]; people: readonly Person[] }>();
  for (const { login, people } of logins) {
    if (people.length === 0) continue;
    const distinct = new Map(people.map((person) => [like(person, engine.for(person)), person]));
    const key = JSON.stringify([...distinct.keys()].sort());
    const known = alike.get(key);
    if (known) known.logins.push(login);
    else alike.set(key, { logins: [login], people: [...distinct.values()] });
  }
  const found = new Map<string, { logins: string[]; organisation: string; tables: OpenTable[] }>();
  for (const { logins: mine, people } of alike.values()) {
    const organisations = new Set(people.map(organisationOf));
    const open = tables.flatMap((table) => {
      const decisions = people.map((person) => engine.for(person).decide(table));
      return openTo(table, decisions, organisations.size === 1) ?? [];
    });
    if (open.length === 0) continue;
    const organisation = [...organisations].sort().join('\n\n');
    const key = JSON.stringify([organisation, open.map(({ table, ...rest }) => [table.id, rest])]);
    const known = found.get(key);
    if (known) known.logins.push(...mine);
    else found.set(key, { logins: [...mine], organisation, tables: open });
  }
  return [...found.values()]
    .map((readers) => ({ ...readers, logins: [...readers.logins].sort() }))
    .sort((one, other) => ((one.logins[0] ?? '') < (other.logins[0] ?? '') ? -1 : 1));
}

/** What all of some people may see of a table; undefined for nothing. */
function openTo(
  table: ReadableTable,
  decisions: readonly TableDecision[],
  oneOrganisation: boolean,
): OpenTable | undefined {
  const columns = table.columns.flatMap((column, place): OpenColumn[] => {
    const those = decisions.map((decision) => decision.columns[place]);
    if (those.some((one) => !one || one.access === 'refused')) return [];
    const { mask } = masksTogether(those.flatMap((one) => (one?.mask ? [one.mask] : [])));
    const { id, name, type } = column;
    return [{ id, name, type, mask: mask && settled(mask, type, oneOrganisation) }];
  });
  if (columns.length === 0) return undefined;
  const limits = new Map<string, DecidedLimit>();
  for (const { rowLimits } of decisions)
    for (const { reason: _, ...limit } of rowLimits) {
      const type = table.columns.find(({ name }) => name === limit.column)?.type ?? '';
      // Compared as texts: where a session could choose these, it could choose its rows.
      const held = ALWAYS_WRITTEN_ALIKE.test(type) ? limit : { column: limit.column, values: [], through: null };
      limits.set(JSON.stringify(held), held);
    }
  return { table, columns, limits: [...limits.values()] };
}

/** A mask that holds whatever a session sets, and for people of several organisations. */
function settled(mask: Mask, type: string, oneOrganisation: boolean): Mask {
  const what = mask.kind === 'general' ? `general ${mask.to}` : mask.kind;
  const chosenByReader =
    (FROM_TEXT.has(what) && WRITTEN_BY_SETTINGS.test(type)) || (FROM_DAY.has(what) && IN_A_ZONE.test(type));
  const forOthers = 'keyed' in mask && mask.keyed === 'organisation' && !oneOrganisation;
  return chosenByReader || forOthers ? { kind: 'blank' } : mask;
}
