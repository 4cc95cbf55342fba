import { type WorkItem, type WorklistAnswer, worklistEndpoints } from '@idrel/contract/worklist';
import type { Router } from 'express';
import { CLASSES_OF, FROM, PATH } from '../catalog/index.ts';
import { serve } from '../platform/api.ts';
import type { Context } from '../platform/context.ts';
import { listFindings } from '../recognition/index.ts';

const UNOWNED = `a.gone_at is null and a.kind in ('table', 'view', 'materialised view', 'foreign table', 'file', 'file set') and a.domain_id = any($1::uuid[]) and not exists (select 1 from asset_person ap where ap.asset_id = a.id and ap.role = 'owner')`;

/** What waits for a steward: findings to settle, then assets without owner, the most sensitive first. */
export function worklistRoutes(router: Router, { db }: Context): void {
  serve(router, worklistEndpoints.list, async ({ who, query }): Promise<WorklistAnswer> => {
    const mine = who.domainsAs('steward');
    const limit = Number(query.limit);
    const findings = await listFindings(db, who, { state: 'open', steward: true, limit });
    const unowned = await db.rows<Extract<WorkItem, { kind: 'unowned' }>['asset']>(
      `select a.id, a.kind, a.name, ${PATH} as path, d.name as domain, s.name as source, a.version, a.level, (select count(*)::int from asset c where c.parent_id = a.id and c.gone_at is null) as columns, ${CLASSES_OF} as classes
       from ${FROM} where ${UNOWNED} order by coalesce(a.level, 0) desc, s.name, a.key limit $2`,
      [mine, limit],
    );
    const count = await db.one<{ n: number }>(`select count(*)::int as n from asset a where ${UNOWNED}`, [mine]);
    const items: WorkItem[] = [];
    if (query.kind !== 'unowned') items.push(...findings.items.map((finding): WorkItem => ({ kind: 'finding', key: `${finding.assetId}:${finding.classKey}`, finding })));
    if (query.kind !== 'finding') items.push(...unowned.map((asset): WorkItem => ({ kind: 'unowned', key: asset.id, asset })));
    return { counts: { finding: findings.total, unowned: count?.n ?? 0 }, items: items.slice(0, limit) };
  });
}
