import type { AssetAnswer } from '@idrel/contract/catalog';
import type { AssetChange, SuggestionAnswer, TakenSuggestion } from '@idrel/contract/curation';
import type { AssetKind } from '@idrel/contract/things';
import { type Clue, refusalOf, type Suggested, suggestionsFrom } from '@idrel/core/catalog';
import { FROM, getAsset, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { decideFindings, knownClasses } from '../recognition/index.ts';
import { editAsset } from './service.ts';
import { rulesOf } from './tagRules.ts';

/** So many columns of a table are looked at, and so many that are called as one of them. */
const COLUMNS_MOST = 300;
const ALIKE_MOST = 2000;
const SHOWN = 100;
/** So many that lie beside one are compared with it. */
const BESIDE_MOST = 400;

interface Subject {
  readonly id: string;
  readonly kind: AssetKind;
  readonly name: string;
  readonly version: number;
}

/** What a clue says, as rows: of which asset, what, how many of how many, and one that says so. */
type ClueRow = Omit<Clue, 'by'> & { readonly byId: string | null; readonly byPath: string | null };

/** $1 the assets that something could be said of, $2 the domains that may be read. */
const OPEN = `
  open as (
    select a.id, a.kind, a.name, a.native_comment, a.parent_id, coalesce(a.description, '') = '' as undescribed
    from asset a
    where a.id = any($1::uuid[]) and a.gone_at is null
  )`;

/** The comment at the source. */
const COMMENTS = `
  with ${OPEN}
  select id as "assetId", 'description' as field, native_comment as value, native_comment as label, 'comment' as kind, 1 as of, 1 as say,
         null as "byId", null as "byPath"
  from open
  where undescribed and coalesce(native_comment, '') <> ''`;

/** What assets `a` say of themselves that others could say too. */
interface Said {
  /** What hangs on assets: `x`, with what that is called. Empty where the asset says it itself. */
  readonly from: string;
  readonly value: string;
  readonly label: string;
  readonly holds: string;
  /** Whether an asset `o` of {@link OPEN} could say it. @param value SQL of the value */
  readonly lacks: (value: string) => string;
}

const CLASSES_DECIDED = `
  not exists (select from claim mine where mine.asset_id = o.id and mine.class_key = %)
    and not exists (select from finding_decision mine where mine.asset_id = o.id and mine.class_key = %)`;
const SAID = {
  description: {
    from: '',
    value: 'a.description',
    label: 'a.description',
    holds: "a.description is not null and a.description <> ''",
    lacks: () => 'o.undescribed',
  },
  term: {
    from: 'asset_term x join term t on t.id = x.term_id and t.removed_at is null',
    value: 't.id::text',
    label: 't.name',
    holds: 'true',
    lacks: (value) =>
      `not exists (select from asset_term mine where mine.asset_id = o.id and mine.term_id::text = ${value})`,
  },
  tag: {
    from: 'asset_tag x join tag t on t.id = x.tag_id and t.removed_at is null',
    value: "t.id || case when x.value = '' then '' else '/' || x.value end",
    label: "t.name || case when x.value = '' then '' else ': ' || x.value end",
    holds: 'true',
    lacks: (
      value,
    ) => `not exists (select from tag_here mine where mine.asset_id = o.id and mine.tag_id::text = split_part(${value}, '/', 1))
      and not exists (select from tag_refusal no where no.asset_id = o.id and no.tag_id::text = split_part(${value}, '/', 1))
      and exists (select from tag fit where fit.id::text = split_part(${value}, '/', 1) and (fit.kinds is null or o.kind = any(fit.kinds)))`,
  },
  class: {
    from: "finding_decision x join (values ('confirmed')) made(decision) on made.decision = x.decision",
    value: 'x.class_key',
    label: 'x.class_key',
    holds: 'true',
    lacks: (value) => CLASSES_DECIDED.replaceAll('%', value),
  },
} as const satisfies Record<string, Said>;
const SAYABLE = Object.keys(SAID) as (keyof typeof SAID)[];

/**
 * What other columns of the same name say. Of those that say anything there are few beside the columns of a name: they are looked up first, by $3 the names.
 */
function alike(field: keyof typeof SAID): string {
  const { from, value, label, holds, lacks }: Said = SAID[field];
  return `
  with ${OPEN},
  ${from && `carriers as materialized (select x.asset_id, ${value} as value, ${label} as label from ${from}),`}
  saying as materialized (
    select a.id, a.name, ${from ? 'x.value, x.label' : `${value} as value, ${label} as label`}
    from ${from ? 'carriers x join asset a on a.id = x.asset_id' : 'asset a'}
    where a.name = any($3::text[]) and a.kind = 'column' and a.gone_at is null and ${isSeen('a', '$2')} and ${holds}
    limit ${ALIKE_MOST}
  ),
  others as (
    select o.id as "assetId", y.id, y.value, y.label
    from open o
    join saying y on y.name = o.name and y.id <> o.id
    where o.kind = 'column' and ${lacks('y.value')}
  ),
  ${agreed(field)}`;
}

/** Of those that say something, how many say the same. */
const agreed = (field: keyof typeof SAID) => `
  totals as (select "assetId", count(distinct id)::int as of from others group by 1),
  said as (
    select o."assetId", o.value, min(o.label) as label, t.of, count(distinct o.id)::int as say, (array_agg(o.id order by o.id))[1] as by
    from others o
    join totals t on t."assetId" = o."assetId"
    group by o."assetId", o.value, t.of
  )
  select q."assetId", '${field}' as field, q.value, q.label, 'same name' as kind, q.of, q.say, q.by as "byId",
         (select ${PATH} from ${FROM} where a.id = q.by) as "byPath"
  from said q`;

/** What columns say that a column is copied from or to. */
function copied(field: keyof typeof SAID): string {
  const { from, value, label, holds, lacks }: Said = SAID[field];
  return `
  with ${OPEN}
  select o.id as "assetId", '${field}' as field, ${value} as value, ${label} as label, 'lineage' as kind, 1 as of, 1 as say, a.id as "byId",
         ${PATH} as "byPath"
  from open o
  join lateral (
    select e.from_id as other from lineage_edge e where e.to_id = o.id and e.kind = 'copied' and not e.wrong
    union
    select e.to_id from lineage_edge e where e.from_id = o.id and e.kind = 'copied' and not e.wrong
    limit 20
  ) e on true
  join asset a on a.id = e.other and a.gone_at is null
  join source s on s.id = a.source_id
  join domain d on d.id = a.domain_id
  ${from && `join (${from}) on x.asset_id = a.id`}
  where ${isSeen('a', '$2')} and ${holds} and ${lacks(value)}`;
}

/** The word in which a name ends, when there are several in it. */
const endingOf = (name: string) => `substring(${name} from '[_ .-]([^_ .-]{3,})$')`;

/** What those say that lie beside it and whose names end in the same word: `work_order_history` and `part_history`. Those that say nothing count as saying otherwise. */
function endingAlike(field: 'term' | 'tag'): string {
  const { from, value, label, lacks }: Said = SAID[field];
  return `
  with ${OPEN},
  place as (select distinct parent_id, kind from open),
  beside as materialized (
    select b.id, b.parent_id, b.kind, ${endingOf('b.name')} as ending
    from place p
    join lateral (
      select b.id, b.parent_id, b.kind, b.name
      from asset b
      where b.parent_id = p.parent_id and b.kind = p.kind and b.gone_at is null and ${isSeen('b', '$2')}
      order by b.position, b.id
      limit ${BESIDE_MOST}
    ) b on true
  ),
  said as (
    select o.id as "assetId", o.parent_id, o.kind, o.ending, ${value} as value, min(${label}) as label, count(distinct a.id)::int as say, (array_agg(a.id order by a.id))[1] as by
    from (select open.*, ${endingOf('open.name')} as ending from open) o
    join beside n on n.parent_id = o.parent_id and n.kind = o.kind and n.ending = o.ending and n.id <> o.id
    join asset a on a.id = n.id
    join (${from}) on x.asset_id = a.id
    where ${lacks(value)}
    group by 1, 2, 3, 4, 5
  )
  select q."assetId", '${field}' as field, q.value, q.label, 'ends alike' as kind,
         (
           select count(*)::int
           from beside n
           where n.parent_id = q.parent_id and n.kind = q.kind and n.ending = q.ending and n.id <> q."assetId"
         ) as of,
         q.say, q.by as "byId", (select ${PATH} from ${FROM} where a.id = q.by) as "byPath"
  from said q
  where q.say > 1`;
}

/** Who could answer for an asset ($1 holds it alone) that nobody answers for: who does for what it lies in, for what lies beside it, for what it is made from; who writes of it most. */
const OWNERS = `
  with recursive ${OPEN},
  unowned as (
    select o.* from open o
    where o.kind <> 'column' and not exists (select from asset_person ap where ap.asset_id = o.id and ap.role = 'owner')
  ),
  up as (
    select u.id as asset_id, p.id, p.parent_id, 1 as distance from unowned u join asset p on p.id = u.parent_id
    union all
    select up.asset_id, p.id, p.parent_id, up.distance + 1 from up join asset p on p.id = up.parent_id
  ),
  beside as (
    select u.id as asset_id, b.id, exists (select from asset_person ap where ap.asset_id = b.id and ap.role = 'owner') as owned
    from unowned u
    join lateral (
      select b.id from asset b
      where b.parent_id = u.parent_id and b.id <> u.id and b.kind <> 'column' and b.gone_at is null and ${isSeen('b', '$2')}
      order by b.position, b.id
      limit 200
    ) b on true
  ),
  clues as (
    select up.asset_id, ap.person_id, 'above' as kind, 1 as of, 1 as say, up.id as by_id
    from up
    join asset h on h.id = up.id and ${isSeen('h', '$2')}
    join asset_person ap on ap.asset_id = up.id and ap.role = 'owner'
    union all
    select b.asset_id, ap.person_id, 'beside',
           (select count(*)::int from beside o where o.asset_id = b.asset_id and o.owned), count(*)::int, (array_agg(b.id order by b.id))[1]
    from beside b
    join asset_person ap on ap.asset_id = b.id and ap.role = 'owner'
    group by b.asset_id, ap.person_id
    union all
    select u.id, ap.person_id, 'lineage', 2, 1, f.from_id
    from unowned u
    join lateral (select distinct f.from_id from lineage_feed f where f.to_id = u.id limit 20) f on true
    join asset a on a.id = f.from_id and ${isSeen('a', '$2')}
    join asset_person ap on ap.asset_id = f.from_id and ap.role = 'owner'
    union all
    select u.id, j.person_id, 'writes', 1, count(*)::int, null
    from unowned u
    -- Neither what a routine did for somebody, nor that they found something wrong with it.
    join journal j on j.subject_id = u.id::text and j.person_id is not null and j.run_id is null and j.action not like 'ticket%'
    group by u.id, j.person_id
  )
  select c.asset_id as "assetId", 'owner' as field, p.id::text as value, p.name as label, c.kind, greatest(c.of, c.say) as of, c.say,
         c.by_id as "byId",
         (select ${PATH} from ${FROM} where a.id = c.by_id and ${isSeen('a', '$2')}) as "byPath"
  from clues c
  join party p on p.id = c.person_id and p.left_at is null`;

/** What could be said of an asset and its columns that nobody has said yet, by what speaks for it. */
export async function listSuggestions(db: Db, who: Who, assetId: string): Promise<SuggestionAnswer[]> {
  const { domainId } = await getAsset(db, who, assetId);
  who.must('editor', domainId);
  const subjects = await db.rows<Subject>(
    `
      select a.id, a.kind, a.name, a.version
      from asset a
      where (a.id = $1 or (a.parent_id = $1 and a.kind = 'column')) and a.gone_at is null and ${isSeen('a', '$2')}
      order by a.id = $1 desc, a.position
      limit ${COLUMNS_MOST}`,
    [assetId, who.domainsAs('editor')],
  );
  const bind = [subjects.map(({ id }) => id), who.domainsAs('reader')];
  const named = [...bind, [...new Set(subjects.filter(({ kind }) => kind === 'column').map(({ name }) => name))]];
  const rows: ClueRow[] = [];
  const steward = who.is('steward', domainId);
  for (const field of SAYABLE.filter((one) => one !== 'class' || steward))
    rows.push(...(await db.rows<ClueRow>(alike(field), named)), ...(await db.rows<ClueRow>(copied(field), bind)));
  for (const field of ['term', 'tag'] as const) rows.push(...(await db.rows<ClueRow>(endingAlike(field), bind)));
  rows.push(...(await db.rows<ClueRow>(OWNERS, bind)));
  rows.push(...(await db.rows<ClueRow>(COMMENTS, [bind[0]])));
  const refused = await db.rows<Pick<Clue, 'assetId' | 'field' | 'value'>>(
    'select asset_id as "assetId", field, value from suggestion_refused where asset_id = any($1::uuid[])',
    [bind[0]],
  );
  const mayGive = await givable(db, who, rows);
  const classes = await knownClasses(db);
  const clues = rows
    .filter(({ field, value }) => field !== 'tag' || mayGive.has(tagOf(value).id))
    .map(
      ({ byId, byPath, ...clue }): Clue => ({
        ...clue,
        label: clue.field === 'class' ? (classes.get(clue.value)?.label ?? clue.label) : clue.label,
        by: byId !== null && byPath !== null ? { id: byId, path: byPath } : null,
      }),
    );
  const known = new Map(subjects.map((subject) => [subject.id, subject]));
  return suggestionsFrom(clues, new Set(refused.map(refusalOf)))
    .slice(0, SHOWN)
    .flatMap(({ assetId: id, ...suggestion }) => {
      const asset = known.get(id);
      return asset ? [{ asset, ...suggestion, clues: [...suggestion.clues] }] : [];
    });
}

const tagOf = (value: string) => {
  const at = value.indexOf('/');
  return at < 0 ? { id: value, value: '' } : { id: value.slice(0, at), value: value.slice(at + 1) };
};

/** Ids of the tags among what is suggested that the person may give. */
async function givable(db: Db, who: Who, rows: readonly ClueRow[]): Promise<ReadonlySet<string>> {
  const ids = [...new Set(rows.flatMap(({ field, value }) => (field === 'tag' ? [tagOf(value).id] : [])))];
  const rules = ids.length === 0 ? [] : await rulesOf(db, ids);
  return new Set(
    rules
      .filter(({ members }) => !members || members.includes(who.id) || who.isEverywhere('administrator'))
      .map(({ id }) => id),
  );
}

/** The edit that takes a suggestion, or takes it back; why there is none, where somebody has said otherwise. */
function editFor(
  asset: AssetAnswer,
  { field, value }: { readonly field: Exclude<Suggested, 'class'>; readonly value: string },
  taken: boolean,
): AssetChange | string {
  const ids = (list: readonly { id: string }[]) => list.map(({ id }) => id);
  switch (field) {
    case 'description': {
      const said = asset.description ?? '';
      if (taken) return said === '' ? { description: value } : 'it is described already';
      return said === value.trim() ? { description: null } : 'its description is another one now';
    }
    case 'term': {
      const terms = ids(asset.terms);
      if (taken) return terms.includes(value) ? 'it carries the term already' : { termIds: [...terms, value] };
      return terms.includes(value)
        ? { termIds: terms.filter((id) => id !== value) }
        : 'it does not carry the term any more';
    }
    case 'tag': {
      const [tags, given] = [asset.tags.map(({ id, value: its }) => ({ id, value: its })), tagOf(value)];
      const there = tags.find(({ id }) => id === given.id);
      if (taken) return there ? 'it carries the tag already' : { tags: [...tags, given] };
      return there?.value === given.value
        ? { tags: tags.filter(({ id }) => id !== given.id) }
        : 'it does not carry the tag with this value any more';
    }
    case 'owner': {
      const owners = ids(asset.owners);
      if (taken) return owners.length === 0 ? { ownerIds: [value] } : 'somebody answers for it already';
      return owners.length === 1 && owners[0] === value ? { ownerIds: [] } : 'somebody else answers for it now';
    }
  }
}

const ID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
/** Terms, tags and people are told by their ids. */
function mustName({ field, value }: TakenSuggestion): void {
  if (field !== 'description' && field !== 'class' && !ID.test(field === 'tag' ? tagOf(value).id : value))
    throw invalid(`“${value.slice(0, 60)}” is no id of a ${field}.`, 'Send what was suggested, as it was.', [
      { field: 'items', message: `holds a ${field} that is no id` },
    ]);
}

/** A class that is suggested is confirmed, as a finding is; why not, where somebody has decided otherwise. */
async function decideFor(
  tx: Db,
  who: Who,
  { assetId, value }: TakenSuggestion,
  taken: boolean,
): Promise<string | undefined> {
  const stands = await tx.one<{ decision: string }>(
    'select decision from finding_decision where asset_id = $1 and class_key = $2',
    [assetId, value],
  );
  if (taken === Boolean(stands))
    return taken ? 'somebody has decided about the class already' : 'nothing is decided about the class any more';
  await decideFindings(tx, who, [{ assetId, classKey: value, decision: taken ? 'confirmed' : 'open', reason: '' }]);
  return undefined;
}

/** Takes suggestions, each as an edit of its asset, or takes them back. */
export async function takeSuggestions(
  tx: Db,
  who: Who,
  items: readonly TakenSuggestion[],
  taken: boolean,
): Promise<{ taken: number; passedOver: { assetId: string; why: string }[] }> {
  const passedOver: { assetId: string; why: string }[] = [];
  for (const item of items) {
    mustName(item);
    const asset = await getAsset(tx, who, item.assetId);
    if (item.field === 'class') {
      const why = await decideFor(tx, who, item, taken);
      if (why) passedOver.push({ assetId: item.assetId, why });
      continue;
    }
    const edit = editFor(asset, { ...item, field: item.field }, taken);
    if (typeof edit === 'string') passedOver.push({ assetId: item.assetId, why: edit });
    else await editAsset(tx, who, item.assetId, asset.version, edit);
  }
  return { taken: items.length - passedOver.length, passedOver };
}

/** Refuses suggestions for good, or takes that back. */
export async function refuseSuggestions(
  tx: Db,
  who: Who,
  items: readonly TakenSuggestion[],
  refused: boolean,
): Promise<void> {
  for (const { assetId, field, value } of items) {
    const { domainId } = await getAsset(tx, who, assetId);
    who.must('editor', domainId);
    await tx.run(
      refused
        ? 'insert into suggestion_refused (asset_id, field, value, person_id) values ($1, $2, $3, $4) on conflict do nothing'
        : 'delete from suggestion_refused where asset_id = $1 and field = $2 and value = $3 and $4::uuid is not null',
      [assetId, field, value, who.id],
    );
  }
}
