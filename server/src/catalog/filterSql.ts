import {
  type Comparison,
  type Filter,
  isOfPaths,
  isUntold,
  isYes,
  levelNumber,
  likePattern,
  meaningOf,
  meantTogether,
  priorityGrade,
  rangeOf,
  sizeOf,
  stretchOf,
  wantedWords,
} from '@idrel/core/catalog';
import { fold } from '@idrel/core/text';
import { isSeen } from '../people/index.ts';
import { ARRIVED } from './classesSql.ts';
import { PRIORITY } from './prioritySql.ts';
import { BYTES, pathOf } from './rows.ts';

/** Collects values to bind while a statement is written. */
export class Binder {
  readonly values: unknown[] = [];
  add(value: unknown): string {
    this.values.push(value);
    return `$${this.values.length}`;
  }
}

/** Folds a text in SQL as `fold` of core does: lower case, without marks. */
const folded = (expression: string) =>
  `regexp_replace(normalize(replace(replace(replace(replace(lower(${expression}), 'ø', 'o'), 'ł', 'l'), 'æ', 'ae'), 'ß', 'ss'), NFD), '[\\u0300-\\u036f\\u1ab0-\\u1aff\\u20d0-\\u20ff]', '', 'g')`;

const people = (role: string) =>
  `select p.name from asset_person ap join party p on p.id = ap.person_id where ap.asset_id = a.id and ap.role = '${role}'`;
/** Tags that an asset carries, and those with a value also with it. @param which of the rows of `tag_here h` */
const tags = (which: string) =>
  `select v.name from tag_here h cross join lateral (values (h.name), (nullif(h.name || '/' || h.value, h.name || '/'))) v(name) where h.asset_id = a.id and ${which} and v.name is not null`;
/** Names that hang on each asset itself, looked up for it. */
const LISTS = {
  owner: people('owner'),
  steward: people('steward'),
  custodian: people('custodian'),
  expert: people('expert'),
  tag: tags('true'),
  came: tags('h.distance is not null'),
  notice: 'select n.kind as name from notice n where n.asset_id = a.id and n.holds',
  term: 'select t.name from asset_term at join term t on t.id = at.term_id and t.removed_at is null where at.asset_id = a.id',
} as const;

/** Sets that are worked out once for the whole search, however many assets it looks at; `wanted` is the condition on the name. */
const SETS = {
  source: {
    of: 'a.source_id',
    ids: (wanted: (name: string) => string) => `select s.id from source s where ${wanted('s.name')}`,
  },
  domain: {
    of: 'a.domain_id',
    ids: (wanted: (name: string) => string) =>
      `
        with recursive down as (
          select d.id
          from domain d
          where ${wanted('d.name')}
          union
          select d.id
          from domain d
          join down on d.parent_id = down.id
        )
        select id
        from down`,
  },
} as const;

function inSet({ of, ids }: (typeof SETS)[keyof typeof SETS], value: string, binder: Binder): string {
  const wanted = fold(value);
  if (wanted === 'none') return `${of} not in (${ids(() => 'true')})`;
  if (wanted === 'any') return `${of} in (${ids(() => 'true')})`;
  const bound = binder.add(wanted);
  return `${of} in (${ids((name) => `${folded(name)} = ${bound}`)})`;
}

/** Assets that carry some class; what is gone keeps its classes, and is found by none. */
const carrying = (condition: string): string =>
  `(a.gone_at is null and a.id in (select k.asset_id from carried k where ${condition}))`;

/** Assets that carry a class. Keys of classes are written in small ASCII letters: they are compared as they are. */
function carries(values: readonly string[], binder: Binder): string {
  const wanted = [...new Set(values.map(fold))];
  const named = wanted.filter((value) => value !== 'none' && value !== 'any');
  return [
    ...(wanted.includes('none') ? [`not ${carrying('true')}`] : []),
    ...(wanted.includes('any') ? [carrying('true')] : []),
    ...(named.length > 0 ? [carrying(`k.class_key = any(${binder.add(named)}::text[])`)] : []),
  ]
    .map((part) => `(${part})`)
    .join(' or ');
}

/** Assets to which a class came along lineage. */
function arrivedAt(value: string, binder: Binder): string {
  const wanted = fold(value);
  const at = (condition: string) =>
    `(a.gone_at is null and a.id in (select arrived.asset_id from ${ARRIVED} where ${condition}))`;
  if (wanted === 'none') return `not ${at('true')}`;
  return at(wanted === 'any' ? 'true' : `arrived.class_key = ${binder.add(wanted)}`);
}

