import type { TagAnswer, TagBody, TagMerge } from '@idrel/contract/curation';
import { valuesOf } from '@idrel/core/catalog';
import { PATH } from '../catalog/index.ts';
import { passTermsOfTag } from '../glossary/index.ts';
import { bringBack, change, create, type Kept, recordMany, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, invalid, notFound } from '../platform/problems.ts';
import { TAG, type TagRow } from './models.ts';
import { tagsNow } from './tagRules.ts';
import { spellTag } from './tagWords.ts';

/** $1 domains in which the person may read, $2 the person, $3 whether they may do everything. */
const SELECT = `
  select
    t.id, t.name, t.description, t.permitted, t.kinds, t.group_ids as "groupIds", t.travels, t.version,
    array(select g.name from person_group g where g.id = any(t.group_ids) order by g.name) as groups,
    (
      t.group_ids = '{}' or $3::boolean
        or exists (select 1 from group_member m where m.group_id = any(t.group_ids) and m.person_id = $2)
    ) as "mayGive",
    coalesce(c.assets, 0)::int as assets, coalesce(c.values, '[]') as values,
    (
      select count(distinct k.asset_id)::int
      from tag_came k
      join asset a on a.id = k.asset_id
      where k.tag_id = t.id and a.gone_at is null and ${isSeen('a', '$1')}
    ) as arrived
  from tag t
  left join lateral (
    select sum(v.assets) as assets, json_agg(json_build_object('value', v.value, 'assets', v.assets) order by v.assets desc, v.value) as values
    from (
      select x.value, count(*)::int as assets
      from asset_tag x
      join asset a on a.id = x.asset_id
      where x.tag_id = t.id and a.gone_at is null and ${isSeen('a', '$1')}
      group by 1
    ) v
  ) c on true
  where t.removed_at is null`;
const asked = (who: Who) => [who.domainsAs('reader'), who.id, who.isEverywhere('administrator')];

export const listTags = (db: Db, who: Who): Promise<TagAnswer[]> =>
  db.rows<TagAnswer>(`${SELECT} order by lower(t.name)`, asked(who));

const TAGS: Kept<TagRow, TagAnswer> = {
  thing: 'tag',
  model: TAG,
  async read(db, who, id) {
    const tag = await db.one<TagAnswer>(`${SELECT} and t.id = $4`, [...asked(who), id]);
    if (!tag) throw notFound('The tag');
    return tag;
  },
  told: (_db, { name, description, permitted, kinds, groups, travels }) => ({
    name,
    description,
    permitted,
    kinds,
    groups,
    travels,
  }),
};

/** A tag that only some may give is theirs to change, too: nobody widens it from outside. */
function mayChange(tag: TagAnswer): void {
  if (!tag.mayGive) throw forbidden(`member of ${tag.groups.join(' or ')}, who alone give the tag`);
}

async function checkGroups(tx: Db, { groupIds }: TagBody): Promise<void> {
  const known = await tx.rows<{ id: string }>(
    'select id from person_group where id = any($1::uuid[]) and partner_id is null',
    [groupIds],
  );
  if (known.length < groupIds.length)
    throw invalid('A group of the tag is not there any more.', 'Choose others.', [
      { field: 'groupIds', message: 'is not there' },
    ]);
}

export async function addTag(tx: Db, who: Who, body: TagBody): Promise<TagAnswer> {
  await checkGroups(tx, body);
  const tag = await create(tx, who, TAGS, { ...body, madeBy: who.id });
  await spellTag(tx, tag);
  return tag;
}

export async function changeTag(tx: Db, who: Who, id: string, version: number, body: TagBody): Promise<TagAnswer> {
  await checkGroups(tx, body);
  const { after } = await change(tx, who, TAGS, id, {
    version,
    values: (before) => {
      mayChange(before);
      return body;
    },
  });
  await spellTag(tx, after);
  return after;
}

/** What carried it is kept out of sight, so that it can be brought back. */
export async function removeTag(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, TAGS, id, { unless: (tag) => mayChange(tag), leaving: { removedAt: new Date() } });
}

export const bringBackTag = (tx: Db, who: Who, id: string): Promise<TagAnswer> =>
  bringBack(tx, who, TAGS, id, { isGone: ({ removedAt }) => removedAt !== null, values: { removedAt: null } });

