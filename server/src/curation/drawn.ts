import type { AssetAnswer } from '@idrel/contract/catalog';
import type { DrawnBody } from '@idrel/contract/curation';
import type { AssetKind } from '@idrel/contract/things';
import { type FoundAsset, keyOf } from '@idrel/readers/connectors';
import { getAsset } from '../catalog/index.ts';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { conflict, invalid } from '../platform/problems.ts';
import { writeTold } from '../scanning/index.ts';
import { editAsset } from './service.ts';

/** By which what stands above all that is drawn in a domain is known. */
const TOP = 'drawn';

interface Source {
  readonly id: string;
  readonly name: string;
  readonly domainId: string;
}

/** The source of what is drawn by hand in a domain, locked; made when the first thing is. */
async function sourceIn(tx: Tx, who: Who, domainId: string): Promise<Source> {
  const found = () =>
    tx.one<Source>(
      `
        select id, name, domain_id as "domainId"
        from source
        where kind = 'drawn' and domain_id = $1
        order by created_at
        limit 1
        for update`,
      [domainId],
    );
  const there = await found();
  if (there) return there;
  const domain = await tx.one<{ name: string }>('select name from domain where id = $1 for update', [domainId]);
  // Somebody else may have made it while this one waited.
  const meanwhile = await found();
  if (meanwhile) return meanwhile;
  const source = await tx.one<Source>(
    `
      insert into source (name, kind, address, domain_id, created_by)
      select
        case when exists (select from source where name = n.name) then n.name || ' (' || left($1::uuid::text, 8) || ')' else n.name end,
        'drawn', '{"system": "what no scan sees"}', $1::uuid, $3::uuid
      from (values ('Drawn by hand: ' || $2)) n(name)
      returning id, name, domain_id as "domainId"`,
    [domainId, domain?.name ?? '', who.id],
  );
  if (!source) throw new Error('The source of what is drawn was not made.');
  await record(tx, who, 'registered', { kind: 'source', ...source }, null, { kind: 'drawn' });
  return source;
}

const asset = (key: string, parentKey: string | null, kind: AssetKind, name: string, position = 0): FoundAsset => ({
  key,
  parentKey,
  kind,
  name,
  depth: parentKey === null ? 0 : kind === 'column' ? 2 : 1,
  position,
  comment: null,
  native: kind === 'column' ? { type: 'not told', nullable: true } : {},
  stats: {},
});

/**
 * Adds an asset that no scan can see: a form, a vendor's feed, somebody's spreadsheet. It lies in the domain of the asset beside which it is drawn.
 * @throws 409 when one of that name is drawn there already
 */
export async function drawAsset(tx: Tx, who: Who, body: DrawnBody): Promise<AssetAnswer> {
  const { domainId } = await getAsset(tx, who, body.near);
  who.must('editor', domainId);
  const source = await sourceIn(tx, who, domainId);
  const top = asset(keyOf(TOP), null, 'application', source.name);
  const key = keyOf(TOP, body.name);
  if (await tx.one('select from asset where source_id = $1 and key = $2 and gone_at is null', [source.id, key]))
    throw conflict(
      'name-taken',
      `There already is one named “${body.name}” in ${source.name}.`,
      'Choose that one, or another name.',
    );
  const keys = new Set([top.key, key]);
  await writeTold(tx, { ...source, address: {} }, who.id, {
    assets: [
      top,
      asset(key, top.key, body.kind, body.name),
      ...body.columns.map((name, position) => asset(keyOf(key, name), key, 'column', name, position)),
    ],
    covers: (one) => keys.has(one),
  });
  const made = await tx.one<{ id: string }>('select id from asset where source_id = $1 and key = $2', [source.id, key]);
  const id = made?.id ?? '';
  const { version, kind, path } = await getAsset(tx, who, id);
  await record(tx, who, 'drawn', { kind, id, name: path, domainId }, null, { kind, columns: body.columns.length });
  const said = {
    ...(body.description ? { description: body.description } : {}),
    ...(body.ownerIds.length > 0 ? { ownerIds: body.ownerIds } : {}),
  };
  if (Object.keys(said).length > 0) await editAsset(tx, who, id, version, said);
  return getAsset(tx, who, id);
}

/** Takes away an asset that was drawn by hand: it is gone, and what was written of it is kept. */
export async function takeDrawnAway(tx: Tx, who: Who, id: string): Promise<void> {
  const { kind, path, domainId, sourceId } = await getAsset(tx, who, id);
  who.must('editor', domainId);
  const drawn = await tx.one<Source & { key: string; depth: number }>(
    `
      select s.id, s.name, s.domain_id as "domainId", a.key, a.depth
      from asset a
      join source s on s.id = a.source_id
      where a.id = $1 and s.id = $2 and s.kind = 'drawn' and a.gone_at is null
      for update of s`,
    [id, sourceId],
  );
  if (drawn?.depth !== 1)
    throw invalid(`${path} was not drawn by hand.`, 'What a source tells goes when the source no longer has it.');
  await writeTold(tx, { ...drawn, address: {} }, who.id, { assets: [], covers: (key) => key === drawn.key });
  await record(tx, who, 'taken away', { kind, id, name: path, domainId }, { name: path }, null);
}
