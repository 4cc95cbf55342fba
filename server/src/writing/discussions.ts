import type { AssetKind } from '@idrel/contract/things';
import type { Discussion, Remark } from '@idrel/contract/writing';
import type { Written } from '@idrel/core/writing';
import { FROM, getAsset, PATH } from '../catalog/index.ts';
import { change, create, type Kept } from '../journal/index.ts';
import { isSeen, ownedDomains, partiesOf, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { modelIn } from '../platform/models.ts';
import { forbidden, invalid, notFound } from '../platform/problems.ts';
import { excerpt, type KeptText, peopleIn, readWritten, shown } from './mentions.ts';
import { DISCUSSION, type DiscussionRow, REMARK, type RemarkRow } from './models.ts';
import { sayWords } from './words.ts';

const AT_ONCE = 50;
const REMARKS_MOST = 200;

const person = (id: string) =>
  `(select json_build_object('id', p.id, 'name', p.name, 'job', p.job) from person p where p.id = ${id})`;
/** A remark `r` as it is answered, but for the names of what it mentions; $1 is who asks. */
const REMARK_JSON = `
  json_build_object(
    'id', r.id, 'text', case when r.removed_at is null then r.text else '' end,
    'mentions', case when r.removed_at is null then r.mentions else '[]' end, 'plain', r.plain, 'by', ${person('r.person_id')}, 'at', r.at,
    'editedAt', r.edited_at, 'gone', r.removed_at is not null, 'mine', coalesce(r.person_id = $1, false), 'version', r.version
  )`;
/** Discussions `x` about assets `a` that may be seen; $1 is who asks, $2 the domains that they may read. */
const DISCUSSIONS = `
  select
    x.id, json_build_object('id', a.id, 'kind', a.kind, 'name', a.name, 'path', ${PATH}) as asset, x.question,
    x.settled_at as "settledAt", ${person('x.settled_by')} as "settledBy", x.answer_id as "answerId",
    (
      select coalesce(json_agg(${REMARK_JSON} order by r.at, r.id), '[]')
      from (
        (select * from remark f where f.discussion_id = x.id order by f.at, f.id limit 1)
        union
        (select * from remark l where l.discussion_id = x.id order by l.at desc, l.id desc limit ${REMARKS_MOST})
      ) r
    ) as remarks,
    a.domain_id as "domainId", x.begun_by as "begunBy", x.version
  from ${FROM}
  join discussion x on x.asset_id = a.id
  where ${isSeen('a', '$2')}`;

type RemarkRead = Remark & KeptText & { readonly plain: string };
interface Row extends Omit<Discussion, 'remarks' | 'maySettle' | 'mayWrite'> {
  readonly remarks: readonly RemarkRead[];
  readonly domainId: string;
  readonly begunBy: string | null;
}
interface Read extends Discussion {
  readonly domainId: string;
  /** What each remark says, without marks. */
  readonly plain: ReadonlyMap<string, string>;
}

/** Rows as somebody may read them: with the names of what is mentioned. */
async function readable(db: Db, who: Who, rows: readonly Row[]): Promise<Read[]> {
  const texts = await shown(
    db,
    who,
    rows.flatMap(({ remarks }) => remarks),
  );
  let next = 0;
  return rows.map(({ begunBy, remarks, ...row }) => ({
    ...row,
    plain: new Map(remarks.map(({ id, plain }) => [id, plain])),
    remarks: remarks.map(({ mentions: _mentions, plain: _plain, ...remark }) => {
      const text = texts[next] ?? '';
      next += 1;
      return { ...remark, text };
    }),
    maySettle: begunBy === who.id || who.is('editor', row.domainId),
    mayWrite: who.is('editor', row.domainId),
  }));
}

const answerOf = ({ domainId: _domainId, plain: _plain, ...discussion }: Read): Discussion => discussion;

async function readOne(db: Db, who: Who, id: string): Promise<Read> {
  const rows = await db.rows<Row>(`${DISCUSSIONS} and x.id = $3`, [who.id, who.domainsAs('reader'), id]);
  const [found] = await readable(db, who, rows);
  if (!found) throw notFound('The discussion');
  return found;
}

const aboutAsset = ({ asset, domainId }: Read) => ({
  kind: asset.kind as AssetKind,
  id: asset.id,
  name: asset.path,
  domainId,
});

const KEPT: Kept<DiscussionRow, Read> = {
  thing: 'discussion',
  model: DISCUSSION,
  read: readOne,
  told: (_db, { question, remarks, plain, settledAt, answerId }) => ({
    [question ? 'question' : 'discussion']: excerpt(plain.get(remarks[0]?.id ?? '') ?? ''),
    settled: settledAt === null ? null : 'yes',
    answer: answerId && excerpt(plain.get(answerId) ?? ''),
  }),
  subject: (_db, discussion) => aboutAsset(discussion),
};

/** What is discussed about an asset and what lies straight in it, as its columns do. */
export async function listDiscussions(
  db: Db,
  who: Who,
  assetId: string,
  settled: boolean,
): Promise<{ items: Discussion[]; open: number; settled: number }> {
  await getAsset(db, who, assetId);
  const here = '(a.id = $3 or a.parent_id = $3)';
  const bind = [who.id, who.domainsAs('reader'), assetId];
  const rows = await db.rows<Row>(
    `${DISCUSSIONS} and ${here} and (x.settled_at is not null) = $4 order by x.moved_at desc, x.id limit ${AT_ONCE}`,
    [...bind, settled],
  );
  const counts = await db.one<{ open: number; settled: number }>(
    `
      select
        count(*) filter (where x.settled_at is null)::int as open,
        count(*) filter (where x.settled_at is not null)::int as settled
      from asset a
      join discussion x on x.asset_id = a.id
      where ${isSeen('a', '$1')} and (a.id = $2 or a.parent_id = $2)`,
    [who.domainsAs('reader'), assetId],
  );
  return {
    items: (await readable(db, who, rows)).map(answerOf),
    open: counts?.open ?? 0,
    settled: counts?.settled ?? 0,
  };
}

/** A remark as it is to be kept. */
const remarkRow = (who: Who, discussionId: string, { text, mentions, plain }: Written) => ({
  discussionId,
  text,
  mentions,
  plain,
  personId: who.id,
});
/** What follows from a remark: those whom it mentions are told, and the asset is found by what is said. */
async function followed(tx: Db, who: Who, discussionId: string, assetId: string, kept: Written): Promise<void> {
  await tellMentioned(tx, who, discussionId, kept.mentions);
  await tx.run('update discussion set moved_at = now() where id = $1', [discussionId]);
  await sayAll(tx, assetId);
}

/** Whom a text mentions finds the discussion on the worklist, if they may see the asset at all: that is looked at when they do. */
async function tellMentioned(tx: Db, who: Who, discussionId: string, mentions: KeptText['mentions']): Promise<void> {
  const people = (await peopleIn(tx, mentions)).filter((id) => id !== who.id);
  await tx.run(
    `
      insert into mentioned (discussion_id, person_id)
      select $1, unnest($2::uuid[])
      on conflict (person_id, discussion_id)
      do update set at = now()`,
    [discussionId, people],
  );
}

/** An asset is found by what its open and settled discussions say, as long as that stands there. */
async function sayAll(tx: Db, assetId: string): Promise<void> {
  const said = await tx.one<{ text: string | null }>(
    `
      select string_agg(r.plain, E'\\n' order by r.at desc) as text
      from discussion x
      join remark r on r.discussion_id = x.id and r.removed_at is null
      where x.asset_id = $1`,
    [assetId],
  );
  await sayWords(tx, assetId, 'discussion', said?.text ?? '');
}

export async function beginDiscussion(
  tx: Db,
  who: Who,
  assetId: string,
  { question, text }: { question: boolean; text: string },
): Promise<Discussion> {
  await getAsset(tx, who, assetId);
  const kept = readWritten(text);
  const parts = async (id: string) => {
    // The journal tells it with the discussion.
    await modelIn(tx, REMARK).create(remarkRow(who, id, kept), tx.here);
    await followed(tx, who, id, assetId, kept);
  };
  const values = { assetId, question, begunBy: who.id };
  return answerOf(await create(tx, who, KEPT, values, { parts, action: question ? 'asked' : 'discussion begun' }));
}

/** Adds a remark; a discussion that was settled is open again. */
export async function addRemark(tx: Db, who: Who, id: string, text: string): Promise<Discussion> {
  const { asset, settledAt } = await readOne(tx, who, id);
  const kept = readWritten(text);
  await create(tx, who, REMARKS, remarkRow(who, id, kept), { action: 'remarked' });
  await followed(tx, who, id, asset.id, kept);
  if (settledAt) {
    const values = { settledAt: null, settledBy: null, answerId: null };
    await change(tx, who, KEPT, id, { version: null, values, action: 'opened again' });
  }
  return answerOf(await readOne(tx, who, id));
}

/** Settles a discussion, perhaps by the remark that answers it; or opens it again. */
export async function settleDiscussion(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { settled, answerId }: { settled: boolean; answerId?: string | undefined },
): Promise<Discussion> {
  const { after } = await change(tx, who, KEPT, id, {
    version,
    values(now) {
      if (!now.maySettle) throw forbidden('editor in its domain, or to have begun it');
      if (answerId && !now.remarks.some((remark) => remark.id === answerId && !remark.gone))
        throw notFound('The remark that answers');
      if (answerId && !settled)
        throw invalid('What is open has no answer yet.', 'Settle it with the answer, or leave the answer out.', [
          { field: 'answerId', message: 'belongs to what is settled' },
        ]);
      return settled
        ? { settledAt: new Date(), settledBy: who.id, answerId: answerId ?? null }
        : { settledAt: null, settledBy: null, answerId: null };
    },
    action: settled ? 'settled' : 'opened again',
  });
  // What is settled waits for nobody.
  if (settled) await tx.run('delete from mentioned where discussion_id = $1', [id]);
  return answerOf(after);
}

/** Takes a discussion off the worklist of whoever is mentioned in it, or puts it back. */
export async function noteDiscussion(tx: Db, who: Who, id: string, noted: boolean): Promise<void> {
  await readOne(tx, who, id);
  await tx.run(
    noted
      ? 'delete from mentioned where discussion_id = $1 and person_id = $2'
      : 'insert into mentioned (discussion_id, person_id) values ($1, $2) on conflict do nothing',
    [id, who.id],
  );
}

interface ReadRemark extends Remark {
  readonly plain: string;
  readonly discussion: Read;
}

const REMARKS: Kept<RemarkRow, ReadRemark> = {
  thing: 'remark',
  model: REMARK,
  async read(db, who, id) {
    const place = await db.one<{ id: string; remark: RemarkRead }>(
      `select r.discussion_id as id, ${REMARK_JSON} as remark from remark r where r.id = $2`,
      [who.id, id],
    );
    if (!place) throw notFound('The remark');
    const discussion = await readOne(db, who, place.id);
    const { mentions, ...remark } = place.remark;
    const [text = ''] = await shown(db, who, [{ text: remark.text, mentions }]);
    return { ...remark, text, discussion };
  },
  told: (_db, { plain, gone }) => ({ remark: gone ? null : excerpt(plain) }),
  subject: (_db, { discussion }) => aboutAsset(discussion),
};
const remarkOf = ({ discussion: _discussion, plain: _plain, ...remark }: ReadRemark): Remark => remark;

export async function changeRemark(tx: Db, who: Who, id: string, version: number, text: string): Promise<Remark> {
  const kept = readWritten(text);
  const { after } = await change(tx, who, REMARKS, id, {
    version,
    values(now) {
      if (!now.mine) throw forbidden('to have written it');
      if (now.gone) throw notFound('The remark');
      return { text: kept.text, mentions: kept.mentions, plain: kept.plain, editedAt: new Date() };
    },
    action: 'remark changed',
  });
  await tellMentioned(tx, who, after.discussion.id, kept.mentions);
  await sayAll(tx, after.discussion.asset.id);
  return remarkOf(after);
}

/** Takes a remark away, or brings it back: by who wrote it, or a steward of the domain. */
export async function takeRemark(tx: Db, who: Who, id: string, away: boolean): Promise<Remark> {
  const { after } = await change(tx, who, REMARKS, id, {
    version: null,
    values(now) {
      if (!now.mine) who.must('steward', now.discussion.domainId);
      if (now.gone === away) throw notFound('The remark');
      return { removedAt: away ? new Date() : null };
    },
    action: away ? 'remark taken away' : 'remark brought back',
  });
  await sayAll(tx, after.discussion.asset.id);
  return remarkOf(after);
}

/** Open discussions that wait for a person: questions about what they answer for, and those in which they are mentioned. */
export async function waitingFor(db: Db, who: Who, limit: number): Promise<{ items: Waiting[]; total: number }> {
  const rows = await db.rows<{ id: string; why: Waiting['why']; total: number }>(WAITING, [
    who.id,
    who.domainsAs('reader'),
    [...who.domainsAs('steward'), ...(await ownedDomains(db, who.id))],
    limit,
  ]);
  if (rows.length === 0) return { items: [], total: 0 };
  const found = await db.rows<Row>(`${DISCUSSIONS} and x.id = any($3::uuid[])`, [
    who.id,
    who.domainsAs('reader'),
    rows.map(({ id }) => id),
  ]);
  const known = new Map((await readable(db, who, found)).map((entry) => [entry.id, answerOf(entry)]));
  return {
    items: rows.flatMap(({ id, why }) => {
      const discussion = known.get(id);
      return discussion ? [{ discussion, why }] : [];
    }),
    total: rows[0]?.total ?? 0,
  };
}
export interface Waiting {
  readonly discussion: Discussion;
  readonly why: 'asked' | 'mentioned';
}

/**
 * $1 who, $2 the domains they may read, $3 those in which they are a steward or for which they answer, $4 how many. A question waits for the owners and stewards of the asset or the nearest
 * of what it lies in that has some; where there are none, for whoever answers for its domain, and its stewards. What somebody asked themselves does not wait for them.
 */
const WAITING = `
  with recursive open as (
    select x.id, x.asset_id, x.begun_by, x.begun_at
    from discussion x
    join asset a on a.id = x.asset_id
    where x.question and x.settled_at is null and a.gone_at is null and ${isSeen('a', '$2')}
  ),
  up as (
    select o.id, a.id as asset_id, a.parent_id, a.domain_id, 0 as distance
    from open o
    join asset a on a.id = o.asset_id
    union all
    select u.id, p.id, p.parent_id, u.domain_id, u.distance + 1
    from up u
    join asset p on p.id = u.parent_id
    where not exists (select from asset_person ap where ap.asset_id = u.asset_id and ap.role in ('owner', 'steward'))
  ),
  last as (select distinct on (id) * from up order by id, distance desc),
  waits as (
    select l.id, 'asked' as why
    from last l
    join open o on o.id = l.id
    where o.begun_by is distinct from $1
      and case
        when exists (select from asset_person ap where ap.asset_id = l.asset_id and ap.role in ('owner', 'steward'))
          then exists (
            select
            from asset_person ap
            where ap.asset_id = l.asset_id and ap.role in ('owner', 'steward') and ap.person_id in (${partiesOf('$1')})
          )
        else l.domain_id = any($3::uuid[])
      end
    union all
    select m.discussion_id, 'mentioned'
    from mentioned m
    join discussion x on x.id = m.discussion_id and x.settled_at is null
    join asset a on a.id = x.asset_id
    where m.person_id = $1 and a.gone_at is null and ${isSeen('a', '$2')}
  ),
  each as (select id, min(why) as why from waits group by id)
  select e.id, e.why, count(*) over ()::int as total
  from each e
  join discussion x on x.id = e.id
  order by x.begun_at, x.id
  limit $4`;
