import { randomUUID } from 'node:crypto';
import type { TermAnswer, TermLine, termEndpoints } from '@idrel/contract/glossary';
import type { BodyOf, QueryOf } from '@idrel/contract/http';
import { wantedWords } from '@idrel/core/catalog';
import { type Concept, labelsOf, statusAllowed } from '@idrel/core/glossary';
import { fold, nameWords } from '@idrel/core/text';
import { bringBack, change, create, type Kept, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, forbidden, invalid, notFound } from '../platform/problems.ts';
import { wordsVector } from '../scanning/index.ts';
import { TERM, type TermRow } from './models.ts';
import { approver, firstScheme, MAY_APPROVE, SCHEMES } from './schemes.ts';

/** So many narrower terms are named with a term; a list has the others. */
const NARROWER = 200;
/** So many lines of the tree come at once, and up to so many terms all of them are shown unasked. */
const LINES = 1000;
const OPEN_UP_TO = 300;

/** How many assets of some domains carry a term `t` and are there. */
const assetsIn = (domains: string) => `
  (
    select count(*)::int
    from asset_term at
    join asset a on a.id = at.asset_id
    where at.term_id = t.id and a.gone_at is null and ${isSeen('a', domains)}
  )`;

/** Terms at the other end of relations of `t`. */
const others = (kind: 'broader' | 'related', way: 'up' | 'down', most = 1000) => {
  const [own, other] = way === 'up' ? ['term_id', 'other_id'] : ['other_id', 'term_id'];
  return `
    coalesce((
      select json_agg(json_build_object('id', o.id, 'name', o.name, 'status', o.status, 'scheme', o.scheme) order by lower(o.name), o.id)
      from (
        select x.id, x.name, x.status, xs.name as scheme
        from term_relation r
        join term x on x.id = r.${other} and x.removed_at is null
        join scheme xs on xs.id = x.scheme_id
        where r.${own} = t.id and r.kind = '${kind}'
        order by lower(x.name), x.id
        limit ${most}
      ) o
    ), '[]')`;
};

const NARROWER_COUNT = `
  (
    select count(*)::int
    from term_relation r
    join term x on x.id = r.term_id and x.removed_at is null
    where r.other_id = t.id and r.kind = 'broader'
  )`;

const SELECT = `
  select
    t.id, t.uri, t.scheme_id as "schemeId", s.name as scheme, t.name, t.language, t.labels, t.definition, t.notes, t.matches, t.status,
    t.owner_id as "ownerId", p.name as owner, t.version, $5::boolean as "mayEdit", ${MAY_APPROVE} as "mayApprove", ${assetsIn('$4')} as assets,
    ${others('broader', 'up')} as broader, ${others('broader', 'down', NARROWER)} as narrower, ${others('related', 'up')} as related,
    ${NARROWER_COUNT} as "narrowerCount"
  from term t
  join scheme s on s.id = t.scheme_id
  left join person p on p.id = t.owner_id
  where t.removed_at is null`;
const asked = (who: Who) => [...approver(who), who.domainsAs('reader'), who.isAnywhere('editor')];

const TERMS: Kept<TermRow, TermAnswer> = {
  thing: 'term',
  model: TERM,
  async read(db, who, id) {
    const term = await db.one<TermAnswer>(`${SELECT} and t.id = $6`, [...asked(who), id]);
    if (!term) throw notFound('The term');
    return term;
  },
  told: (_db, term) => toldOfTerm(term),
};

/** What the journal keeps of a term, in words. */
export function toldOfTerm(
  term: Pick<Concept, 'name' | 'language' | 'labels' | 'definition' | 'notes' | 'matches' | 'status'> & {
    readonly scheme: string;
    readonly owner: string | null;
    readonly broader: readonly { readonly name: string }[];
    readonly related: readonly { readonly name: string }[];
  },
) {
  const { scheme, name, language, labels, definition, notes, matches, status, owner, broader, related } = term;
  const said = ({ kind, language: of, text }: { kind: string; language: string; text: string }) =>
    `${kind}${of && of !== language ? ` (${of})` : ''}: ${text}`;
  return {
    scheme,
    name,
    language,
    labels: labels.map(said),
    definition,
    notes: notes.map(said),
    broader: broader.map((other) => other.name),
    related: related.map((other) => other.name),
    matches: matches.map(({ kind, uri }) => `${kind}: ${uri}`),
    status,
    owner,
  };
}

