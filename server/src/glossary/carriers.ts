import type { TermBrief, TermCarriers, termEndpoints } from '@idrel/contract/glossary';
import type { BodyOf, QueryOf } from '@idrel/contract/http';
import { say } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { type ClassUse, knownClasses } from '../recognition/index.ts';
import { getTerm } from './terms.ts';

/** Classes and tags that carry a term: it says what they mean. */
export async function termCarriers(db: Db, who: Who, id: string): Promise<TermCarriers> {
  await getTerm(db, who, id);
  const known = await knownClasses(db);
  const classes = await db.rows<{ key: string }>('select class_key as key from term_class where term_id = $1', [id]);
  return {
    classes: classes
      .flatMap(({ key }) => {
        const about = known.get(key);
        return about ? [{ key, label: about.label }] : [];
      })
      .sort((a, b) => a.label.localeCompare(b.label)),
    tags: await db.rows<TermCarriers['tags'][number]>(
      `
        select g.id, g.name
        from term_tag x
        join tag g on g.id = x.tag_id and g.removed_at is null
        where x.term_id = $1
        order by g.name`,
      [id],
    ),
  };
}

/** Terms that say what a class or a tag means. */
export const termsOf = (db: Db, { class: key, tag }: QueryOf<typeof termEndpoints.ofCarrier>): Promise<TermBrief[]> =>
  db.rows<TermBrief>(
    `
      select t.id, t.name, t.status
      from (
        select term_id from term_class where class_key = $1
        union
        select term_id from term_tag where tag_id = $2
      ) x
      join term t on t.id = x.term_id and t.removed_at is null
      order by t.name`,
    [key ?? null, tag ?? null],
  );

/**
 * Gives a class or a tag the term that says what it means, or takes it away; the history of the term tells it.
 * @throws 422 when the class or the tag is not there
 */
export async function carryTerm(
  tx: Db,
  who: Who,
  id: string,
  { class: key, tag, carries }: BodyOf<typeof termEndpoints.carry>,
): Promise<TermCarriers> {
  await carrierMustBeThere(tx, { key, tag });
  const told = async () => {
    const { classes, tags } = await termCarriers(tx, who, id);
    return { classes: classes.map(({ label }) => label), tags: tags.map(({ name }) => name) };
  };
  await say(tx, who, {
    action: 'edited',
    async held() {
      await tx.rows('select from term where id = $1 for update', [id]);
      return getTerm(tx, who, id);
    },
    may: () => who.mustAnywhere('editor'),
    async write() {
      const before = await told();
      const [table, column, value] = key === undefined ? ['term_tag', 'tag_id', tag] : ['term_class', 'class_key', key];
      await tx.run(
        carries
          ? `insert into ${table} (term_id, ${column}) values ($1, $2) on conflict do nothing`
          : `delete from ${table} where term_id = $1 and ${column} = $2`,
        [id, value],
      );
      return [before, await told()];
    },
    about: ({ name }) => ({ kind: 'term', id, name, domainId: null }),
  });
  return termCarriers(tx, who, id);
}

async function carrierMustBeThere(db: Db, { key, tag }: { key: string | undefined; tag: string | undefined }) {
  const there =
    key === undefined
      ? await db.one('select id from tag where id = $1 and removed_at is null', [tag])
      : (await knownClasses(db)).get(key);
  if (there) return;
  const field = key === undefined ? 'tag' : 'class';
  throw invalid(`The ${field} is not there any more.`, 'Choose another one.', [{ field, message: 'is not there' }]);
}

/** A class that goes leaves its terms. */
export const TERM_CLASS_USE: ClassUse = {
  forget: (tx, key) => tx.run('delete from term_class where class_key = $1', [key]),
};

/** What says the meaning of a tag says it of another one into which that is merged. */
export const passTermsOfTag = (tx: Db, from: string, into: string): Promise<number> =>
  tx.run(
    'insert into term_tag (term_id, tag_id) select term_id, $2 from term_tag where tag_id = $1 on conflict do nothing',
    [from, into],
  );
