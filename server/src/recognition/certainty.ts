import type {
  CertaintyAnswer,
  CertaintyPreview,
  CertaintyRuleAnswer,
  CertaintyRuleBody,
  RememberedDismissal,
  ThresholdAnswer,
  ThresholdBody,
} from '@idrel/contract/recognition';
import { PATH } from '../catalog/index.ts';
import { change, create, type Kept, remove, type Saying, say } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { asIf, type Database, type Db } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import { invalid, mustBeCurrent, notFound } from '../platform/problems.ts';
import { mustHaveClass } from './checkSpec.ts';
import type { ClassUse } from './classUse.ts';
import { CERTAINTY_RULE, type CertaintyRuleRow, THRESHOLD, type ThresholdRow } from './models.ts';
import { settleAllLevels } from './settling.ts';

const percent = (part: number) => `${Math.round(part * 100)} %`;
const certaintyRuleForJournal = ({
  name,
  classKeys,
  checked,
  named,
  minShare,
  minConfidence,
  minDistinct,
}: CertaintyRuleBody) => ({
  name,
  classes: classKeys?.join(', ') ?? 'all',
  checkDigits: checked ? 'verified' : 'not asked',
  columnName: named ? 'agrees' : 'not asked',
  share: percent(minShare),
  confidence: percent(minConfidence),
  different: minDistinct,
});
const thresholdForJournal = ({ certain, settle }: ThresholdBody) => ({
  certain: percent(certain),
  shown: percent(settle),
});

const thresholds = (db: Db) =>
  db.rows<ThresholdAnswer>(
    'select class_key as "classKey", certain, settle, version from class_threshold order by class_key',
  );

const RULE_ROWS = `
  select
    r.id, r.name, r.class_keys as "classKeys", r.checked, r.named, r.min_share as "minShare",
    r.min_confidence as "minConfidence", r.min_distinct as "minDistinct", r.version,
    (
      select count(*)::int
      from finding f
      join asset a on a.id = f.asset_id
      where f.rule_id = r.id
        and f.state = 'confirmed'
        and a.gone_at is null
        and ${isSeen('a', '$1')}
        and not exists (select 1 from finding_decision d where d.asset_id = f.asset_id and d.class_key = f.class_key)
    ) as confirms
  from certainty_rule r`;

export async function getCertainty(db: Db, who: Who): Promise<CertaintyAnswer> {
  const remembered = await db.rows<RememberedDismissal>(
    `
      select
        r.id, r.class_key as "classKey", r.column_name as column, r.column_type as type, d.name as domain, r.reason,
        p.name as by, r.made_at as at, r.domain_id = any($2::uuid[]) as "mayForget",
        (
          select count(*)::int
          from finding f
          join asset a on a.id = f.asset_id
          where f.class_key = r.class_key
            and f.remembered_id = r.id
            and f.state = 'dismissed'
            and a.gone_at is null
            and ${isSeen('a', '$1')}
        ) as columns
      from remembered_dismissal r
      join domain d on d.id = r.domain_id
      left join person p on p.id = r.made_by
      where r.domain_id = any($1::uuid[])
      order by r.column_name, r.class_key`,
    [who.domainsAs('reader'), who.domainsAs('steward')],
  );
  return {
    thresholds: await thresholds(db),
    rules: await db.rows<CertaintyRuleAnswer>(`${RULE_ROWS} order by lower(r.name)`, [who.domainsAs('reader')]),
    remembered,
  };
}

const THRESHOLDS: Kept<ThresholdRow, ThresholdAnswer & { readonly label: string }> = {
  thing: 'threshold',
  model: THRESHOLD,
  async read(db, _who, key) {
    const found = (await thresholds(db)).find((entry) => entry.classKey === key);
    if (!found) throw notFound('The threshold');
    return { ...found, label: await mustHaveClass(db, key) };
  },
  told: (_db, threshold) => thresholdForJournal(threshold),
  name: ({ label }) => label,
};

async function writeThreshold(
  tx: Db,
  who: Who,
  key: string,
  version: number | null,
  body: ThresholdBody,
): Promise<ThresholdAnswer> {
  await mustHaveClass(tx, key);
  if (body.settle > body.certain)
    throw invalid(
      'What is certain would not be shown: it is shown only from a higher confidence on.',
      'Show it from the confidence at which it is certain, or from a lower one.',
      [{ field: 'settle', message: 'is above what is certain' }],
    );
  const values = { ...body, madeBy: who.id, madeAt: new Date() };
  const { label: _, ...saved } = (await tx.one('select 1 from class_threshold where class_key = $1', [key]))
    ? (await change(tx, who, THRESHOLDS, key, { version, values })).after
    : await made();
  return saved;

  function made() {
    // Where nothing stands yet, version 0 was seen.
    if (version !== null) mustBeCurrent(version, { version: 0 });
    return create(tx, who, THRESHOLDS, { classKey: key, ...values });
  }
}

