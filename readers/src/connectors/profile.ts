import {
  type ColumnProfile,
  type Measure,
  PROFILE_BUCKETS,
  PROFILE_FREQUENT,
  PROFILE_LARGEST,
  PROFILE_LONGEST,
  PROFILE_PATTERNS,
  PROFILE_QUANTILES,
} from '@idrel/core/scanning';

/** What differs between the databases that work profiles out themselves. */
export interface ProfileDialect {
  /** The number behind a value that was made text; null for what is none. */
  readonly number: (value: string) => string;
  /** Seconds since 1970 behind a time that was made text. */
  readonly seconds: (value: string) => string;
  /** Replaces all that a class of characters matches. */
  readonly replace: (value: string, pattern: 'digit' | 'capitals' | 'small', by: string) => string;
  /** Makes text compare by its code points, whatever the language of the database. */
  readonly plain: (value: string) => string;
}

/**
 * One statement that works out the profiles of all columns of a table: its rows are read once, each column's values are grouped once, and the rest
 * follows from the groups. It means the same as `profileOf` of core.
 * @param rows SQL of the rows, each column as an expression that gives text
 * @returns SQL of rows `what, k, a, b, c, d` for {@link readProfiles}
 */
export function profileSql(
  from: string,
  columns: readonly { readonly text: string; readonly measure: Measure }[],
  dialect: ProfileDialect,
): string {
  const places = (measure: Measure) =>
    columns.flatMap((column, index) => (column.measure === measure ? [index] : [])).join(', ') || '-1';
  const pattern = dialect.replace(dialect.replace(dialect.replace('val', 'digit', '9'), 'capitals', 'A'), 'small', 'a');
  const list = columns.map((_, index) => `c${index}`).join(', ');
  return `
    with s as materialized (
      select ${columns.map((column, index) => `left(${column.text}, ${PROFILE_LONGEST}) as c${index}`).join(', ')}
      from ${from}
    ),
    u as materialized (
      select k, val, count(*) as n
      from (select unnest(array[${columns.map((_, index) => index).join(', ')}]) as k, unnest(array[${list}]) as val from s) x
      where val is not null
      group by k, val
    ),
    numbers as materialized (
      select k, n, x
      from (
        select
          k, n, case when k in (${places('time')}) then ${dialect.seconds('val')} else ${dialect.number('val')} end as x
        from u
        where k in (${places('number')}, ${places('time')})
      ) q
      where x between -${PROFILE_LARGEST}::float8 and ${PROFILE_LARGEST}::float8
    ),
    spans as (select k, min(x) as lo, max(x) as hi, sum(x * n) / sum(n) as mean, sum(n) as n from numbers group by k),
    upto as (select k, x, sum(n) as own, sum(sum(n)) over (partition by k order by x) as n from numbers group by k, x),
    frequent as (
      select k, val, n, row_number() over (partition by k order by n desc, ${dialect.plain('val')}) as place
      from u
      where n > 1
    ),
    built as (
      select k, p, n, row_number() over (partition by k order by n desc, ${dialect.plain('p')}) as place
      from (select k, left(${pattern}, 40) as p, sum(n) as n from u where k in (${places('text')}) group by 1, 2) q
    )
    select 'rows' as what, -1 as k, null::text as a, count(*)::float8 as b, 0::float8 as c, 0::float8 as d
    from s
    union all
    select 'basic', k, null, count(*)::float8, sum(n)::float8, 0
    from u
    group by k
    union all
    select
      'length', k, null, min(length(val))::float8, max(length(val))::float8, (sum(length(val) * n) * 1.0 / sum(n))::float8
    from u
    group by k
    union all
    select 'first', k, min(${dialect.plain('val')}), 0, 0, 0
    from u
    where k in (${places('text')})
    group by k
    union all
    select 'last', k, max(${dialect.plain('val')}), 0, 0, 0
    from u
    where k in (${places('text')})
    group by k
    union all
    select 'frequent', k, val, n::float8, place::float8, 0
    from frequent
    where place <= ${PROFILE_FREQUENT}
    union all
    select 'pattern', k, p, n::float8, place::float8, 0
    from built
    where place <= ${PROFILE_PATTERNS}
    union all
    select 'span', k, null, lo, hi, mean
    from spans
    union all
    select 'quantile', c.k, null, q.share::float8, min(c.x), 0
    from upto c
    join spans s on s.k = c.k
    cross join (values ${PROFILE_QUANTILES.map((share) => `(${share})`).join(', ')}) as q(share)
    where c.n >= q.share * s.n and c.n - c.own < q.share * s.n
    group by c.k, q.share
    union all
    select
      'bucket', m.k, null,
      (
        case
          when s.hi = s.lo then 0
          else least(${PROFILE_BUCKETS - 1}, floor((m.x - s.lo) / (s.hi - s.lo) * ${PROFILE_BUCKETS}))
        end
      )::float8,
      sum(m.n)::float8, 0
    from numbers m
    join spans s on s.k = m.k
    group by 2, 4
    order by 1, 2, 5`;
}

export type ProfileRow = readonly [what: string, k: number, a: string | null, b: number, c: number, d: number];

/** Puts the answer of {@link profileSql} together, a profile for each column in order. */
export function readProfiles(
  rows: readonly ProfileRow[],
  measures: readonly Measure[],
  isWhole: (rows: number) => boolean,
): ColumnProfile[] {
  const counted = rows.find(([what]) => what === 'rows')?.[3] ?? 0;
  const of = new Map<string, ProfileRow[]>();
  for (const row of rows) {
    const place = `${row[0]} ${row[1]}`;
    const known = of.get(place);
    known ? known.push(row) : of.set(place, [row]);
  }
  return measures.map((measure, k) => {
    const all = (what: string) => of.get(`${what} ${k}`) ?? [];
    const [basic, length, span] = [all('basic')[0], all('length')[0], all('span')[0]];
    const quantiles = [...all('quantile')].sort((a, b) => a[3] - b[3]).map((row) => row[4]);
    const histogram = new Array<number>(PROFILE_BUCKETS).fill(0);
    for (const [, , , bucket, n] of all('bucket')) histogram[bucket] = n;
    return {
      measure,
      rows: counted,
      whole: isWhole(counted),
      nulls: counted - (basic?.[4] ?? 0),
      distinct: basic?.[3] ?? 0,
      length: length ? { min: length[3], max: length[4], mean: length[5] } : null,
      patterns: all('pattern').map((row) => [row[2] ?? '', row[3]] as const),
      guarded: false,
      first: all('first')[0]?.[2] ?? null,
      last: all('last')[0]?.[2] ?? null,
      span: span ? { from: span[3], to: span[4], mean: span[5] } : null,
      quantiles: span ? quantiles : null,
      frequent: all('frequent').map((row) => [row[2] ?? '', row[3]] as const),
      histogram: span ? histogram : null,
    };
  });
}
