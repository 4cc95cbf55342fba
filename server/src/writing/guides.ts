import type { AssetKind } from '@idrel/contract/things';
import type { GuideAnswer, GuideVersion, TemplateAnswer, WriterHere } from '@idrel/contract/writing';
import { ASSET_KINDS } from '@idrel/core/things';
import { getAsset } from '../catalog/index.ts';
import { change, type Kept, record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { mustBeCurrent, notFound } from '../platform/problems.ts';
import { excerpt, type KeptText, readWritten, shown } from './mentions.ts';
import { GUIDE, type GuideRow } from './models.ts';
import { sayWords } from './words.ts';

const BY = `(select json_build_object('id', p.id, 'name', p.name, 'job', p.job) from person p where p.id = g.person_id) as by`;

interface Read extends GuideAnswer {
  /** As it is kept: without the names of what it mentions. */
  readonly kept: string;
  readonly begins: string;
  readonly asset: { readonly kind: AssetKind; readonly path: string; readonly domainId: string };
}
type Row = KeptText & Pick<GuideAnswer, 'version' | 'by' | 'at'> & { template: string | null; begins: string };

/** A guide as somebody may read it. @param version the one meant; null for the last */
async function readGuide(db: Db, who: Who, assetId: string, version: number | null): Promise<Read> {
  const { kind, path, domainId } = await getAsset(db, who, assetId);
  const row = await db.one<Row>(
    `
      select g.text, g.mentions, g.version, g.at, ${BY}, ${version === null ? 'g.begins' : "''"} as begins, (select t.text from guide_template t where t.kind = $2) as template
      from ${version === null ? 'guide g' : 'guide_version g'}
      where g.asset_id = $1 and ($3::int is null or g.version = $3)`,
    [assetId, kind, version],
  );
  if (!row && version !== null) throw notFound('That version');
  const template =
    row?.template ??
    (await db.one<{ text: string }>('select text from guide_template where kind = $1', [kind]))?.text ??
    '';
  const [text = ''] = row ? await shown(db, who, [row]) : [];
  return {
    assetId,
    text,
    version: row?.version ?? 0,
    by: row?.by ?? null,
    at: row?.at ?? null,
    template,
    kept: row?.text ?? '',
    begins: row?.begins ?? '',
    asset: { kind, path, domainId },
  };
}
const answerOf = ({ asset: _asset, begins: _begins, kept: _kept, ...guide }: Read): GuideAnswer => guide;

const GUIDES: Kept<GuideRow, Read> = {
  thing: 'guide',
  model: GUIDE,
  read: (db, who, id) => readGuide(db, who, id, null),
  // Its versions are kept whole beside it; the journal says which, and how it begins.
  told: (_db, { version, begins }) => ({
    guide: version === 0 ? null : `version ${version}${begins ? `: ${begins}` : ', empty'}`,
  }),
  subject: (_db, { asset: { kind, path, domainId }, assetId }) => ({ kind, id: assetId, name: path, domainId }),
  may: (_db, who, { asset }) => who.must('editor', asset.domainId),
};

export const getGuide = async (
  db: Db,
  who: Who,
  assetId: string,
  version: number | null = null,
): Promise<GuideAnswer> => answerOf(await readGuide(db, who, assetId, version));

/** Writes the guide of an asset, upon the version that was seen; the first upon version 0. */
export async function saveGuide(
  tx: Db,
  who: Who,
  assetId: string,
  version: number,
  text: string,
): Promise<GuideAnswer> {
  const { domainId } = await getAsset(tx, who, assetId);
  who.must('editor', domainId);
  const kept = readWritten(text);
  await tx.run(`insert into guide (asset_id, text, version) values ($1, '', 0) on conflict do nothing`, [assetId]);
  const { before, after } = await change(tx, who, GUIDES, assetId, {
    version,
    values: (now) =>
      now.kept === kept.text && now.version > 0
        ? {}
        : {
            text: kept.text,
            mentions: kept.mentions,
            begins: excerpt(kept.plain),
            personId: who.id,
            at: new Date(),
          },
    action: 'guide written',
  });
  if (after.version > before.version) {
    await tx.run(
      `
        insert into guide_version (asset_id, version, text, mentions, person_id, at)
        select asset_id, version, text, mentions, person_id, at
        from guide
        where asset_id = $1`,
      [assetId],
    );
    await sayWords(tx, assetId, 'guide', kept.plain);
  }
  return answerOf(after);
}

export async function listVersions(db: Db, who: Who, assetId: string): Promise<GuideVersion[]> {
  await getAsset(db, who, assetId);
  return db.rows<GuideVersion>(
    `
      select g.version, g.at, length(g.text) as letters, ${BY}
      from guide_version g
      where g.asset_id = $1
      order by g.version desc
      limit 200`,
    [assetId],
  );
}

/** So long somebody is there after they last said so. */
const THERE = "interval '30 seconds'";
/** Says that somebody writes in a guide, or does no more. @returns the others who do */
export async function writersHere(tx: Db, who: Who, assetId: string, writing: boolean): Promise<WriterHere[]> {
  const { domainId } = await getAsset(tx, who, assetId);
  who.must('editor', domainId);
  await tx.run(
    writing
      ? 'insert into writer_here (asset_id, person_id) values ($1, $2) on conflict (asset_id, person_id) do update set said_at = now()'
      : 'delete from writer_here where asset_id = $1 and person_id = $2',
    [assetId, who.id],
  );
  await tx.run(`delete from writer_here where asset_id = $1 and said_at < now() - ${THERE}`, [assetId]);
  return tx.rows<WriterHere>(
    `
      select json_build_object('id', p.id, 'name', p.name, 'job', p.job) as person, h.since
      from writer_here h
      join person p on p.id = h.person_id
      where h.asset_id = $1 and h.person_id <> $2
      order by h.since`,
    [assetId, who.id],
  );
}

export async function listTemplates(db: Db): Promise<TemplateAnswer[]> {
  const rows = await db.rows<TemplateAnswer>('select kind, text, version from guide_template');
  const known = new Map(rows.map((row) => [row.kind, row]));
  return (Object.keys(ASSET_KINDS) as AssetKind[]).map((kind) => known.get(kind) ?? { kind, text: '', version: 0 });
}

export async function changeTemplate(
  tx: Db,
  who: Who,
  kind: AssetKind,
  version: number,
  text: string,
): Promise<TemplateAnswer> {
  who.mustEverywhere('administrator');
  readWritten(text);
  await tx.run("insert into guide_template (kind, text, version) values ($1, '', 0) on conflict do nothing", [kind]);
  const read = () =>
    tx.one<TemplateAnswer>('select kind, text, version from guide_template where kind = $1 for update', [kind]);
  const before = await read();
  if (!before) throw notFound('The template');
  mustBeCurrent(version, before);
  await tx.run('update guide_template set text = $2, version = version + 1 where kind = $1', [kind, text]);
  const after = (await read()) ?? before;
  const subject = { kind: 'guide template', id: kind, name: kind, domainId: null } as const;
  await record(tx, who, 'edited', subject, { text: before.text }, { text: after.text });
  return after;
}