/** A word that every asset has, of those that Idrel itself gives: they are written in small ASCII letters. */
function isWord(column: string, value: string, binder: Binder): string {
  const wanted = fold(value);
  return wanted === 'none' ? 'false' : wanted === 'any' ? 'true' : `${column} = ${binder.add(wanted)}`;
}

function inList(list: string, value: string, binder: Binder): string {
  const wanted = fold(value);
  if (wanted === 'none') return `not exists (${list})`;
  if (wanted === 'any') return `exists (${list})`;
  return `exists (select 1 from (${list}) as l(name) where ${folded('l.name')} = ${binder.add(wanted)})`;
}

const negatedUnless = (yes: boolean, condition: string) => (yes ? condition : `not (${condition})`);

const TYPE = "coalesce(a.native ->> 'type', a.native ->> 'returns', a.native ->> 'form')";
const CALLS = 'floor(coalesce((select u.calls from asset_use u where u.asset_id = a.id), 0))';
const ASKED = '(select u.moved_at from asset_use u where u.asset_id = a.id)';

/** Sources that tell what is asked of them, by roles of theirs. */
export const TELLING =
  'select q.source_id from asked_statement q where exists (select from asked_by b where b.statement_id = q.id and b.role is not null)';

/** When an asset was certified, as long as that holds. */
const CERTIFIED =
  "(select c.at from certification c where c.asset_id = a.id and c.lapsed_at is null and a.standing = 'trusted')";
/** When a source `s` was last read. */
export const READ =
  "(select max(r.ended_at) from scan_run r where r.source_id = s.id and r.state in ('done', 'partly done'))";

/** Whether a number lies from one value up to, not including, another; either may be infinite. */
function within(expression: string, [least, most]: readonly [number, number], binder: Binder): string {
  const bound = (value: number) => `${binder.add(String(value))}::float8`;
  return `coalesce(${expression} >= ${bound(least)} and ${expression} < ${bound(most)}, false)`;
}

const when = (expression: string, comparison: Comparison, date: string, binder: Binder): string => {
  const stretch = stretchOf(date);
  return stretch
    ? within(`extract(epoch from ${expression})::float8 * 1000`, rangeOf(comparison, stretch.from, stretch.to), binder)
    : 'false';
};

/** The same of what may never have been. */
function whenever(expression: string, comparison: Comparison, value: string, binder: Binder): string {
  const word = value.toLowerCase();
  if (word === 'none' || word === 'any') return `${expression} is ${word === 'none' ? '' : 'not '}null`;
  return when(expression, comparison, value, binder);
}

const pathFits = (asset: string, source: string, pattern: string) =>
  `${folded(`${pathOf(asset, source)} collate "default"`)} like ${pattern}`;

/** Ids of assets that are called so. */
function called(value: string, binder: Binder): string {
  const pattern = binder.add(likePattern(value));
  return `
    select p.id
    from asset p
    join source ps on ps.id = p.source_id
    where ${folded('p.name collate "default"')} like ${pattern}${isOfPaths(value) ? ` or ${pathFits('p', 'ps', pattern)}` : ''}`;
}

/** What lies below assets that are called so, worked out once for the whole search. */
const under = (value: string, { binder }: Asked): string =>
  `
    a.id in (
      with recursive below as (
        select c.id
        from asset c
        where c.parent_id in (${called(value, binder)})
        union
        select c.id
        from below
        join asset c on c.parent_id = below.id
      )
      select id
      from below
    )`;

