import type { SwitchEffect } from '@idrel/contract/recognition';
import { DETECTORS } from '@idrel/core/recognition';
import { PATH } from '../catalog/index.ts';
import { say } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { detectorsNow, knownClasses } from './registry.ts';

/** Switches detectors off for the whole organisation, or on again; runs that are queued look as it was then. */
export async function switchDetectors(tx: Db, who: Who, ids: readonly string[], off: boolean): Promise<void> {
  const known = new Set([
    ...DETECTORS.map((detector) => detector.id),
    ...(await tx.rows<{ id: string }>('select id from detector')).map((row) => row.id),
  ]);
  const unknown = ids.filter((id) => !known.has(id));
  await say(tx, who, {
    action: off ? 'switched off' : 'switched on',
    async held() {
      const rows = await tx.rows<{ id: string }>(
        'select detector_id as id from detector_off where detector_id = any($1::text[]) for update',
        [ids],
      );
      return new Set(rows.map(({ id }) => id));
    },
    may() {
      who.mustAnywhere('steward');
      if (unknown.length > 0)
        throw invalid(`There is no detector ${unknown.join(', ')}.`, 'Name detectors by their ids.', [
          { field: 'ids', message: `does not know ${unknown.join(', ')}` },
        ]);
    },
    async write(areOff) {
      const switched = ids.filter((id) => areOff.has(id) !== off);
      if (off)
        await tx.run(
          'insert into detector_off (detector_id, off_by) select unnest($1::text[]), $2 on conflict do nothing',
          [switched, who.id],
        );
      else await tx.run('delete from detector_off where detector_id = any($1::text[])', [switched]);
      const after = { detectors: switched.join(', ') };
      return switched.length > 0 ? [null, after] : [after, after];
    },
    about: () => ({
      kind: 'detector',
      id: ids[0] ?? '',
      name: ids.length === 1 ? (ids[0] ?? '') : `${ids.length} detectors`,
      domainId: null,
    }),
  });
}

/** What carries a class by these detectors: it stays until the next scan of its source, and what people confirmed stays for good. */
export async function switchEffect(db: Db, who: Who, ids: readonly string[]): Promise<SwitchEffect> {
  const carrying = `
    from finding f
    join asset a on a.id = f.asset_id
    join source s on s.id = a.source_id
    left join finding_decision d on d.asset_id = f.asset_id and d.class_key = f.class_key
    where f.detector = any($1::text[])
      and a.gone_at is null
      and ${isSeen('a', '$2')}
      and coalesce(d.decision, f.state) <> 'dismissed'`;
  const bind = [ids, who.domainsAs('reader')];
  const counts = await db.one<{ columns: number; confirmed: number }>(
    `select count(*)::int as columns, count(*) filter (where d.decision = 'confirmed')::int as confirmed ${carrying}`,
    bind,
  );
  const shown = await db.rows<SwitchEffect['shown'][number]>(
    `
      select
        a.id as "assetId", ${PATH} as path, s.name as source, f.class_key as "classKey",
        coalesce(d.decision, f.state) as state ${carrying}
      order by f.class_key, s.name, a.key
      limit 100`,
    bind,
  );
  const { off } = await detectorsNow(db);
  const own = await db.rows<{ id: string; classKey: string }>('select id, class_key as "classKey" from detector');
  const all = [...DETECTORS, ...own];
  const looking = all.filter((detector) => !off.includes(detector.id) && !ids.includes(detector.id));
  const classes = await knownClasses(db);
  const lost = new Set(
    all.flatMap((detector) =>
      ids.includes(detector.id) && !looking.some((other) => other.classKey === detector.classKey)
        ? [classes.get(detector.classKey)?.label ?? '']
        : [],
    ),
  );
  return { columns: counts?.columns ?? 0, confirmed: counts?.confirmed ?? 0, alone: [...lost].sort(), shown };
}
