import type { ManyAction } from '@idrel/contract/curation';
import type { Role } from '@idrel/contract/people';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { listLevels } from '../recognition/index.ts';
import { IS_COMPLETE } from './checklist.ts';
import { ofClass } from './classAction.ts';
import { byHand, byHandOf, namesEver } from './decided.ts';
import { ofDomain } from './domainAction.ts';
import { ofDescription, ofLevel, ofLink } from './factActions.ts';
import { tellUsersLater } from './retiring.ts';
import { mustGiveTag, type TagRules, tagRules, tagsNow } from './tagRules.ts';
import { spellValues } from './tagWords.ts';

/** An asset that is put back, and what was kept of it. */
export interface KeptOf {
  readonly id: string;
  readonly before: string | null;
}

/**
 * An action in SQL: how an asset `a` stands to it, how it is done to many at once, and how it is taken back.
 * `$2` of what is run stands for what the action gives: a standing, the id of a person or a term, a tag with its value.
 */
export interface ActionSql {
  /** The role that a person needs in the asset's domain. */
  readonly role: Role;
  /** The field's name in the journal. */
  readonly field: string;
  /** The action in words, not ids. */
  readonly told: string;
  readonly value: string;
  /** True where `asset a` can take it, by its kind. */
  readonly suits: string;
  /** True where `asset a` already is as the action wants it. */
  readonly same: (value: string) => string;
  /** Who decided by hand what the action would undo, and when, as JSON; null where nobody did: a routine leaves it as it is. */
  readonly decided: (value: string) => string;
  /** True where `asset a` still stands as the action left it; where it is not told, as for `same`. */
  readonly stands?: (value: string) => string;
  /** What stands at `asset a` now, as the journal shows it: a list of names, or a word. */
  readonly now: string;
  /** What must be kept to take it back, and must still stand there to be changed; null where something is only added or taken away. */
  readonly before: (value: string) => string;
  readonly apply: (tx: Db, ids: readonly string[], value: string) => Promise<unknown>;
  /** Where it takes the role in another domain as well: SQL of that domain, from what is to stand at `asset a join source s`. */
  readonly alsoIn?: (value: string) => string;
  /** Holds what others hold before assets. */
  readonly hold?: (tx: Db, ids: readonly string[]) => Promise<unknown>;
  /** Puts assets back at which the value still stands as it was left. */
  readonly revert: (tx: Db, value: string, kept: readonly KeptOf[]) => Promise<void>;
}

const names = (table: string, key: string, of: string, where: string) =>
  `coalesce((select json_agg(n.name order by n.name) from ${table} x join ${of} n on n.id = x.${key} where x.asset_id = a.id${where}), '[]')`;

/** Giving or taking one of a list: a person in a role, a term. */
function ofList(
  table: string,
  key: string,
  of: string,
  remove: boolean,
  role?: string,
): Pick<ActionSql, 'same' | 'decided' | 'now' | 'before' | 'apply' | 'revert'> {
  const where = role ? ` and x.role = '${role}'` : '';
  const give = `
    insert into ${table} (asset_id, ${key}${role ? ', role' : ''})
    select unnest($1::uuid[]), $2::uuid${role ? `, '${role}'` : ''}
    on conflict
    do nothing`;
  const take = `delete from ${table} x where x.asset_id = any($1::uuid[]) and x.${key} = $2::uuid${where}`;
  const has = (value: string) =>
    `exists (select 1 from ${table} x where x.asset_id = a.id and x.${key} = ${value}::uuid${where})`;
  return {
    same: (value) => (remove ? `not ${has(value)}` : has(value)),
    decided: (value) => byHandOf(`'${role ?? 'term'}s'`, namesEver(of, `${value}::uuid`), 'e'),
    now: names(table, key, of, role ? where : ' and n.removed_at is null'),
    before: () => 'null::text',
    apply: (tx, ids, value) => tx.run(remove ? take : give, [ids, value]),
    async revert(tx, value, kept) {
      await tx.run(remove ? give : take, [kept.map(({ id }) => id), value]);
    },
  };
}

/** Who owns asset `a`, as its id. */
const OWNED_BY = "(select x.person_id::text from asset_person x where x.asset_id = a.id and x.role = 'owner')";
const OWN = `
  insert into asset_person (asset_id, person_id, role)
  select o.id, o.owner, 'owner'
  from unnest($1::uuid[], $2::uuid[]) as o(id, owner)
  join party p on p.id = o.owner
  on conflict (asset_id) where role = 'owner'
  do update set person_id = excluded.person_id`;
