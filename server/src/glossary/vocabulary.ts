import type { Concept, Scheme, Vocabulary } from '@idrel/core/glossary';
import type { Db } from '../platform/database.ts';

/** A term as it is compared, with its id; its owner by name. */
export type KeptConcept = Concept & { readonly id: string };
export type KeptVocabulary = Omit<Vocabulary, 'concepts'> & { readonly concepts: readonly KeptConcept[] };

/** All terms and schemes, or those of one scheme: what is broader and related lies perhaps in another. */
export async function readVocabulary(db: Db, schemeId?: string): Promise<KeptVocabulary> {
  const bind = [schemeId ?? null];
  const schemes = await db.rows<Scheme>(
    'select uri, name, language, description from scheme where $1::uuid is null or id = $1 order by created_at, id',
    bind,
  );
  const concepts = await db.rows<KeptConcept>(
    `
      select
        t.id, t.uri, s.uri as scheme, t.name, t.language, t.labels, t.definition, t.notes, t.matches, t.status, p.name as owner,
        coalesce(b.broader, '{}') as broader, coalesce(b.related, '{}') as related
      from term t
      join scheme s on s.id = t.scheme_id
      left join person p on p.id = t.owner_id
      left join (
        select
          r.term_id, array_agg(o.uri order by o.uri) filter (where r.kind = 'broader') as broader,
          array_agg(o.uri order by o.uri) filter (where r.kind = 'related') as related
        from term_relation r
        join term o on o.id = r.other_id and o.removed_at is null
        group by 1
      ) b on b.term_id = t.id
      where t.removed_at is null and ($1::uuid is null or t.scheme_id = $1)
      order by s.created_at, s.id, lower(t.name), t.id`,
    bind,
  );
  return { schemes, concepts };
}
