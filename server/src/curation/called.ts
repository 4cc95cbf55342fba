import type { AssetChange } from '@idrel/contract/curation';
import {
  type CellChange,
  type NoticeCell,
  noticeInCell,
  type SheetAsset,
  type SheetField,
  type SheetNames,
  type Standing,
} from '@idrel/core/catalog';
import { FROM, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** People, terms and tags by what they are called in sheets and lines, with their ids. */
export interface Known {
  readonly owners: ReadonlyMap<string, string>;
  readonly people: ReadonlyMap<string, string>;
  readonly terms: ReadonlyMap<string, string>;
  readonly tags: ReadonlyMap<string, { readonly id: string; readonly permitted: readonly string[] | null }>;
  /** The same by each name that is understood. */
  readonly names: SheetNames;
}

/** What stands twice is told apart by more: a person's address, a term's scheme. */
export async function known(db: Db): Promise<Known> {
  const parties = await db.rows<{ id: string; name: string; email: string; group: boolean }>(
    `select id, name, coalesce(email, 'group/' || name) as email, is_group as "group" from party where left_at is null`,
  );
  const terms = await db.rows<{ id: string; name: string; scheme: string }>(
    'select t.id, t.name, s.name as scheme from term t join scheme s on s.id = t.scheme_id where t.removed_at is null',
  );
  const tags = await db.rows<{ id: string; name: string; permitted: string[] | null }>(
    'select id, name, permitted from tag where removed_at is null',
  );
  const of = <T extends { id: string; name: string }>(things: readonly T[], more: (thing: T) => string) => {
    const times = new Map<string, number>();
    for (const { name } of things) times.set(name.toLowerCase(), (times.get(name.toLowerCase()) ?? 0) + 1);
    const ids = new Map<string, string>();
    const names = new Map<string, string | null>();
    for (const thing of things) {
      const several = (times.get(thing.name.toLowerCase()) ?? 0) > 1;
      const called = several ? more(thing) : thing.name;
      ids.set(called, thing.id);
      names.set(more(thing).toLowerCase(), called);
      names.set(thing.name.toLowerCase(), several ? null : called);
    }
    return { ids, names };
  };
  const people = parties.filter(({ group }) => !group);
  const address = ({ email }: { email: string }) => email;
  const [byPerson, byOwner] = [of(people, address), of(parties, address)];
  const byTerm = of(terms, ({ scheme, name }) => `${scheme}/${name}`);
  const tagNames = new Map<string, string | null>();
  for (const { name, permitted } of tags) {
    tagNames.set(name.toLowerCase(), name);
    for (const value of permitted ?? []) tagNames.set(`${name}/${value}`.toLowerCase(), `${name}/${value}`);
  }
  return {
    owners: byOwner.ids,
    people: byPerson.ids,
    terms: byTerm.ids,
    tags: new Map(tags.map((tag) => [tag.name.toLowerCase(), tag])),
    names: { owners: byOwner.names, people: byPerson.names, terms: byTerm.names, tags: tagNames },
  };
}

/** Assets as a sheet has them: those that the person may see, in the order of the ids. */
export async function readAssets(
  db: Db,
  who: Who,
  ids: readonly string[],
  { people, terms }: Known,
): Promise<SheetAsset[]> {
  const rows = await db.rows<{
    id: string;
    version: number;
    path: string;
    kind: string;
    source: string;
    description: string | null;
    standing: string;
    people: { role: 'owner' | 'steward' | 'custodian'; id: string }[];
    terms: string[];
    tags: string[];
    notices: NoticeCell[];
    remark: string[];
  }>(
    `
      select
        a.id, a.version, ${PATH} as path, a.kind, s.name as source, a.description, a.standing,
        coalesce((select json_agg(json_build_object('role', p.role, 'id', p.person_id) order by p.person_id) from asset_person p where p.asset_id = a.id), '[]') as people,
        array(select x.term_id from asset_term x join term t on t.id = x.term_id and t.removed_at is null where x.asset_id = a.id order by t.name) as terms,
        array(select t.name || case when x.value <> '' then '/' || x.value else '' end from asset_tag x join tag t on t.id = x.tag_id and t.removed_at is null where x.asset_id = a.id order by 1) as tags,
        coalesce(
          (
            select json_agg(json_build_object('kind', n.kind, 'text', n.text, 'starts', n.starts::text, 'ends', n.ends::text) order by n.starts, n.id)
            from notice n
            where n.asset_id = a.id and n.removed_at is null and (n.ends is null or n.ends >= (now() at time zone 'UTC')::date)
          ),
          '[]'
        ) as notices,
        array(
          select x.text
          from discussion d
          join remark r on r.discussion_id = d.id and r.removed_at is null
          cross join lateral (values (r.text), (r.plain)) x(text)
          where d.asset_id = a.id and d.settled_at is null
        ) as remark
      from unnest($1::uuid[]) with ordinality as page(id, nth)
      join ${FROM.replace('asset a', 'asset a on a.id = page.id')}
      where ${isSeen('a', '$2')}
      order by page.nth`,
    [ids, who.domainsAs('reader')],
  );
  const [personOf, termOf] = [people, terms].map((map) => new Map([...map].map(([name, id]) => [id, name])));
  return rows.map(({ people: persons, terms: termIds, description, standing, notices, ...row }) => {
    const inRole = (role: string) =>
      persons.flatMap((entry) => (entry.role === role ? (personOf?.get(entry.id) ?? []) : []));
    return {
      ...row,
      description: description ? [description] : [],
      owners: inRole('owner'),
      stewards: inRole('steward'),
      custodians: inRole('custodian'),
      terms: termIds.flatMap((id) => termOf?.get(id) ?? []),
      standing: [standing],
      notices: notices.map(noticeInCell),
    };
  });
}

/** Tags with the values that are given them, where they take any; what an asset carries already stays understood. */
export function withValues(
  { tags, names }: Known,
  said: Iterable<string>,
  now: ReadonlyMap<string, SheetAsset>,
): SheetNames['tags'] {
  const all = new Map(names.tags);
  for (const { tags: carried } of now.values()) for (const tag of carried) all.set(tag.toLowerCase(), tag);
  for (const text of said) {
    const [key = '', ...value] = text.split('/');
    const tag = tags.get(key.toLowerCase());
    if (tag && tag.permitted === null && value.length > 0 && !all.has(text.toLowerCase()))
      all.set(text.toLowerCase(), text);
  }
  return all;
}

/** The edit that some cells of an asset ask for. */
export function changeOf(cells: readonly CellChange[], { owners, people, terms, tags }: Known): AssetChange {
  const ids = (names: readonly string[], of: ReadonlyMap<string, string>) =>
    names.flatMap((name) => of.get(name) ?? []);
  const one: Record<Exclude<SheetField, 'notices' | 'remark'>, (after: readonly string[]) => AssetChange> = {
    description: ([text = '']) => ({ description: text }),
    owners: (names) => ({ ownerIds: ids(names, owners) }),
    stewards: (names) => ({ stewardIds: ids(names, people) }),
    custodians: (names) => ({ custodianIds: ids(names, people) }),
    terms: (names) => ({ termIds: ids(names, terms) }),
    tags: (names) => ({
      tags: names.flatMap((text) => {
        const [key = '', ...value] = text.split('/');
        const tag = tags.get(key.toLowerCase());
        return tag ? [{ id: tag.id, value: value.join('/') }] : [];
      }),
    }),
    standing: ([standing]) => ({ standing: standing as Standing }),
  };
  return Object.assign(
    {},
    ...cells.map(({ field, after }) => (field === 'notices' || field === 'remark' ? {} : one[field](after))),
  ) as AssetChange;
}