/** Sets from which confidence a class is certain, and from which it is shown. Findings and levels follow. */
export async function setThreshold(
  tx: Db,
  who: Who,
  key: string,
  version: number,
  body: ThresholdBody,
): Promise<ThresholdAnswer> {
  const saved = await writeThreshold(tx, who, key, version, body);
  await settleAllLevels(tx);
  return saved;
}

/** Takes the usual thresholds again. */
export async function removeThreshold(tx: Db, who: Who, key: string): Promise<void> {
  await mustHaveClass(tx, key);
  if (!(await tx.one('select 1 from class_threshold where class_key = $1', [key]))) return;
  await remove(tx, who, THRESHOLDS, key);
  await settleAllLevels(tx);
}

async function getRule(db: Db, who: Who, id: string): Promise<CertaintyRuleAnswer> {
  const rule = await db.one<CertaintyRuleAnswer>(`${RULE_ROWS} where r.id = $2`, [who.domainsAs('reader'), id]);
  if (!rule) throw notFound('The rule');
  return rule;
}

const RULES: Kept<CertaintyRuleRow, CertaintyRuleAnswer> = {
  thing: 'certainty rule',
  model: CERTAINTY_RULE,
  read: getRule,
  told: (_db, rule) => certaintyRuleForJournal(rule),
};

async function writeRule(
  tx: Db,
  who: Who,
  id: string | null,
  version: number | null,
  body: CertaintyRuleBody,
): Promise<CertaintyRuleAnswer> {
  for (const key of body.classKeys ?? []) await mustHaveClass(tx, key);
  if (id === null) return create(tx, who, RULES, { ...body, madeBy: who.id });
  return (await change(tx, who, RULES, id, { version, values: body })).after;
}

/** Makes a rule that confirms findings. Levels follow. */
export async function addCertaintyRule(tx: Db, who: Who, body: CertaintyRuleBody): Promise<CertaintyRuleAnswer> {
  const made = await writeRule(tx, who, null, null, body);
  await settleAllLevels(tx);
  return made;
}

/** Changes a rule that confirms findings. Levels follow. */
export async function changeCertaintyRule(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: CertaintyRuleBody,
): Promise<CertaintyRuleAnswer> {
  const saved = await writeRule(tx, who, id, version, body);
  await settleAllLevels(tx);
  return saved;
}

export async function removeCertaintyRule(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, RULES, id);
  await settleAllLevels(tx);
}

type Change =
  | { classKey: string; threshold: ThresholdBody | null }
  | { id: string | null; rule: CertaintyRuleBody | null };

/** What a change of thresholds or rules would do to findings: it is done, looked at, and taken back. */
export async function previewCertainty(db: Database, who: Who, asked: Change): Promise<CertaintyPreview> {
  return asIf(db, async (tx) => {
    const of = 'threshold' in asked ? 'where c.class_key = $1' : 'where $1::text is null';
    await tx.run(
      `
        create temp table states_before on commit drop as
        select c.asset_id, c.class_key, coalesce(d.decision, f.state, 'ignored') as state
        from claim c
        left join finding f on f.asset_id = c.asset_id and f.class_key = c.class_key
        left join finding_decision d on d.asset_id = c.asset_id and d.class_key = c.class_key ${of}`,
      ['threshold' in asked ? asked.classKey : null],
    );
    if ('threshold' in asked) {
      if (asked.threshold) await writeThreshold(tx, who, asked.classKey, null, asked.threshold);
      else await removeThreshold(tx, who, asked.classKey);
    } else if (asked.rule) await writeRule(tx, who, asked.id, null, asked.rule);
    else if (asked.id) await remove(tx, who, RULES, asked.id);
    /** @param tables further ones that what is shown needs */
    const differing = (tables = '') => `
      from states_before b
      join asset a on a.id = b.asset_id and a.gone_at is null
      join claim c on c.asset_id = b.asset_id and c.class_key = b.class_key
      left join finding f on f.asset_id = b.asset_id and f.class_key = b.class_key
      left join finding_decision d on d.asset_id = b.asset_id and d.class_key = b.class_key
      cross join lateral (select coalesce(d.decision, f.state, 'ignored') as state) n
      ${tables}
      where n.state <> b.state`;
    const counts = await tx.rows<CertaintyPreview['counts'][number]>(
      `select b.state as before, n.state as after, count(*)::int as count ${differing()} group by 1, 2 order by 3 desc, 1, 2`,
    );
    const shown = await tx.rows<CertaintyPreview['shown'][number]>(
      `
        select
          b.asset_id as "assetId", ${PATH} as path, s.name as source, b.class_key as "classKey", c.share, c.confidence,
          b.state as before, n.state as after
        ${differing('join source s on s.id = a.source_id')}
          and ${isSeen('a', '$1')}
        order by c.confidence desc, s.name, a.key
        limit 200`,
      [who.domainsAs('reader')],
    );
    return { total: counts.reduce((sum, row) => sum + row.count, 0), counts, shown };
  });
}

