import type { ManyAction } from '@idrel/contract/curation';
import type { RoutineReplay, RoutineStep } from '@idrel/contract/routines';
import {
  type AssetFacts,
  asOf,
  DATED,
  type Filter,
  NO_FACTS,
  parseFilter,
  passes,
  showsGone,
  where,
  writeFilter,
} from '@idrel/core/catalog';
import {
  backwards,
  type Conditions,
  conditionsOf,
  holderOf,
  type Leaf,
  type Lived,
  replay,
  type Was,
} from '@idrel/core/routines';
import { LEVELS } from '@idrel/core/things';
import { readFilter, type WithFinder } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { begunAt, type Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { checkSteps, foundFor, stepInWords } from './steps.ts';

/** Days that are looked back to, and assets that can be among what was found on them. */
const [DAYS, MOST] = [30, 20_000];
const DAY = 86_400_000;
/** So many are looked back at before others are served. */
const AT_ONCE = 200;

type Key = Extract<Leaf, { type: 'is' }>['key'];
/** Where the journal has what was said of an asset, by the key that asks for it. */
const IN_JOURNAL: Partial<Record<Key, string>> = {
  owner: 'owners',
  steward: 'stewards',
  custodian: 'custodians',
  term: 'terms',
  tag: 'tags',
  standing: 'standing',
  described: 'description',
};
/** What is kept as it was, whoever changed it. */
const KEPT: readonly Key[] = ['level', 'domain', 'gone', 'class'];
/** What is known only as it is now. */
const AS_NOW: readonly Key[] = ['used', 'size', 'lineage', 'priority', 'notice', 'came', 'arrived', 'expert'];

const holdsOf = (leaf: Leaf, facts: Partial<AssetFacts>) => passes(leaf, { ...NO_FACTS, ...facts });
const isOf = (leaf: Leaf, keys: readonly Key[]): boolean => leaf.type === 'is' && keys.includes(leaf.key);
const isSaid = (leaf: Leaf): boolean => leaf.type === 'is' && IN_JOURNAL[leaf.key] !== undefined;
const isDated = (leaf: Leaf): boolean => isOf(leaf, DATED);
const isKept = (leaf: Leaf): boolean => isOf(leaf, KEPT);

/** What an action makes of an asset, as a search finds it; null where nothing asks for that. */
async function asMade(db: Db, action: ManyAction): Promise<Filter | null> {
  const named = async (sql: string, id: string) => (await db.one<{ name: string }>(sql, [id]))?.name;
  const not = (text: string | null) => text && ('remove' in action && action.remove ? `not (${text})` : text);
  const made = async (): Promise<string | null> => {
    switch (action.kind) {
      case 'standing':
        return where('standing', action.standing);
      case 'description':
        return where('described', 'yes');
      case 'level':
        return action.level === null ? null : where('level', LEVELS[action.level - 1] ?? '');
      case 'class':
        return where('class', action.key);
      case 'owner':
      case 'steward':
      case 'custodian': {
        const name = await named('select name from party where id = $1', action.id);
        return name ? where(action.kind, name) : null;
      }
      case 'term': {
        const name = await named('select name from term where id = $1', action.id);
        return name ? where('term', name) : null;
      }
      case 'tag': {
        const name = await named('select name from tag where id = $1', action.id);
        return name ? where('tag', action.value ? `${name}/${action.value}` : name) : null;
      }
      case 'domain': {
        const name = action.id && (await named('select name from domain where id = $1', action.id));
        return name ? where('domain', name) : null;
      }
      default:
        return null;
    }
  };
  const text = not(await made());
  return text ? parseFilter(text) : null;
}

/** What every asset is, gone or not. */
const EVERY: Filter = { type: 'is', key: 'gone', comparison: '=', values: ['yes', 'no'] };

/** A filter that finds at least all that this one ever found: what can have been otherwise is not asked for. */
function weakened(filter: Filter, varies: (leaf: Leaf) => boolean, wanted = true): Filter {
  switch (filter.type) {
    case 'all':
    case 'any':
      return { type: filter.type, of: filter.of.map((part) => weakened(part, varies, wanted)) };
    case 'not':
      return { type: 'not', of: weakened(filter.of, varies, !wanted) };
    default:
      if (!varies(filter)) return filter;
      return wanted ? EVERY : { type: 'not', of: EVERY };
  }
}

interface Now {
  readonly id: string;
  readonly goneAt: Date | null;
  readonly created: Date;
  readonly changed: Date;
  readonly asked: Date | null;
  readonly certified: Date | null;
  readonly truths: readonly boolean[];
}

/**
 * What a routine would have done on each of the last days, had it run each day: by what assets are now, and what changed of them since.
 * The first step that changes assets is looked at, for whoever asks, over what they may see.
 * @throws 422 when more assets can be among it than are looked at
 */
export async function replayRoutine(
  context: Pick<WithFinder, 'db' | 'finder'>,
  who: Who,
  { filter: text, steps }: { readonly filter: string; readonly steps: readonly RoutineStep[] },
): Promise<RoutineReplay> {
  const { db } = context;
  await checkSteps(db, who, steps);
  readFilter(text);
  const filter = parseFilter(text);
  const step = steps.find((one) => one.do === 'act');
  const made = step ? await asMade(db, step.action) : null;
  const conditions = conditionsOf(filter);
  const done: Conditions = made ? conditionsOf(made) : { filter: { type: 'any', of: [] }, leaves: [] };
  const isDone = holderOf(done);
  const leaves = [...conditions.leaves, ...done.leaves];
  const now = Date.now();
  const today = Math.floor(now / DAY) * DAY;
  const ends = Array.from({ length: DAYS }, (_, day) => Math.min(now, today - (DAYS - 2 - day) * DAY));
  const from = (ends[0] ?? now) - DAY;
  const assets = await candidates(context, who, filter, leaves, from, now);
  const begun = await begunAt(db);
  const told = await courses(db, assets, leaves, ends, from, begun);
  const withGone = showsGone(filter);
  const lived = assets.map((asset, nth): Lived => {
    const { truths, gone } = told[nth] as Told;
    const ofDone = truths.slice(conditions.leaves.length);
    return {
      there: ends.map((end, day) => asset.created.getTime() <= end && (withGone || !gone[day])),
      leaves: truths.slice(0, conditions.leaves.length),
      same: ends.map((_, day) => isDone((leaf) => ofDone[leaf]?.[day] ?? false)),
    };
  });
  return {
    step: step ? await stepInWords(db, step) : null,
    days: replay(conditions, lived, DAYS).map((day, nth) => ({
      day: new Date((ends[nth] ?? now) - 1).toISOString().slice(0, 10),
      ...day,
    })),
    knownFrom: new Date(begun).toISOString(),
    asNow: [
      ...new Set(
        conditions.leaves.flatMap((leaf) =>
          leaf.type === 'word' ? ['words'] : AS_NOW.includes(leaf.key) ? [leaf.key] : [],
        ),
      ),
    ],
  };
}

/** What is found now, and what can have been found since: with each condition as it is now. */
async function candidates(
  { db, finder }: Pick<WithFinder, 'db' | 'finder'>,
  who: Who,
  filter: Filter,
  leaves: readonly Leaf[],
  from: number,
  now: number,
): Promise<readonly Now[]> {
  const find = (...parts: readonly Filter[]) =>
    foundFor(db, who, writeFilter({ type: 'all', of: parts.map((part) => asOf(part, now)) }), { finder });
  // What has gone meanwhile can have been found before. Columns are among it where they are asked for.
  const weak = weakened(conditionsOf(filter).filter, (leaf) => isSaid(leaf) || isKept(leaf) || isDated(leaf));
  const ever = await find(weak, EVERY);
  const ids =
    ever.length > MOST && !leaves.some(isDated) ? await touchedOf(db, ever, leaves, from, await find(filter)) : ever;
  if (ids.length > MOST)
    throw invalid(
      `More than ${MOST.toLocaleString('en')} assets can have been among it.`,
      'Narrow the search to see what it would have done.',
      [{ field: 'filter', message: 'finds too many' }],
    );
  const holding: ReadonlySet<string>[] = [];
  for (const leaf of leaves) holding.push(new Set(await find(weak, EVERY, leaf)));
  const rows = await db.rows<Omit<Now, 'truths'>>(
    `
      select
        a.id, a.gone_at as "goneAt", a.first_seen as created, coalesce(a.changed_at, a.first_seen) as changed,
        (select u.moved_at from asset_use u where u.asset_id = a.id) as asked,
        (select c.at from certification c where c.asset_id = a.id and c.lapsed_at is null and a.standing = 'trusted') as certified
      from asset a
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')}
        and (a.gone_at is null or ${showsGone(filter)} or a.gone_at > $3::timestamptz)`,
    [ids, who.domainsAs('reader'), new Date(from).toISOString()],
  );
  return rows.map((row) => ({ ...row, truths: holding.map((set) => set.has(row.id)) }));
}

/** Of assets those that are found now, and those of which something changed that conditions ask for. */
async function touchedOf(
  db: Db,
  ever: readonly string[],
  leaves: readonly Leaf[],
  from: number,
  found: readonly string[],
): Promise<readonly string[]> {
  const fields = [...new Set(leaves.flatMap((leaf) => (leaf.type === 'is' ? (IN_JOURNAL[leaf.key] ?? []) : [])))];
  const touched = await db.rows<{ id: string }>(
    `
      select j.subject_id as id from journal j where j.at > $1 and (j.before ?| $2::text[] or j.after ?| $2::text[])
      union
      select g.id::text from past.asset_gone g where g.ended_at > $1
      ${
        leaves.some((leaf) => isOf(leaf, ['class']))
          ? `
      union
      select g.asset_id::text from past.carried_gone g where g.ended_at > $1
      union
      select k.asset_id::text from carried k where k.past_since > $1`
          : ''
      }`,
    [new Date(from).toISOString(), fields],
  );
  const among = new Set(ever);
  return [...new Set([...found, ...touched.flatMap(({ id }) => (among.has(id) ? [id] : []))])];
}

interface Told {
  readonly truths: readonly (readonly boolean[])[];
  readonly gone: readonly boolean[];
}

/** Each condition of each asset, on each day. */
async function courses(
  db: Db,
  assets: readonly Now[],
  leaves: readonly Leaf[],
  ends: readonly number[],
  from: number,
  begun: number,
): Promise<Told[]> {
  const ids = assets.map(({ id }) => id);
  const since = new Date(from).toISOString();
  const said = grouped(
    await db.rows<{
      id: string;
      at: Date;
      before: Record<string, unknown> | null;
      after: Record<string, unknown> | null;
    }>(
      'select subject_id as id, at, before, after from journal where subject_id = any($1::text[]) and at > $2 order by id',
      [ids, since],
    ),
  );
  const kept = grouped(
    await db.rows<{ id: string; at: Date; level: number | null; domains: string[]; goneAt: Date | null }>(
      `
        select
          g.id, g.ended_at as at, g.level, g.gone_at as "goneAt",
          array(
            with recursive up as (
              select d.id, d.name, d.parent_id from domain d where d.id = g.domain_id
              union all
              select d.id, d.name, d.parent_id from up join domain d on d.id = up.parent_id
            )
            select name from up
          ) as domains
        from past.asset_gone g
        where g.id = any($1::uuid[]) and g.ended_at > $2`,
      [ids, since],
    ),
  );
  const classes = grouped(
    leaves.some((leaf) => isOf(leaf, ['class']))
      ? await db.rows<{ id: string; at: Date; key: string; until: Date | null }>(
          `
            select asset_id as id, class_key as key, past_since as at, null::timestamptz as until
            from carried
            where asset_id = any($1::uuid[])
            union all
            select asset_id, class_key, past_since, ended_at
            from past.carried_gone
            where asset_id = any($1::uuid[]) and ended_at > $2`,
          [ids, since],
        )
      : [],
  );
  const reads = grouped(
    leaves.some((leaf) => isOf(leaf, ['fresh']))
      ? await db.rows<{ id: string; at: Date }>(
          `
            select a.id, r.ended_at as at
            from asset a
            join scan_run r on r.source_id = a.source_id and r.state in ('done', 'partly done')
            where a.id = any($1::uuid[])`,
          [ids],
        )
      : [],
  );
  const told: Told[] = [];
  for (const [nth, asset] of assets.entries()) {
    // Others are served meanwhile.
    if (nth % AT_ONCE === 0) await new Promise((resolve) => setImmediate(resolve));
    told.push(courseOf(asset));
  }
  return told;

  function courseOf(asset: Now): Told {
    const { id } = asset;
    const changes = said.get(id) ?? [];
    const was = kept.get(id) ?? [];
    const carriedAt = (end: number) =>
      (classes.get(id) ?? []).flatMap(({ key, at, until }) =>
        at.getTime() <= Math.max(end, begun) && (until === null || until.getTime() > end) ? [key] : [],
      );
    const datesAt = (end: number): Partial<AssetFacts> => {
      const upTo = (at: Date | null) => (at && at.getTime() <= end ? at.getTime() : null);
      const read = (reads.get(id) ?? []).map(({ at }) => at.getTime()).filter((at) => at <= end);
      return {
        created: asset.created.getTime(),
        changed: upTo(asset.changed) ?? asset.created.getTime(),
        asked: upTo(asset.asked),
        certified: upTo(asset.certified),
        read: read.length > 0 ? Math.max(...read) : null,
      };
    };
    const truths = leaves.map((leaf, nth): boolean[] => {
      const truth = asset.truths[nth] ?? false;
      if (leaf.type === 'word') return ends.map(() => truth);
      const field = IN_JOURNAL[leaf.key];
      if (field)
        return backwards(
          truth,
          changes.flatMap(({ at, before, after }): Was[] =>
            (before && field in before) || (after && field in after)
              ? [{ at: at.getTime(), truth: holdsOf(leaf, saidBefore(leaf.key, before?.[field])) }]
              : [],
          ),
          ends,
        );
      if (leaf.key === 'class') return ends.map((end) => holdsOf(leaf, { classes: carriedAt(end) }));
      if (isKept(leaf))
        return backwards(
          truth,
          was.map(({ at, level, domains, goneAt }) => ({
            at: at.getTime(),
            truth: holdsOf(leaf, { level, domains, gone: goneAt !== null }),
          })),
          ends,
        );
      if (isDated(leaf)) return ends.map((end) => holdsOf(asOf(leaf, end) as Leaf, datesAt(end)));
      return ends.map(() => truth);
    });
    const gone = backwards(
      asset.goneAt !== null,
      was.map(({ at, goneAt }) => ({ at: at.getTime(), truth: goneAt !== null })),
      ends,
    );
    return { truths, gone };
  }
}

function grouped<Row extends { readonly id: string }>(rows: readonly Row[]): Map<string, Row[]> {
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const group = groups.get(row.id);
    if (group) group.push(row);
    else groups.set(row.id, [row]);
  }
  return groups;
}

/** What stood in a field before, as the journal has it in words. */
function saidBefore(key: Key, before: unknown): Partial<AssetFacts> {
  const texts = Array.isArray(before) ? before.map(String) : [];
  switch (key) {
    case 'owner':
      return { owners: texts };
    case 'steward':
      return { stewards: texts };
    case 'custodian':
      return { custodians: texts };
    case 'term':
      return { terms: texts };
    case 'tag':
      return { tags: texts.flatMap((tag) => [tag.replace(/\/$/, ''), tag.split('/')[0] ?? tag]) };
    case 'standing':
      return { standing: typeof before === 'string' ? (before as AssetFacts['standing']) : 'unreviewed' };
    default:
      return { described: typeof before === 'string' && before !== '' };
  }
}