export const getTerm = (db: Db, who: Who, id: string): Promise<TermAnswer> => TERMS.read(db, who, id);

/** $1 domains in which the person may read. */
const LINE = `t.id, t.name, s.name as scheme, t.status, ${assetsIn('$1')} as assets, ${NARROWER_COUNT} as narrower`;

/** Terms whose labels have all the words, those whose name fits best first. */
export async function findTerms(
  db: Db,
  who: Who,
  { search, scheme, status, limit, offset }: QueryOf<typeof termEndpoints.list>,
): Promise<{ items: TermLine[]; total: number; next: string | null }> {
  const words = wantedWords(search);
  const query = words.map((word) => `'${word}':*`).join(' & ');
  const rows = await db.rows<TermLine & { total: number; labels: Concept['labels']; language: string }>(
    `
      with found as (
        select
          t.*, count(*) over ()::int as total,
          case when lower(t.name) = lower($2) then 0 when starts_with(lower(t.name), lower($2)) then 1 else 2 end as fits
        from term t
        where t.removed_at is null
          and ($2 = '' or t.words @@ $3::tsquery)
          and ($4::uuid is null or t.scheme_id = $4)
          and ($5::text is null or t.status = $5)
        order by fits, lower(t.name), t.id
        limit $6 offset $7
      )
      select ${LINE}, t.labels, t.language, 0 as depth, t.total
      from found t
      join scheme s on s.id = t.scheme_id
      order by t.fits, lower(t.name), t.id`,
    [who.domainsAs('reader'), search, query, scheme ?? null, status ?? null, limit, offset],
  );
  const total = rows[0]?.total ?? 0;
  return {
    items: rows.map(({ total: _total, labels, language, ...line }) => ({
      ...line,
      by: words.length === 0 ? null : foundBy({ name: line.name, language, labels }, words),
    })),
    total,
    next: offset + rows.length < total ? String(offset + rows.length) : null,
  };
}

/** The label that has the words, where the name does not have them. */
function foundBy(term: Pick<Concept, 'name' | 'language' | 'labels'>, words: readonly string[]): string | null {
  const has = (text: string) => {
    const own = [...nameWords(text), fold(text).replace(/[^\p{L}\p{N}]/gu, '')];
    return words.every((word) => own.some((other) => other.startsWith(word)));
  };
  if (has(term.name)) return null;
  return labelsOf(term).find(({ text }) => has(text))?.text ?? null;
}

/** Terms below their broader ones, as far as they are open; one below two stands twice. */
export async function termTree(
  db: Db,
  who: Who,
  { scheme, open: wanted }: QueryOf<typeof termEndpoints.tree>,
): Promise<{ lines: TermLine[]; terms: number; open: string[] | null; more: boolean }> {
  const counted = await db.one<{ terms: number }>(
    'select count(*)::int as terms from term where removed_at is null and ($1::uuid is null or scheme_id = $1)',
    [scheme ?? null],
  );
  const terms = counted?.terms ?? 0;
  const open = wanted === undefined ? (terms <= OPEN_UP_TO ? null : []) : wanted.split(',').filter(Boolean);
  for (const id of open ?? [])
    if (!/^[0-9a-f-]{36}$/.test(id)) throw invalid(`“${id}” is no id.`, 'Write ids with commas between.');
  const lines = await db.rows<TermLine>(
    `
      with recursive line as (
        select t.id, array[lower(t.name), t.id::text] as place, array[t.id] as way
        from term t
        where t.removed_at is null
          and ($2::uuid is null or t.scheme_id = $2)
          and not exists (
            select 1
            from term_relation r
            join term b on b.id = r.other_id and b.removed_at is null and ($2::uuid is null or b.scheme_id = $2)
            where r.term_id = t.id and r.kind = 'broader'
          )
        union all
        select c.id, l.place || array[lower(c.name), c.id::text], l.way || c.id
        from line l
        join term_relation r on r.other_id = l.id and r.kind = 'broader'
        join term c on c.id = r.term_id and c.removed_at is null and ($2::uuid is null or c.scheme_id = $2)
        where ($3::uuid[] is null or l.id = any($3)) and c.id <> all(l.way)
      ),
      -- Below several others a term stands several times: there is an end to it.
      some_lines as (select * from line limit ${LINES * 3}),
      shown as (select * from some_lines order by place limit ${LINES + 1})
      select ${LINE}, cardinality(l.way) - 1 as depth, null as by
      from shown l
      join term t on t.id = l.id
      join scheme s on s.id = t.scheme_id
      order by l.place`,
    [who.domainsAs('reader'), scheme ?? null, open],
  );
  return { lines: lines.slice(0, LINES), terms, open, more: lines.length > LINES };
}

