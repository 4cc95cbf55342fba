/** Something a table or a type has, by its name: an index, a check, a trigger … */
export interface Part {
  readonly name: string;
  /** As the source writes it. */
  readonly definition: string;
  /** Columns or expressions that it is over, in its order. */
  readonly columns?: readonly string[];
  readonly unique?: true;
  /** It is there and does not hold: a trigger that is switched off, an index that is not valid, a check that was never held against the rows. */
  readonly off?: true;
  readonly comment?: string;
}

/** The kinds of parts of a table, each with its words for one and for many. */
export const PART_KINDS = {
  uniques: ['unique constraint', 'Unique constraints'],
  indexes: ['index', 'Indexes'],
  checks: ['check', 'Checks'],
  exclusions: ['exclusion', 'Exclusions'],
  triggers: ['trigger', 'Triggers'],
  rules: ['rule', 'Rules'],
} as const;
export type PartKind = keyof typeof PART_KINDS;

/** What a table has beside its columns. A kind of which it has none is left out. */
export type TableDetails = { readonly [kind in PartKind]?: readonly Part[] } & {
  /** Tables whose columns it has taken over, in their order. */
  readonly inherits?: readonly string[];
};

/** An argument of a routine. */
export interface Argument {
  readonly name: string;
  /** How it goes: in, out, both, any number of them, or a column of the table that is given back. */
  readonly mode: 'in' | 'out' | 'inout' | 'variadic' | 'table';
  readonly type: string;
  readonly default?: string;
}

/** What a source says of a function or procedure. Facts that it does not have are left out. */
export interface RoutineFacts {
  readonly arguments: readonly Argument[];
  readonly returns?: string;
  readonly language?: string;
  readonly volatility?: string;
  /** Aggregate, window or trigger function; nothing for the others. */
  readonly form?: string;
  /** Whose rights it runs with. */
  readonly runsAs?: 'its owner' | 'whoever calls it';
  readonly definition?: string;
}

/** What a source says of a type that somebody made. */
export interface TypeFacts {
  readonly form: 'enumeration' | 'domain' | 'composite' | 'range';
  /** Of an enumeration, in its order. */
  readonly values?: readonly string[];
  /** Of a domain or a range: the type it is made of. */
  readonly base?: string;
  readonly default?: string;
  /** False when a domain forbids missing values. */
  readonly nullable?: boolean;
  readonly checks?: readonly Part[];
  /** Of a composite type. */
  readonly attributes?: readonly { readonly name: string; readonly type: string; readonly comment?: string }[];
}

/** What a source says of a sequence. Numbers are texts: they can be larger than a number holds exactly. */
export interface SequenceFacts {
  readonly type: string;
  readonly start: string;
  readonly step: string;
  readonly least: string;
  readonly most: string;
  readonly cycles?: true;
  /** The column whose values it gives, as `schema.table.column`. */
  readonly ownedBy?: string;
}

const DETAIL_KINDS = Object.keys(PART_KINDS) as PartKind[];

function partDifferences(word: string, before: readonly Part[], after: readonly Part[]): string[] {
  const known = new Map(before.map((part) => [part.name, part]));
  const found = new Map(after.map((part) => [part.name, part]));
  return [
    ...after.flatMap((part) => {
      const was = known.get(part.name);
      if (!was) return [`${word} ${part.name}: new`];
      if (was.definition !== part.definition || (was.unique ?? false) !== (part.unique ?? false))
        return [`${word} ${part.name}: changed`];
      if ((was.off ?? false) !== (part.off ?? false))
        return [`${word} ${part.name}: ${part.off ? 'no longer holds' : 'holds again'}`];
      return was.comment === part.comment ? [] : [`${word} ${part.name}: comment`];
    }),
    ...before.filter((part) => !found.has(part.name)).map((part) => `${word} ${part.name}: gone`),
  ];
}

/**
 * What of a table's parts is different between two readings, in words, one entry a part.
 * @param before undefined when they were not read then: what is known now is no change at the source
 */
export function detailDifferences(before: TableDetails | undefined, after: TableDetails | undefined): string[] {
  if (!before) return [];
  const told = DETAIL_KINDS.flatMap((kind) =>
    partDifferences(PART_KINDS[kind][0], before[kind] ?? [], after?.[kind] ?? []),
  );
  const [was, is] = [before, after].map((details) => (details?.inherits ?? []).join(', ') || 'nothing');
  return was === is ? told : [...told, `inherits: ${was} → ${is}`];
}

/** What of the checks of a type is different, in words. */
export const checkDifferences = (before: readonly Part[] | undefined, after: readonly Part[] | undefined): string[] =>
  partDifferences('check', before ?? [], after ?? []);

/** What values came to and went from an enumeration; nothing but their order changed otherwise. */
export function valueDifferences(before: readonly string[], after: readonly string[]): string[] {
  const told = [
    ...after.filter((value) => !before.includes(value)).map((value) => `value ${value}: new`),
    ...before.filter((value) => !after.includes(value)).map((value) => `value ${value}: gone`),
  ];
  return told.length > 0 || before.join('\0') === after.join('\0') ? told : ['order of the values'];
}