/** Giving assets to somebody who answers for them from then on, in place of who did. */
const OWNER: Pick<ActionSql, 'same' | 'decided' | 'now' | 'before' | 'apply' | 'revert'> = {
  decided: () => byHand("'owners'"),
  same: (value) => `coalesce(${OWNED_BY} = ${value}::text, false)`,
  now: names('asset_person', 'person_id', 'party', " and x.role = 'owner'"),
  before: (value) => `coalesce(${OWNED_BY}, left(${value}::text, 0))`,
  apply: (tx, ids, value) => tx.run(OWN, [ids, ids.map(() => value)]),
  async revert(tx, _value, kept) {
    await tx.run("delete from asset_person where asset_id = any($1::uuid[]) and role = 'owner'", [
      kept.filter(({ before }) => !before).map(({ id }) => id),
    ]);
    await tx.run(OWN, [kept.map(({ id }) => id), kept.map(({ before }) => before || null)]);
  },
};

// A tag and its value are one text: the id, 36 characters long, a stroke, the value.
const tagOf = (value: string) => `left(${value}::text, 36)::uuid`;
const textOf = (value: string) => `substr(${value}::text, 38)`;
const TAG_GONE = `delete from asset_tag x where x.asset_id = any($1::uuid[]) and x.tag_id = ${tagOf('$2')}`;

function ofTag(remove: boolean): Pick<ActionSql, 'same' | 'decided' | 'now' | 'before' | 'apply' | 'revert'> {
  const before = (value: string) =>
    `(select x.value from asset_tag x where x.asset_id = a.id and x.tag_id = ${tagOf(value)})`;
  return {
    now: tagsNow('a.id'),
    before,
    decided: (value) => byHandOf("'tags'", namesEver('tag', tagOf(value)), "split_part(e, '/', 1)"),
    same: (value) => (remove ? `${before(value)} is null` : `coalesce(${before(value)} = ${textOf(value)}, false)`),
    async apply(tx, ids, value) {
      await spellValues(tx, [value.slice(37)]);
      await tx.run(
        remove
          ? TAG_GONE
          : `
            insert into asset_tag (asset_id, tag_id, value)
            select unnest($1::uuid[]), ${tagOf('$2')}, ${textOf('$2')}
            on conflict (asset_id, tag_id)
            do update set value = excluded.value`,
        [ids, value],
      );
    },
    async revert(tx, value, kept) {
      const [came, had] = [
        kept.filter(({ before: was }) => was === null),
        kept.filter(({ before: was }) => was !== null),
      ];
      await tx.run(TAG_GONE, [came.map(({ id }) => id), value]);
      await tx.run(
        `
          insert into asset_tag (asset_id, tag_id, value)
          select b.id, ${tagOf('$2')}, b.before
          from unnest($1::uuid[], $3::text[]) as b(id, before)
          on conflict (asset_id, tag_id)
          do update set value = excluded.value`,
        [had.map(({ id }) => id), value, had.map(({ before: was }) => was)],
      );
    },
  };
}

// What a notice says is one text: its kind, its last day or nothing, and its text, as JSON.
const noticeOf = (value: string, part: 'kind' | 'ends' | 'text') => `(${value}::json ->> '${part}')`;
const NOTICE_SAID = (value: string) =>
  `x.kind = ${noticeOf(value, 'kind')} and x.text = ${noticeOf(value, 'text')} and x.ends is not distinct from ${noticeOf(value, 'ends')}::date`;
const SAME_NOTICE = (value: string) => `x.removed_at is null and ${NOTICE_SAID(value)}`;

/** A notice from today on. */
function ofNotice({ notice, text, ends }: Extract<ManyAction, { kind: 'notice' }>): ActionSql {
  if (ends !== undefined && ends < new Date().toISOString().slice(0, 10))
    throw invalid('The notice would be over already.', 'Let it end today, or later.', [
      { field: 'action', message: 'is over' },
    ]);
  return {
    role: 'editor',
    field: 'notices',
    told: `Notice: ${notice}: ${text}`,
    value: JSON.stringify({ kind: notice, ends: ends ?? null, text }),
    suits: ALL,
    same: (value) => `exists (select 1 from notice x where x.asset_id = a.id and x.holds and ${SAME_NOTICE(value)})`,
    decided: (value) =>
      `(select json_build_object('by', 'somebody', 'at', max(x.removed_at)) from notice x where x.asset_id = a.id and x.removed_at is not null and ${NOTICE_SAID(value)} having count(*) > 0)`,
    now: "coalesce((select json_agg(x.kind || ': ' || x.text order by x.created_at, x.id) from notice x where x.asset_id = a.id and x.holds), '[]')",
    before: () => 'null::text',
    apply: (tx, ids, value) =>
      tx.run(
        `
          insert into notice (asset_id, kind, text, starts, ends, holds)
          select
            unnest($1::uuid[]), ${noticeOf('$2', 'kind')}, ${noticeOf('$2', 'text')}, (now() at time zone 'UTC')::date,
            ${noticeOf('$2', 'ends')}::date, true`,
        [ids, value],
      ),
    async revert(tx, value, kept) {
      await tx.run(
        `
          update notice x
          set removed_at = now(), holds = false, version = version + 1
          where x.asset_id = any($1::uuid[]) and ${SAME_NOTICE('$2')}`,
        [kept.map(({ id }) => id), value],
      );
    },
  };
}

