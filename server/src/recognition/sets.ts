import type { DetectorSetAnswer, DetectorSetBody } from '@idrel/contract/recognition';
import { DETECTORS } from '@idrel/core/recognition';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid, mustBeCurrent, nameTaken, notFound } from '../platform/problems.ts';

type Row = Omit<DetectorSetAnswer, 'detectors' | 'all'>;

const SELECT = `select t.id, t.name, t.description, t.leaves_out as "leavesOut", t.file_kinds as "fileKinds", t.sampling, t.version,
    coalesce((select json_agg(json_build_object('id', p.id, 'name', p.name, 'source', s.name) order by s.name, p.name) from scan_plan p join source s on s.id = p.source_id where p.options ->> 'detectorSetId' = t.id::text and s.domain_id = any($1::uuid[])), '[]') as plans,
    (select count(*)::int from scan_plan p join source s on s.id = p.source_id where p.options ->> 'detectorSetId' = t.id::text and s.domain_id <> all($1::uuid[])) as "plansElsewhere"
  from detector_set t`;

/** Ids of all detectors, those of the organisation too. */
const allIds = async (db: Db): Promise<string[]> => [
  ...DETECTORS.map((detector) => detector.id),
  ...(await db.rows<{ id: string }>('select id from detector order by 1')).map((row) => row.id),
];

const toAnswer = (row: Row, ids: readonly string[]): DetectorSetAnswer => ({
  ...row,
  all: ids.length,
  detectors: ids.filter((id) => !row.leavesOut.includes(id)).length,
});

function must(who: Who): void {
  if (!who.isAnywhere('steward')) who.mustAnywhere('source administrator');
}

async function check(db: Db, { leavesOut }: DetectorSetBody): Promise<void> {
  const ids = await allIds(db);
  const unknown = leavesOut.filter((id) => !ids.includes(id));
  if (unknown.length > 0)
    throw invalid(
      `There is no detector ${unknown.join(', ')}.`,
      'Name detectors by their ids, as the list of detectors has them.',
      [{ field: 'leavesOut', message: `does not know ${unknown.join(', ')}` }],
    );
  if (leavesOut.length === ids.length)
    throw invalid(
      'The set leaves out every detector.',
      'Choose at least one; a plan that only reads structure says so itself.',
      [{ field: 'leavesOut', message: 'leaves nothing' }],
    );
}

export const listSets = async (db: Db, who: Who): Promise<DetectorSetAnswer[]> => {
  const ids = await allIds(db);
  return (await db.rows<Row>(`${SELECT} order by lower(t.name)`, [who.domainsAs('reader')])).map((row) =>
    toAnswer(row, ids),
  );
};

async function getSet(db: Db, who: Who, id: string): Promise<DetectorSetAnswer> {
  const row = await db.one<Row>(`${SELECT} where t.id = $2`, [who.domainsAs('reader'), id]);
  if (!row) throw notFound('The detector set');
  return toAnswer(row, await allIds(db));
}

const spoken = ({ name, description, leavesOut, fileKinds, sampling }: DetectorSetBody) => ({
  name,
  description,
  leavesOut: [...leavesOut].sort().join(', ') || 'nothing',
  fileKinds: fileKinds?.join(', ') ?? 'as each plan says',
  sampling: sampling ? `${sampling.rows} ${sampling.method} rows` : 'as each plan says',
});

export async function saveSet(
  tx: Db,
  who: Who,
  id: string | null,
  version: number | undefined,
  body: DetectorSetBody,
): Promise<DetectorSetAnswer> {
  must(who);
  await check(tx, body);
  const values = [
    body.name,
    body.description,
    body.leavesOut,
    body.fileKinds,
    body.sampling && JSON.stringify(body.sampling),
  ];
  const taken = (error: unknown) => nameTaken(error, body.name);
  if (id === null) {
    const [made] = await tx
      .rows<{ id: string }>(
        'insert into detector_set (name, description, leaves_out, file_kinds, sampling, made_by) values ($1, $2, $3, $4, $5, $6) returning id',
        [...values, who.id],
      )
      .catch(taken);
    await record(
      tx,
      who.id,
      'created',
      { kind: 'detector set', id: made?.id ?? '', name: body.name, domainId: null },
      null,
      spoken(body),
    );
    return getSet(tx, who, made?.id ?? '');
  }
  await tx.rows('select 1 from detector_set where id = $1 for update', [id]);
  const before = await getSet(tx, who, id);
  mustBeCurrent(version, before);
  await tx
    .run(
      'update detector_set set name = $2, description = $3, leaves_out = $4, file_kinds = $5, sampling = $6, version = version + 1 where id = $1',
      [id, ...values],
    )
    .catch(taken);
  await record(
    tx,
    who.id,
    'edited',
    { kind: 'detector set', id, name: body.name, domainId: null },
    spoken(before),
    spoken(body),
  );
  return getSet(tx, who, id);
}

export async function removeSet(tx: Db, who: Who, id: string): Promise<void> {
  must(who);
  await tx.rows('select 1 from detector_set where id = $1 for update', [id]);
  const set = await getSet(tx, who, id);
  const uses = set.plans.length + set.plansElsewhere;
  if (uses > 0)
    throw conflict(
      'set-used',
      `${uses === 1 ? 'One plan uses' : `${uses} plans use`} this set${set.plans.length > 0 ? `: ${set.plans.map((plan) => `${plan.name} of ${plan.source}`).join(', ')}` : ''}.`,
      'Give them another set first.',
    );
  await tx.run('delete from detector_set where id = $1', [id]);
  await record(tx, who.id, 'removed', { kind: 'detector set', id, name: set.name, domainId: null }, spoken(set), null);
}

/** @throws 422 when the set is not there */
export async function mustHaveSet(db: Db, setId: string): Promise<void> {
  if (!(await db.one('select 1 as yes from detector_set where id = $1', [setId])))
    throw invalid('The detector set is not there any more.', 'Choose another one.', [
      { field: 'options.detectorSetId', message: 'is not there' },
    ]);
}

/** What a set says of a run: which detectors do not look, and of which files and rows they are given values, where it says so. Nothing when it is gone: then all look. */
export async function setOptions(db: Db, setId: string): Promise<{ leavesOut: readonly string[]; reading: object }> {
  const set = await db.one<Pick<Row, 'leavesOut' | 'fileKinds' | 'sampling'>>(
    'select leaves_out as "leavesOut", file_kinds as "fileKinds", sampling from detector_set where id = $1',
    [setId],
  );
  return {
    leavesOut: set?.leavesOut ?? [],
    reading: { ...(set?.fileKinds ? { fileKinds: set.fileKinds } : {}), ...(set?.sampling ?? {}) },
  };
}