/** Keeps a dismissal for every column of the same name and type in the domain of the column and below. */
export async function rememberDismissal(
  tx: Db,
  who: Who,
  assetId: string,
  classKey: string,
  reason: string,
): Promise<void> {
  const label = await mustHaveClass(tx, classKey);
  const saying: Saying<RememberedColumn> = {
    action: 'remembered',
    async held() {
      const column = await tx.one<RememberedColumn>(
        `select coalesce(r.id, $3::uuid) as id, lower(a.name) as name, a.native ->> 'type' as type, a.domain_id as domain,
           coalesce(c.share, 0) as share, coalesce(c.confidence, 0) as confidence
         from asset a
         left join claim c on c.asset_id = a.id and c.class_key = $2
         left join remembered_dismissal r on r.class_key = $2 and r.column_name = lower(a.name)
           and r.column_type is not distinct from a.native ->> 'type' and r.domain_id = a.domain_id
         where a.id = $1
         for no key update of a`,
        [assetId, classKey, newId()],
      );
      if (!column) throw notFound('The column');
      return column;
    },
    may: ({ domain }) => who.must('steward', domain),
    async write({ id: dismissal, name, type, domain, share, confidence }) {
      await tx.run(
        `
          insert into remembered_dismissal (
            id, class_key, column_name, column_type, domain_id, domain_ids, reason, share, confidence, made_by
          )
          values ($9, $1, $2, $3, $4, domains_from($4), $5, $6, $7, $8)
          on conflict (class_key, column_name, column_type, domain_id)
          do update set
            reason = excluded.reason, share = greatest(remembered_dismissal.share, excluded.share),
            confidence = greatest(remembered_dismissal.confidence, excluded.confidence), made_by = excluded.made_by,
            made_at = now()`,
        [classKey, name, type, domain, reason, share, confidence, who.id, dismissal],
      );
      return [null, { class: classKey, column: name, type, ...(reason ? { reason } : {}) }];
    },
    about: ({ id: dismissal, name, domain }) => ({
      kind: 'dismissal',
      id: dismissal,
      name: `${label} in columns named ${name}`,
      domainId: domain,
    }),
  };
  await say(tx, who, saying);
}

interface RememberedColumn {
  /** Of the dismissal: the one that is remembered for such columns already, or the one to come. */
  id: string;
  name: string;
  type: string | null;
  domain: string;
  share: number;
  confidence: number;
}

interface RememberedRow {
  classKey: string;
  column: string;
  type: string | null;
  reason: string;
  domain: string;
}

/** Lets a remembered dismissal go. */
export async function forgetDismissal(tx: Db, who: Who, id: string): Promise<void> {
  await say<RememberedRow>(tx, who, {
    action: 'forgotten',
    async held() {
      const kept = await tx.one<RememberedRow>(
        `select class_key as "classKey", column_name as "column", column_type as type, reason, domain_id as domain
         from remembered_dismissal
         where id = $1 and domain_id = any($2::uuid[])
         for update`,
        [id, who.domainsAs('reader')],
      );
      if (!kept) throw notFound('The dismissal');
      return kept;
    },
    may: ({ domain }) => who.must('steward', domain),
    async write({ domain: _, ...before }) {
      await tx.run('delete from remembered_dismissal where id = $1', [id]);
      return [before, null];
    },
    about: ({ classKey, column, domain }) => ({
      kind: 'dismissal',
      id,
      name: `${classKey} in columns named ${column}`,
      domainId: domain,
    }),
  });
  await settleAllLevels(tx);
}

/** Lets the dismissal go that was remembered from this column. */
export async function forgetAlike(tx: Db, who: Who, assetId: string, classKey: string): Promise<void> {
  const kept = await tx.one<{ id: string }>(
    `
      select r.id
      from remembered_dismissal r
      join asset a on a.id = $1
        and r.column_name = lower(a.name)
        and r.column_type is not distinct from a.native ->> 'type'
        and r.domain_id = a.domain_id
      where r.class_key = $2`,
    [assetId, classKey],
  );
  if (kept) await forgetDismissal(tx, who, kept.id);
}

/** Thresholds, dismissals that are remembered, and rules that confirm: they go with the class, and rules for several classes lose this one. */
export const CERTAINTY_CLASS_USE: ClassUse = {
  async named(db, key) {
    const rules = await db.rows<{ id: string; name: string }>(
      'select id, name from certainty_rule where $1 = any(class_keys) order by name',
      [key],
    );
    return { rules: rules.map((rule) => ({ ...rule, of: 'certainty' as const })) };
  },
  async forget(tx, key) {
    await tx.run('delete from class_threshold where class_key = $1', [key]);
    await tx.run('delete from remembered_dismissal where class_key = $1', [key]);
    await tx.run('delete from certainty_rule where class_keys = array[$1]', [key]);
    await tx.run(
      'update certainty_rule set class_keys = array_remove(class_keys, $1), version = version + 1 where $1 = any(class_keys)',
      [key],
    );
  },
};