const ALL = 'true';
const quoted = (word: string) => `'${word.replaceAll("'", "''")}'`;
const suitsOf = ({ kinds }: TagRules) => (kinds ? `a.kind in (${kinds.map(quoted).join(', ')})` : ALL);

/** Before what makes assets trusted: that somebody says so from now on. */
const certified = (who: Who | undefined): string => `
  with said as (
    insert into certification (asset_id, person_id)
    select unnest($1::uuid[]), ${who ? `'${who.id}'::uuid` : 'null'}
    on conflict (asset_id)
    do update set
      person_id = excluded.person_id, at = now(), until = null, lapsed_at = null, reason = null, noted = false
  )`;

/** Before what makes assets retiring: who said so. */
const retired = (who: Who | undefined): string => `
  with said as (
    insert into retirement (asset_id, person_id)
    select unnest($1::uuid[]), ${who ? `'${who.id}'::uuid` : 'null'}
    on conflict (asset_id)
    do update set person_id = excluded.person_id, replacement_id = null, on_day = null, at = now()
  )`;

/**
 * @param who for whom it is; without them whoever may give a tag is not asked
 * @throws 422 when the person, term, class, domain or tag that the action names is not there, or the tag does not take the value; 403 when they may not give the tag, or move into the domain
 */
export async function actionSql(db: Db, action: ManyAction, who?: Who): Promise<ActionSql> {
  if (action.kind === 'standing')
    return {
      role: 'steward',
      field: 'standing',
      told: `Standing: ${action.standing}`,
      value: action.standing,
      // What is not all so that is asked of its kind is not trusted by way of many, either.
      suits: action.standing === 'trusted' ? `(a.standing = 'trusted' or ${IS_COMPLETE})` : ALL,
      same: (value) => `a.standing::text = ${value}`,
      decided: () => byHand("'standing'"),
      now: 'to_json(a.standing::text)',
      before: () => 'a.standing::text',
      async apply(tx, ids, value) {
        await tx.run(
          `
            ${action.standing === 'trusted' ? certified(who) : action.standing === 'retiring' ? retired(who) : ''}
            update asset set standing = $2 where id = any($1::uuid[])`,
          [ids, value],
        );
        if (action.standing === 'retiring') await tellUsersLater(tx, ids);
      },
      async revert(tx, value, kept) {
        await tx.run(
          `
            update asset a
            set standing = b.before::standing
            from unnest($1::uuid[], $3::text[]) as b(id, before)
            where a.id = b.id and a.standing::text = $2`,
          [kept.map(({ id }) => id), value, kept.map(({ before }) => before)],
        );
      },
    };
  if (action.kind === 'notice') return ofNotice(action);
  if (action.kind === 'level')
    return ofLevel(
      action,
      (await listLevels(db)).map(({ name }) => name),
    );
  if (action.kind === 'link') return ofLink(action, who?.id ?? null);
  if (action.kind === 'description') return ofDescription(action);
  if (action.kind === 'class') return ofClass(db, action, who);
  if (action.kind === 'domain') return ofDomain(db, action, who);
  const remove = action.remove === true;
  const verb = remove ? 'Without' : 'With';
  if (action.kind === 'tag') {
    const rules = await tagRules(db, action.id);
    const value = remove ? '' : (action.value ?? '');
    mustGiveTag(rules, remove ? undefined : value, who);
    const word = value ? `${rules.name}/${value}` : rules.name;
    return {
      role: 'editor',
      field: 'tags',
      told: `${verb} tag: ${word}`,
      value: `${action.id}/${value}`,
      suits: remove ? ALL : suitsOf(rules),
      ...ofTag(remove),
    };
  }
  const isTerm = action.kind === 'term';
  const named = await db.one<{ name: string }>(
    isTerm
      ? 'select name from term where id = $1 and removed_at is null'
      : `select name from party where id = $1 and left_at is null and ${action.kind === 'owner' ? 'true' : 'not is_group'}`,
    [action.id],
  );
  if (!named)
    throw invalid(`The ${isTerm ? 'term' : 'person'} of the action is not there any more.`, 'Choose another one.', [
      { field: 'action', message: 'is not there' },
    ]);
  return {
    role: 'editor',
    field: `${action.kind}s`,
    told: `${verb} ${action.kind}: ${named.name}`,
    value: action.id,
    suits: ALL,
    ...(isTerm
      ? ofList('asset_term', 'term_id', 'term', remove)
      : action.kind === 'owner' && !remove
        ? OWNER
        : ofList('asset_person', 'person_id', 'party', remove, action.kind)),
  };
}
