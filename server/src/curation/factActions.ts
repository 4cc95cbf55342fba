import type { ManyAction } from '@idrel/contract/curation';
import type { Db } from '../platform/database.ts';
import { settleAround } from '../recognition/index.ts';
import type { ActionSql, KeptOf } from './actions.ts';
import { byHand } from './decided.ts';
import { setWords } from './words.ts';

type Of<K extends ManyAction['kind']> = Extract<ManyAction, { kind: K }>;
const ALL = 'true';
const idsOf = (kept: readonly KeptOf[]): string[] => kept.map(({ id }) => id);

/** Settles levels around assets whose own were changed, with what they were before. */
async function changingLevels(tx: Db, ids: readonly string[], change: () => Promise<unknown>): Promise<void> {
  const before = await tx.rows<{ id: string; level: number | null }>(
    'select id, level from asset where id = any($1::uuid[])',
    [ids],
  );
  await change();
  await settleAround(tx, ids, new Map(before.map(({ id, level }) => [id, level])));
}

/** A level set by hand, with the reason for it; null: as it follows from the classes. It may be lower than before, so it takes a steward. */
export function ofLevel({ level, reason }: Of<'level'>, names: readonly string[]): ActionSql {
  const part = (value: string, name: 'level' | 'reason') => `(${value}::json ->> '${name}')`;
  return {
    role: 'steward',
    field: 'level',
    told: level === null ? 'Level: as it is found' : `Level: ${names[level - 1] ?? level}: ${reason}`,
    value: JSON.stringify({ level, reason: level === null ? null : reason }),
    suits: ALL,
    same: (value) => `a.level_set is not distinct from ${part(value, 'level')}::smallint`,
    decided: () => byHand("'level'"),
    now: 'to_json(a.level_set)',
    before: () => "json_build_object('level', a.level_set, 'reason', a.level_reason)::text",
    apply: (tx, ids, value) =>
      changingLevels(tx, ids, () =>
        tx.run(
          `
            update asset
            set level_set = ${part('$2', 'level')}::smallint, level_reason = ${part('$2', 'reason')}
            where id = any($1::uuid[])`,
          [ids, value],
        ),
      ),
    revert: (tx, _value, kept) =>
      changingLevels(tx, idsOf(kept), () =>
        tx.run(
          `
            update asset a
            set level_set = ${part('b.before', 'level')}::smallint, level_reason = ${part('b.before', 'reason')}
            from unnest($1::uuid[], $2::text[]) as b(id, before)
            where a.id = b.id`,
          [idsOf(kept), kept.map(({ before }) => before)],
        ),
      ),
  };
}

/** A link that each of them gets. */
export function ofLink({ link, url, title }: Of<'link'>, madeBy: string | null): ActionSql {
  const part = (value: string, name: 'link' | 'url' | 'title') => `(${value}::json ->> '${name}')`;
  const SAID = (value: string) =>
    `x.kind = ${part(value, 'link')} and x.url = ${part(value, 'url')} and x.title = ${part(value, 'title')}`;
  const SAME = (value: string) => `x.removed_at is null and ${SAID(value)}`;
  return {
    role: 'editor',
    field: 'links',
    told: `Link: ${link}: ${title}`,
    value: JSON.stringify({ link, url, title }),
    suits: ALL,
    same: (value) => `exists (select 1 from asset_link x where x.asset_id = a.id and ${SAME(value)})`,
    decided: (value) =>
      `(select json_build_object('by', 'somebody', 'at', max(x.removed_at)) from asset_link x where x.asset_id = a.id and x.removed_at is not null and ${SAID(value)} having count(*) > 0)`,
    now: "coalesce((select json_agg(x.kind || ': ' || x.title order by x.created_at, x.id) from asset_link x where x.asset_id = a.id and x.removed_at is null), '[]')",
    before: () => 'null::text',
    apply: (tx, ids, value) =>
      tx.run(
        `
          insert into asset_link (id, asset_id, kind, url, title, made_by)
          select gen_random_uuid(), a, ${part('$2', 'link')}, ${part('$2', 'url')}, ${part('$2', 'title')}, $3::uuid
          from unnest($1::uuid[]) a`,
        [ids, value, madeBy],
      ),
    async revert(tx, value, kept) {
      await tx.run(
        `
          update asset_link x
          set removed_at = now(), version = version + 1
          where x.asset_id = any($1::uuid[]) and ${SAME('$2')}`,
        [idsOf(kept), value],
      );
    },
  };
}

/** What stands for something of the asset itself in a template of descriptions. */
const PLACES: Readonly<Record<string, string>> = {
  '{name}': 'a.name',
  '{in}': "coalesce((select p.name from asset p where p.id = a.parent_id), '')",
  '{kind}': 'a.kind',
  '{type}': "coalesce(a.native ->> 'type', '')",
  '{source}': '(select s.name from source s where s.id = a.source_id)',
};
/** SQL of the description that a template gives asset `a`. */
const written = (value: string): string =>
  Object.entries(PLACES).reduce((text, [place, sql]) => `replace(${text}, '${place}', ${sql})`, `${value}::text`);

/** A description after a template, for what has none. */
export function ofDescription({ text }: Of<'description'>): ActionSql {
  return {
    role: 'editor',
    field: 'description',
    told: `Description: ${text}`,
    value: text,
    suits: ALL,
    // What somebody described stays as it is.
    same: () => "coalesce(a.description, '') <> ''",
    stands: (value) => `coalesce(a.description = ${written(value)}, false)`,
    decided: () => byHand("'description'"),
    now: 'to_json(a.description)',
    // Nothing stood there. It names the value all the same: a parameter that a statement does not use has no type.
    before: (value) => `nullif(left(${value}::text, 0), '')`,
    async apply(tx, ids, value) {
      await tx.run(`update asset a set description = ${written('$2')} where a.id = any($1::uuid[])`, [ids, value]);
      await setWords(tx, ids);
    },
    async revert(tx, _value, kept) {
      await tx.run('update asset set description = null where id = any($1::uuid[])', [idsOf(kept)]);
      await setWords(tx, idsOf(kept));
    },
  };
}