/** What assets that are called so, or what lies below them, are made from, or what is made from these, worked out once for the whole search. */
function around(way: 'upstream' | 'downstream', value: string, { binder, seen }: Asked): string {
  const [near, far] = way === 'upstream' ? ['to_id', 'from_id'] : ['from_id', 'to_id'];
  return `
    a.id in (
      with recursive below as (
        ${called(value, binder)}
        union
        select c.id
        from below
        join asset c on c.parent_id = below.id
      ),
      met as (
        select step.${far} as id
        from ${STEPS} step
        where step.${near} in (select b.id from below b join asset x on x.id = b.id where ${isSeen('x', seen)})
        union
        select step.${far}
        from met
        join ${STEPS} step on step.${near} = met.id
      )
      select id
      from met
    )`;
}
/** Whether an asset is made from something, or something from it, in one step, that whoever asks may see. */
function lineage(value: string, { seen }: Asked): string {
  const has = (near: string, far: string) =>
    `exists (select 1 from ${STEPS} step join asset x on x.id = step.${far} where step.${near} = a.id and ${isSeen('x', seen)})`;
  const [isMade, makes] = [has('to_id', 'from_id'), has('from_id', 'to_id')];
  switch (value.toLowerCase()) {
    case 'in':
      return isMade;
    case 'out':
      return makes;
    case 'both':
      return `${isMade} and ${makes}`;
    case 'none':
      return `not ${isMade} and not ${makes}`;
    case 'any':
      return `${isMade} or ${makes}`;
    default:
      return 'false';
  }
}
/** What is made from what, in one step. */
const STEPS =
  '(select from_id, to_id from lineage_feed union all select from_id, to_id from lineage_edge where not wrong)';

/** What a condition is written with: values are bound, and others' domains say nothing about what is upstream or downstream of assets. */
interface Asked {
  readonly binder: Binder;
  /** The place of the ids of the domains in which whoever asks may read. */
  readonly seen: string;
}

function condition(filter: Extract<Filter, { type: 'is' }>, value: string, asked: Asked): string {
  const { binder } = asked;
  switch (filter.key) {
    case 'missing':
    case 'person':
    case 'via':
      return written(meaningOf({ ...filter, values: [value] }) as Filter, asked);
    case 'class':
      return carries([value], binder);
    case 'arrived':
      return arrivedAt(value, binder);
    case 'described':
      return negatedUnless(isYes(value), `coalesce(a.description, '') <> ''`);
    case 'gone':
      return negatedUnless(isYes(value), 'a.gone_at is not null');
    case 'priority': {
      const grade = priorityGrade(value);
      return Number.isNaN(grade) ? 'false' : `${PRIORITY} ${filter.comparison} ${binder.add(grade)}`;
    }
    case 'level':
      return level(filter.comparison, value, binder);
    case 'name':
      return `${folded('a.name collate "default"')} like ${binder.add(likePattern(value))}`;
    case 'type': {
      const wanted = fold(value);
      if (wanted === 'none' || wanted === 'any') return `${TYPE} is ${wanted === 'none' ? '' : 'not '}null`;
      return `coalesce(${folded(TYPE)} like ${binder.add(likePattern(value))}, false)`;
    }
    case 'used':
      if (isUntold(value)) return `a.source_id not in (${TELLING})`;
      if (!/^\d+$/.test(value)) return `${CALLS} ${isYes(value) ? '> 0' : '= 0'}`;
      return within(CALLS, rangeOf(filter.comparison, Number(value), Number(value) + 1), binder);
    case 'size': {
      const word = value.toLowerCase();
      if (word === 'none' || word === 'any') return `${BYTES} is ${word === 'none' ? '' : 'not '}null`;
      const size = sizeOf(value);
      return size === undefined ? 'false' : within(BYTES, rangeOf(filter.comparison, size, size + 1), binder);
    }
    case 'lineage':
      return lineage(value, asked);
    case 'asked':
      return whenever(ASKED, filter.comparison, value, binder);
    case 'certified':
      return whenever(CERTIFIED, filter.comparison, value, binder);
    case 'fresh':
      return `a.source_id in (select s.id from source s where ${whenever(READ, filter.comparison, value, binder)})`;
    case 'path':
      return pathFits('a', 's', binder.add(likePattern(value)));
    case 'under':
      return under(value, asked);
    case 'upstream':
    case 'downstream':
      return around(filter.key, value, asked);
    case 'changed':
      return when('coalesce(a.changed_at, a.first_seen)', filter.comparison, value, binder);
    case 'created':
      return when('a.first_seen', filter.comparison, value, binder);
    case 'kind':
      return isWord('a.kind', value, binder);
    case 'standing':
      return isWord('a.standing::text', value, binder);
    case 'source':
    case 'domain':
      return inSet(SETS[filter.key], value, binder);
    default:
      return inList(LISTS[filter.key], value, binder);
  }
}

function level(comparison: Comparison, value: string, binder: Binder): string {
  if (value.toLowerCase() === 'none') return 'a.level is null';
  if (value.toLowerCase() === 'any') return 'a.level is not null';
  const wanted = levelNumber(value);
  return wanted === undefined ? 'false' : `coalesce(a.level ${comparison} ${binder.add(wanted)}, false)`;
}