/** Relations are changed in turn: a circle could come about by two changes at once. */
const inTurn = (tx: Db) => tx.run("select pg_advisory_xact_lock(hashtext('term.relation'))");

/** @throws 422 when one of the broader terms lies below the term */
async function checkBroader(tx: Db, id: string, broaderIds: readonly string[]): Promise<void> {
  const circle = await tx.one<{ name: string }>(
    `
      with recursive up as (
        select t.id, t.id as start from term t where t.id = any($1::uuid[])
        union
        select r.other_id, up.start from term_relation r join up on r.term_id = up.id and r.kind = 'broader'
      )
      select t.name from up join term t on t.id = up.start where up.id = $2`,
    [broaderIds, id],
  );
  if (circle)
    throw invalid(
      `“${circle.name}” lies below this term already: that would be a circle.`,
      'Choose another broader term.',
      [{ field: 'broaderIds', message: 'makes a circle' }],
    );
}

type Body = BodyOf<typeof termEndpoints.change>;

/** Writes what lies beside the row of a term. @returns whether anything is other than before */
async function setRelations(tx: Db, id: string, { broaderIds, relatedIds }: Body): Promise<boolean> {
  if (broaderIds) await checkBroader(tx, id, broaderIds);
  let rows = 0;
  for (const [kind, ids] of [
    ['broader', broaderIds],
    ['related', relatedIds],
  ] as const) {
    if (!ids) continue;
    const known = await tx.rows('select id from term where id = any($1::uuid[]) and removed_at is null and id <> $2', [
      ids,
      id,
    ]);
    if (known.length < ids.length)
      throw invalid(`One of the ${kind} terms is not there any more, or is the term itself.`, 'Choose others.', [
        { field: `${kind}Ids`, message: 'is not there' },
      ]);
    // What is related is so in both directions. Ends that are removed keep their relation: they may be brought back.
    const both = kind === 'related' ? ' or (other_id = $1 and term_id <> all($3::uuid[]))' : '';
    rows += await tx.run(
      `
        delete from term_relation r
        where kind = $2 and ((term_id = $1 and other_id <> all($3::uuid[]))${both})
          and not exists (select 1 from term t where t.id in (r.term_id, r.other_id) and t.removed_at is not null)`,
      [id, kind, ids],
    );
    rows += await tx.run(
      `
        insert into term_relation (term_id, kind, other_id)
        select $1, $2, o from unnest($3::uuid[]) o
        union all
        select o, $2, $1 from unnest($3::uuid[]) o where $2 = 'related'
        on conflict do nothing`,
      [id, kind, ids],
    );
  }
  return rows > 0;
}

/** The words of a term's labels, by which what carries it is found. */
export const termWords = (term: Pick<Concept, 'name' | 'language' | 'labels'>): string =>
  wordsVector(
    labelsOf(term).map(({ text }) => text),
    [],
  );
const spell = (tx: Db, term: TermAnswer) =>
  tx.run('update term set words = $2::tsvector where id = $1', [term.id, termWords(term)]);

/** Words of terms of which they are not worked out yet: those that were there before there were any. */
export async function spellTerms(tx: Db): Promise<void> {
  const terms = await tx.rows<Pick<TermRow, 'id' | 'name' | 'language' | 'labels'>>(
    'select id, name, language, labels from term where words is null',
  );
  for (const term of terms)
    await tx.run('update term set words = $2::tsvector where id = $1', [term.id, termWords(term)]);
}

