import type { DetectorSetAnswer, DetectorSetBody } from '@idrel/contract/recognition';
import { DETECTORS } from '@idrel/core/recognition';
import { change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid, notFound } from '../platform/problems.ts';
import { DETECTOR_SET, type DetectorSetRow } from './models.ts';

type Row = Omit<DetectorSetAnswer, 'detectors' | 'all'>;

const SELECT = `
  select
    t.id, t.name, t.description, t.leaves_out as "leavesOut", t.file_kinds as "fileKinds", t.sampling, t.version,
    coalesce(
      (
        select json_agg(json_build_object('id', p.id, 'name', p.name, 'source', s.name) order by s.name, p.name)
        from scan_plan p
        join source s on s.id = p.source_id
        where p.options ->> 'detectorSetId' = t.id::text and s.domain_id = any($1::uuid[])
      ),
      '[]'
    ) as plans,
    (
      select count(*)::int
      from scan_plan p
      join source s on s.id = p.source_id
      where p.options ->> 'detectorSetId' = t.id::text and s.domain_id <> all($1::uuid[])
    ) as "plansElsewhere"
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

const setForJournal = ({ name, description, leavesOut, fileKinds, sampling }: DetectorSetBody) => ({
  name,
  description,
  leavesOut: [...leavesOut].sort().join(', ') || 'nothing',
  fileKinds: fileKinds?.join(', ') ?? 'as each plan says',
  sampling: sampling ? `${sampling.rows} ${sampling.method} rows` : 'as each plan says',
});

const SETS: Kept<DetectorSetRow, DetectorSetAnswer> = {
  thing: 'detector set',
  model: DETECTOR_SET,
  read: getSet,
  told: (_db, set) => setForJournal(set),
};

export async function addSet(tx: Db, who: Who, body: DetectorSetBody): Promise<DetectorSetAnswer> {
  await check(tx, body);
  return create(tx, who, SETS, { ...body, madeBy: who.id });
}

export async function changeSet(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: DetectorSetBody,
): Promise<DetectorSetAnswer> {
  await check(tx, body);
  return (await change(tx, who, SETS, id, { version, values: body })).after;
}

export async function removeSet(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, SETS, id, {
    unless(set) {
      const uses = set.plans.length + set.plansElsewhere;
      if (uses === 0) return;
      const named = set.plans.map((plan) => `${plan.name} of ${plan.source}`).join(', ');
      throw conflict(
        'set-used',
        `${uses === 1 ? 'One plan uses' : `${uses} plans use`} this set${named ? `: ${named}` : ''}.`,
        'Give them another set first.',
      );
    },
  });
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
