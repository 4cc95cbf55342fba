import type { Mentionable } from '@idrel/contract/writing';
import { writeFilter } from '@idrel/core/catalog';
import { onOneLine, shortened } from '@idrel/core/text';
import { labelled, type Mention, readWritten as read, type Written, WrittenTooDeep } from '@idrel/core/writing';
import { type FinderClient, FROM, findAssets, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';

/** What stands in the place of a mention that is not there any more, or not for whoever reads. */
const UNSEEN = 'something you may not see';

/** A text as it is kept. @throws 422 when it lies too deep within itself to be read */
export function readWritten(text: string): Written {
  try {
    return read(text);
  } catch (error) {
    if (!(error instanceof WrittenTooDeep)) throw error;
    throw invalid(error.message, 'Write it flatter.', [{ field: 'text', message: 'is nested too deep' }]);
  }
}

const EXCERPT = 160;
/** How a plain text begins, for the journal. */
export function excerpt(plain: string): string {
  return shortened(onOneLine(plain), EXCERPT);
}

export interface KeptText {
  readonly text: string;
  readonly mentions: readonly Mention[];
}

/** Texts as somebody may read them: with what they mention called as it is called now, where that may be seen. */
export async function shown(db: Db, who: Who, texts: readonly KeptText[]): Promise<string[]> {
  const all = texts.flatMap(({ mentions }) => mentions);
  const names = new Map<string, string>();
  if (all.length > 0) {
    const ids = (kind: Mention['kind']) => [...new Set(all.filter((entry) => entry.kind === kind).map(({ id }) => id))];
    const rows = await db.rows<{ kind: string; id: string; name: string }>(
      `
        select 'person' as kind, id, name from person where id = any($1::uuid[])
        union all
        select 'group', id, name from person_group where id = any($2::uuid[])
        union all
        select 'term', id, name from term where id = any($3::uuid[]) and removed_at is null
        union all
        select 'asset', a.id, ${PATH} from ${FROM} where a.id = any($4::uuid[]) and ${isSeen('a', '$5')}`,
      [ids('person'), ids('group'), ids('term'), ids('asset'), who.domainsAs('reader')],
    );
    for (const { kind, id, name } of rows) names.set(`${kind}/${id}`, name);
  }
  return texts.map((text) => labelled(text, ({ kind, id }) => names.get(`${kind}/${id}`) ?? UNSEEN));
}

/** Everybody whom a text mentions, by name or by a group. */
export const peopleIn = async (db: Db, mentions: readonly Mention[]): Promise<string[]> => {
  const ids = (wanted: Mention['kind']) => mentions.filter(({ kind }) => kind === wanted).map(({ id }) => id);
  const rows = await db.rows<{ id: string }>(
    `
      select p.id from person p where p.id = any($1::uuid[])
      union
      select m.person_id from group_member m where m.group_id = any($2::uuid[])`,
    [ids('person'), ids('group')],
  );
  return rows.map(({ id }) => id);
};

const EACH = 4;
/** What fits the words, for who writes a text: people first, then terms, then assets by their names. */
export async function mentionable(db: Db, finder: FinderClient, who: Who, q: string): Promise<Mentionable[]> {
  const like = `%${q.replace(/[\\%_]/g, '\\$&').replace(/\s+/g, '%')}%`;
  const named = await db.rows<Mentionable>(
    `
      (
        select 'person' as kind, id, name, job as of
        from person
        where left_at is null and partner_id is null and name ilike $1
        order by name
        limit ${EACH}
      )
      union all
      (
        select 'group', g.id, g.name, (
          select count(*) || case when count(*) = 1 then ' person' else ' people' end from group_member m where m.group_id = g.id
        )
        from person_group g
        where g.name ilike $1 and g.partner_id is null
        order by g.name
        limit ${EACH}
      )
      union all
      (
        select 'term', t.id, t.name, 'term in ' || s.name
        from term t
        join scheme s on s.id = t.scheme_id
        where t.removed_at is null and t.name ilike $1
        order by length(t.name), t.name
        limit ${EACH}
      )`,
    [like],
  );
  // What holds no letter would find everything.
  const words = q.split(/\s+/).filter((word) => /[\p{L}\p{N}]/u.test(word));
  const assets =
    words.length === 0
      ? []
      : (
          await findAssets(db, finder, who, {
            filter: writeFilter({ type: 'all', of: words.map((text) => ({ type: 'word', text, whole: false })) }),
            sort: 'relevance',
            descending: false,
            limit: EACH,
            offset: 0,
          })
        ).items;
  return [
    ...named,
    ...assets.map(({ id, kind, path, source }) => ({
      kind: 'asset' as const,
      id,
      name: path,
      of: `${kind} in ${source}`,
    })),
  ];
}