/** @throws 409 when another term of the scheme is called so */
async function checkName(tx: Db, id: string | null, schemeId: string, name: string): Promise<void> {
  await tx.run("select pg_advisory_xact_lock(hashtext('term.name ' || $1))", [schemeId]);
  const other = await tx.one<{ scheme: string }>(
    `
      select s.name as scheme
      from term t
      join scheme s on s.id = t.scheme_id
      where t.scheme_id = $1 and lower(t.name) = lower($2) and t.removed_at is null and ($3::uuid is null or t.id <> $3)`,
    [schemeId, name, id],
  );
  if (other)
    throw conflict(
      'name-taken',
      `There already is a term named “${name}” in ${other.scheme}.`,
      'Choose another name, or another scheme.',
    );
}

const rowOf = ({ broaderIds: _b, relatedIds: _r, ...row }: Body): Partial<TermRow> => row;

export async function addTerm(tx: Db, who: Who, body: BodyOf<typeof termEndpoints.create>): Promise<TermAnswer> {
  const scheme = body.schemeId ? await SCHEMES.read(tx, who, body.schemeId) : await firstScheme(tx, who);
  await checkName(tx, null, scheme.id, body.name);
  await inTurn(tx);
  const wanted = body.status ?? 'draft';
  const made = await create(
    tx,
    who,
    TERMS,
    {
      uri: `urn:uuid:${randomUUID()}`,
      language: scheme.language,
      ...rowOf(body),
      schemeId: scheme.id,
      status: scheme.mayApprove ? wanted : statusAllowed(null, wanted, true),
    },
    { parts: (id) => setRelations(tx, id, body) },
  );
  await spell(tx, made);
  return made;
}

/** Fields that are about who and how far, not about what a term means. */
const ASIDE: readonly (keyof Body)[] = ['status', 'ownerId', 'matches'];

export async function changeTerm(tx: Db, who: Who, id: string, version: number, body: Body): Promise<TermAnswer> {
  if (body.broaderIds || body.relatedIds) await inTurn(tx);
  const { after } = await change(tx, who, TERMS, id, {
    version,
    async values(before) {
      const scheme =
        body.schemeId && body.schemeId !== before.schemeId ? await SCHEMES.read(tx, who, body.schemeId) : null;
      if (scheme || (body.name !== undefined && body.name.toLowerCase() !== before.name.toLowerCase()))
        await checkName(tx, id, scheme?.id ?? before.schemeId, body.name ?? before.name);
      if (before.mayApprove && (scheme?.mayApprove ?? true)) return rowOf(body);
      const means = (Object.keys(body) as (keyof Body)[]).some(
        (field) => !ASIDE.includes(field) && differs(before, body, field),
      );
      return { ...rowOf(body), status: statusAllowed(before.status, body.status ?? before.status, means) };
    },
    parts: () => setRelations(tx, id, body),
  });
  await spell(tx, after);
  return after;
}

function differs(before: TermAnswer, body: Body, field: keyof Body): boolean {
  if (field === 'broaderIds' || field === 'relatedIds') {
    const now = (field === 'broaderIds' ? before.broader : before.related).map((other) => other.id);
    return [...now].sort().join() !== [...(body[field] ?? now)].sort().join();
  }
  return JSON.stringify(before[field]) !== JSON.stringify(body[field]);
}

/** What carried it is kept out of sight, so that it can be brought back. */
export async function removeTerm(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, TERMS, id, {
    unless: ({ status, mayApprove, scheme }) => {
      if ((status === 'agreed' || status === 'retired') && !mayApprove)
        throw forbidden(`the one who agrees to terms of ${scheme}`);
    },
    leaving: { removedAt: new Date() },
  });
}

export async function bringBackTerm(tx: Db, who: Who, id: string): Promise<TermAnswer> {
  const gone = await tx.one<{ name: string; schemeId: string }>(
    'select name, scheme_id as "schemeId" from term where id = $1 and removed_at is not null',
    [id],
  );
  if (gone) await checkName(tx, id, gone.schemeId, gone.name);
  return bringBack(tx, who, TERMS, id, { isGone: ({ removedAt }) => removedAt !== null, values: { removedAt: null } });
}
