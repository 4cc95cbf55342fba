import type { ConflictAnswer } from '@idrel/contract/glossary';
import { type Conflict, conflictsIn, sameNames } from '@idrel/core/glossary';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { type KeptVocabulary, readVocabulary } from './vocabulary.ts';

/** So many of each kind are told. */
const TOLD = 500;

/** What is amiss among the terms; of assets only those count that the person may see. */
export async function termConflicts(db: Db, who: Who): Promise<{ items: ConflictAnswer[]; total: number }> {
  const vocabulary = await readVocabulary(db);
  const carried = await db.rows<{ uri: string; assets: number }>(
    `
      select t.uri, count(*)::int as assets
      from asset_term at
      join asset a on a.id = at.asset_id
      join term t on t.id = at.term_id
      where a.gone_at is null and ${isSeen('a', '$1')}
      group by 1`,
    [who.domainsAs('reader')],
  );
  const found = conflictsIn(vocabulary.concepts, new Map(carried.map(({ uri, assets }) => [uri, assets])));
  const schemes = new Map(vocabulary.schemes.map(({ uri, name }) => [uri, name]));
  const byUri = new Map(vocabulary.concepts.map((concept) => [concept.uri, concept]));
  const tell = ({ kind, detail, terms }: Conflict): ConflictAnswer => ({
    kind,
    detail,
    terms: terms.flatMap((uri) => {
      const concept = byUri.get(uri);
      return concept
        ? [{ id: concept.id, name: concept.name, status: concept.status, scheme: schemes.get(concept.scheme) ?? '' }]
        : [];
    }),
  });
  const inReports = await sameNamesInReports(db, who, vocabulary);
  const times = new Map<string, number>();
  const few = found.filter(({ kind }) => {
    const nth = (times.get(kind) ?? 0) + 1;
    times.set(kind, nth);
    return nth <= TOLD;
  });
  return {
    items: [...inReports.map(({ report, ...conflict }) => ({ ...tell(conflict), report })), ...few.map(tell)],
    total: found.length + inReports.length,
  };
}

/** Reports in which, or in whose fields, two terms stand that are called the same. */
async function sameNamesInReports(
  db: Db,
  who: Who,
  vocabulary: KeptVocabulary,
): Promise<(Conflict & { report: { id: string; name: string } })[]> {
  const ids = new Map(vocabulary.concepts.map(({ uri, id }) => [uri, id]));
  const uris = new Map(vocabulary.concepts.map(({ uri, id }) => [id, uri]));
  const pairs = [...sameNames(vocabulary.concepts)].flatMap(({ terms, detail }) =>
    terms.flatMap((a, at) => terms.slice(at + 1).map((b) => ({ a: ids.get(a), b: ids.get(b), detail }))),
  );
  if (pairs.length === 0) return [];
  const rows = await db.rows<{ id: string; name: string; a: string; b: string; detail: string }>(
    `
      with used as (
        select distinct r.id, r.name, at.term_id
        from asset r
        join asset x on x.id = r.id or x.parent_id = r.id
        join asset_term at on at.asset_id = x.id
        where r.kind = 'report' and r.gone_at is null and x.gone_at is null and ${isSeen('r', '$2')}
      )
      select u.id, u.name, p.a, p.b, p.detail
      from json_to_recordset($1::json) as p(a uuid, b uuid, detail text)
      join used u on u.term_id = p.a
      join used v on v.id = u.id and v.term_id = p.b
      order by u.name, p.detail
      limit ${TOLD}`,
    [JSON.stringify(pairs), who.domainsAs('reader')],
  );
  return rows.map(({ id, name, a, b, detail }) => ({
    kind: 'two in one report',
    terms: [uris.get(a) ?? '', uris.get(b) ?? ''],
    detail,
    report: { id, name },
  }));
}