/** What becomes of each asset that carries a tag $1 when that is merged into $2. */
const MERGED = `
  select
    x.asset_id, x.value, a.domain_id, o.asset_id is not null as has_both,
    x.value <> '' and into_tag.permitted is not null and x.value <> all(into_tag.permitted) as unpermitted,
    into_tag.kinds is not null and a.kind <> all(into_tag.kinds) as unsuited
  from asset_tag x
  join asset a on a.id = x.asset_id
  join tag into_tag on into_tag.id = $2
  left join asset_tag o on o.asset_id = x.asset_id and o.tag_id = $2
  where x.tag_id = $1`;

export async function previewMerge(db: Db, who: Who, id: string, into: string): Promise<TagMerge> {
  const from = await TAGS.read(db, who, id);
  await TAGS.read(db, who, into);
  if (id === into)
    throw invalid('A tag cannot be merged into itself.', 'Choose another one.', [
      { field: 'into', message: 'is the same' },
    ]);
  const counts = await db.one<Omit<TagMerge, 'searches'>>(
    `
      select
        count(*)::int as assets, count(*) filter (where has_both)::int as "both",
        count(*) filter (where unpermitted and not has_both and not unsuited)::int as unpermitted,
        count(*) filter (where unsuited)::int as unsuited
      from (${MERGED}) m`,
    [id, into],
  );
  const routines = await db.rows<{ name: string; filter: string }>(
    "select distinct name, filter from routine_filter where filter ilike '%tag%' order by name",
  );
  const naming = (filter: string) =>
    [...valuesOf(filter, 'tag')].some((value) => {
      const [name] = value.toLowerCase().split('/');
      return name === from.name.toLowerCase();
    });
  return {
    ...(counts as Omit<TagMerge, 'searches'>),
    searches: [...new Set(routines.flatMap(({ name, filter }) => (naming(filter) ? [name] : [])))],
  };
}

/**
 * What carries a tag carries another one instead, with its value where that one permits it, and the tag is removed.
 * @throws 409 when another number of assets carries it than was seen; 403 without the rights in all their domains
 */
export async function mergeTag(tx: Db, who: Who, id: string, into: string, seen: number): Promise<TagAnswer> {
  const tags = [await TAGS.read(tx, who, id), await TAGS.read(tx, who, into)] as const;
  for (const tag of tags) mayChange(tag);
  // Nobody gives it, or another value of it, between the look and the change.
  await tx.run('lock table asset_tag in share row exclusive mode');
  const preview = await previewMerge(tx, who, id, into);
  if (preview.assets !== seen)
    throw conflict(
      'count-differs',
      `${preview.assets} assets carry the tag by now, not ${seen}.`,
      'Look at it again, then merge. Nothing was changed.',
    );
  const stranger = await tx.one(`select 1 as yes from (${MERGED}) m where m.domain_id <> all($3::uuid[]) limit 1`, [
    id,
    into,
    who.domainsAs('steward'),
  ]);
  if (stranger) throw forbidden('steward in the domains of all assets that carry the tag');
  await tx.run(
    `
      create temporary table tag_merged on commit drop as
      select m.*, ${tagsNow('m.asset_id')} as now from (${MERGED}) m`,
    [id, into],
  );
  await tx.run(
    `
      insert into asset_tag (asset_id, tag_id, value)
      select asset_id, $1, case when unpermitted then '' else value end
      from tag_merged
      where not has_both and not unsuited`,
    [into],
  );
  await tx.run('delete from asset_tag where tag_id = $1', [id]);
  await passTermsOfTag(tx, id, into);
  await tx.run('update asset set version = version + 1 where id in (select asset_id from tag_merged)');
  await recordMany(
    tx,
    who,
    `tag ${tags[0].name} merged into ${tags[1].name}`,
    'tags',
    `
      select a.kind, a.id, ${PATH} as name, a.domain_id, m.now as before, ${tagsNow('m.asset_id')} as after
      from tag_merged m
      join asset a on a.id = m.asset_id
      join source s on s.id = a.source_id`,
    [],
  );
  await remove(tx, who, TAGS, id, { leaving: { removedAt: new Date() }, action: `merged into ${tags[1].name}` });
  return TAGS.read(tx, who, into);
}