/** A lexeme of a tsquery: quoted, so that it holds whatever it is made of. */
const lexeme = (word: string, whole: boolean): string =>
  `'${word.replaceAll('\\', '\\\\').replaceAll("'", "''")}'${whole ? '' : ':*'}`;

/**
 * Columns whose words follow from their name alone keep them with the name; an asset has the words of its terms and its tags, too, and it has those of its guide, of what is discussed about it, and of what is asked of it: each of the places has an index.
 * Ask for one word at a time, or for any of some: of several the places may have some each.
 */
const hasWords = (asked: string) =>
  `
    (a.words <> '' and a.words @@ ${asked})
      or (a.words = '' and a.name = any(array(select n.name from name_words n where n.words @@ ${asked})))
      or a.id = any(array(
        select at.asset_id from asset_term at join term t on t.id = at.term_id where t.removed_at is null and t.words @@ ${asked}
      ))
      or a.id = any(array(
        select at.asset_id from tag_here at join tag t on t.id = at.tag_id where t.words @@ ${asked}
      ))
      or a.id = any(array(
        select at.asset_id
        from tag_value_words v
        join tag_here at on at.value = v.value and at.value <> ''
        where v.words @@ ${asked}
      ))
      or a.id = any(array(select w.asset_id from said_words w where w.words @@ ${asked}))`;

const isClass = (filter: Filter): filter is Extract<Filter, { type: 'is' }> =>
  filter.type === 'is' && filter.key === 'class';
const isPlainClass = (filter: Filter) =>
  isClass(filter) && filter.values.length === 1 && !['none', 'any'].includes(fold(filter.values[0] ?? ''));

/** Parts that are asked for at once what each would ask for by itself: any of some words as one question to the indexes, classes as one look at what carries them. */
function together(parts: readonly Filter[], how: 'all' | 'any', asked: Asked): string[] {
  const { binder } = asked;
  // Any of some words is one question; all of them are one each.
  const words = parts.filter(
    (part) => how === 'any' && part.type === 'word' && wantedWords(part.text).length === 1,
  ) as Extract<Filter, { type: 'word' }>[];
  const classes = parts.filter((part) => (how === 'any' ? isClass(part) : isPlainClass(part))) as Extract<
    Filter,
    { type: 'is' }
  >[];
  const rest = parts.filter((part) => !(words as Filter[]).includes(part) && !(classes as Filter[]).includes(part));
  const found: string[] = [];
  if (words.length > 0) {
    const any = [...new Set(words.flatMap(lexemes))].join(' | ');
    found.push(hasWords(`${binder.add(any)}::tsquery`));
  }
  const keys = [...new Set(classes.flatMap((part) => part.values))];
  if (keys.length > 0)
    found.push(
      how === 'any' || keys.length === 1
        ? carries(keys, binder)
        : carrying(
            `k.class_key = any(${binder.add(keys.map(fold))}::text[]) group by 1 having count(distinct k.class_key) = ${binder.add(new Set(keys.map(fold)).size)}::int`,
          ),
    );
  return [...found, ...rest.map((part) => written(part, asked))];
}

const lexemes = ({ text, whole }: Extract<Filter, { type: 'word' }>): string[] =>
  wantedWords(text).map((word) => lexeme(word, whole));

/**
 * The condition on `asset a` of `source s` that a filter means. It gives the same answer as `passes` of core for every asset (a property test holds them together).
 * Values are bound, never pasted.
 * @param seen the place where ids of the domains are bound in which whoever asks may read
 */
export const filterToSql = (filter: Filter, binder: Binder, seen: string): string => written(filter, { binder, seen });

function written(filter: Filter, asked: Asked): string {
  const { binder } = asked;
  switch (filter.type) {
    case 'all':
    case 'any':
      if (filter.of.length === 0) return filter.type === 'all' ? 'true' : 'false';
      return together(filter.type === 'all' ? meantTogether(filter.of) : filter.of, filter.type, asked)
        .map((part) => `(${part})`)
        .join(filter.type === 'all' ? ' and ' : ' or ');
    case 'not':
      return `not (${written(filter.of, asked)})`;
    case 'word':
      return ['true', ...lexemes(filter).map((word) => `(${hasWords(`${binder.add(word)}::tsquery`)})`)].join(' and ');
    case 'is':
      if (filter.key === 'class') return carries(filter.values, binder);
      return filter.values.map((value) => `(${condition(filter, value, asked)})`).join(' or ');
  }
}
