import type { Scope } from '@idrel/contract/http';
import type { ApiKey, ApiKeyBody } from '@idrel/contract/people';
import type { NextFunction, Request, Response } from 'express';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { KeyInUse } from '../platform/keyInUse.ts';
import { ApiProblem, notFound } from '../platform/problems.ts';
import { digest, newToken } from '../platform/secrets.ts';
import { recordOfPerson } from './ofPerson.ts';
import { loadWho, type Who } from './who.ts';

/** By which keys are known for what they are wherever they turn up. */
const BEGINNING = 'idrel_key_';
/** So many keys of one person hold at once. */
const MOST = 20;

/** Keys that hold, the newest first: one's own, or for administrators of everything those of everybody. @throws 403 */
export async function listApiKeys(db: Db, who: Who, all: boolean): Promise<ApiKey[]> {
  if (all) who.mustEverywhere('administrator');
  return db.rows<ApiKey>(
    `
      select
        k.id, k.name, p.name as person, k.person_id = $1 as mine, k.scopes, k.per_minute as "perMinute",
        case
          when not k.everywhere then coalesce(
            (
              select json_agg(json_build_object('id', d.id, 'name', d.name) order by lower(d.name))
              from api_key_domain x
              join domain d on d.id = x.domain_id
              where x.key_id = k.id
            ),
            '[]'
          )
        end as domains,
        k.made_at as "madeAt", k.ends_at as "endsAt", k.used_at as "usedAt", k.replaced_by is not null as replaced
      from api_key k
      join person p on p.id = k.person_id
      where k.ends_at > now() and p.left_at is null and ($2 or k.person_id = $1)
      order by k.made_at desc, k.id`,
    [who.id, all],
  );
}

type Made = { readonly id: string; readonly key: string; readonly endsAt: string };

/** Holds the keys of a person, so that no two are made at once beyond what may be. @throws 409 when there are as many as may be */
async function mayHaveMore(tx: Tx, who: Who): Promise<void> {
  await tx.one('select id from person where id = $1 for update', [who.id]);
  await tx.run('delete from api_key where person_id = $1 and ends_at <= now()', [who.id]);
  const held = await tx.one<{ n: number }>(
    'select count(*)::int as n from api_key where person_id = $1 and replaced_by is null',
    [who.id],
  );
  if ((held?.n ?? 0) >= MOST)
    throw new ApiProblem('too-many-keys', `You have ${MOST} keys already.`, { mend: 'End one that you do not need.' });
}

/** Makes a key; kept as a digest, told this once. @throws 404 when a domain is none in which they may read; 409 */
export async function makeApiKey(tx: Tx, who: Who, body: ApiKeyBody): Promise<Made> {
  const { name, scopes, domainIds, days, perMinute } = body;
  if (domainIds?.some((id) => !who.is('reader', id))) throw notFound('The domain');
  await mayHaveMore(tx, who);
  const key = `${BEGINNING}${newToken()}`;
  const made = (await tx.one<{ id: string; endsAt: string }>(
    `
      insert into api_key (person_id, name, scopes, everywhere, per_minute, key_hash, ends_at)
      values ($1, $2, $3::text[], $4, $5, $6, now() + $7 * interval '1 day')
      returning id, ends_at as "endsAt"`,
    [who.id, name, scopes, domainIds === null, perMinute, digest(key), days],
  )) as { id: string; endsAt: string };
  if (domainIds)
    await tx.run('insert into api_key_domain (key_id, domain_id) select $1, unnest($2::uuid[])', [made.id, domainIds]);
  const names = domainIds
    ? (
        await tx.rows<{ name: string }>('select name from domain where id = any($1::uuid[]) order by 1', [domainIds])
      ).map((domain) => domain.name)
    : 'all';
  await recordOfPerson(tx, who, 'key made', who, null, { name, scopes, domains: names, days });
  return { ...made, key };
}

/** Puts another key in the place of one, which goes on for some hours. @throws 404, 409 */
export async function rotateApiKey(tx: Tx, who: Who, id: string, hours: number): Promise<Made> {
  const old = await tx.one<{ name: string; replaced: boolean }>(
    'select name, replaced_by is not null as replaced from api_key where id = $1 and person_id = $2 and ends_at > now() for update',
    [id, who.id],
  );
  // One that was replaced is on its way out: it is not replaced twice.
  if (!old || old.replaced) throw notFound('The key');
  const key = `${BEGINNING}${newToken()}`;
  const made = (await tx.one<{ id: string; endsAt: string }>(
    `
      insert into api_key (person_id, name, scopes, everywhere, per_minute, key_hash, ends_at)
      select person_id, name, scopes, everywhere, per_minute, $2, now() + (ends_at - made_at)
      from api_key
      where id = $1
      returning id, ends_at as "endsAt"`,
    [id, digest(key)],
  )) as { id: string; endsAt: string };
  await tx.run(
    'insert into api_key_domain (key_id, domain_id) select $2, domain_id from api_key_domain where key_id = $1',
    [id, made.id],
  );
  await tx.run(
    "update api_key set replaced_by = $2, ends_at = least(ends_at, now() + $3 * interval '1 hour') where id = $1",
    [id, made.id, hours],
  );
  await recordOfPerson(tx, who, 'key replaced', who, null, { name: old.name, 'the old one goes on, hours': hours });
  return { ...made, key };
}

/** Ends a key of one's own; administrators of everything end anybody's. @throws 404 */
export async function endApiKey(tx: Tx, who: Who, id: string): Promise<void> {
  const ended = await tx.one<{ name: string; personId: string; person: string }>(
    `
      delete from api_key k
      using person p
      where p.id = k.person_id and k.id = $2 and (k.person_id = $1 or $3)
      returning k.name, k.person_id as "personId", p.name as person`,
    [who.id, id, who.isEverywhere('administrator')],
  );
  if (!ended) throw notFound('The key');
  await recordOfPerson(tx, who, 'key ended', { id: ended.personId, name: ended.person }, { name: ended.name }, null);
}

interface KeyRow {
  readonly id: string;
  readonly personId: string;
  readonly name: string;
  readonly scopes: readonly Scope[];
  readonly everywhere: boolean;
  readonly perMinute: number;
  readonly stale: boolean;
  /** Ids of the domains in which it holds, with those below. */
  readonly domains: readonly string[];
}

/** What a key opens now: its person with the rights that they have now, as far as the key goes. @param condition SQL on `api_key k`, with its value as $1 */
async function keyWhere(db: Db, condition: string, value: unknown): Promise<{ who: Who; key: KeyRow } | undefined> {
  const key = await db.one<KeyRow>(
    `
      select
        k.id, k.person_id as "personId", k.name, k.scopes, k.everywhere, k.per_minute as "perMinute",
        coalesce(k.used_at < now() - interval '1 minute', true) as stale,
        array(
          with recursive down as (
            select x.domain_id as id
            from api_key_domain x
            where x.key_id = k.id
            union
            select d.id
            from domain d
            join down on d.parent_id = down.id
          )
          select id from down
        ) as domains
      from api_key k
      where ${condition} and k.ends_at > now()`,
    [value],
  );
  const who = key && (await loadWho(db, key.personId));
  if (!who) return undefined;
  return { who: who.byKey({ id: key.id, name: key.name }, key.everywhere ? null : new Set(key.domains)), key };
}

/** The person as far as a key of theirs goes; undefined once it has ended, or they have left. For what was begun by it. */
export const whoByKey = async (db: Db, keyId: string): Promise<Who | undefined> =>
  (await keyWhere(db, 'k.id = $1', keyId))?.who;

/** Counts a call of this minute. @returns how many there were, and how many seconds are left of it */
async function countCall(db: Db, keyId: string): Promise<{ calls: number; left: number }> {
  const row = await db.one<{ calls: number; left: number }>(
    `
      insert into api_key_minute (key_id, minute, calls) values ($1, date_trunc('minute', now()), 1)
      on conflict (key_id, minute) do update set calls = api_key_minute.calls + 1
      returning calls, ceil(extract(epoch from minute + interval '1 minute' - now()))::int as left`,
    [keyId],
  );
  return row ?? { calls: 1, left: 60 };
}

/** Puts the person behind the key of a program into `response.locals`, with how far it goes; counts its calls. */
export function keysOfPrograms(db: Database) {
  return async (request: Request, response: Response, next: NextFunction): Promise<void> => {
    try {
      const [, given] = /^bearer +(\S+)$/i.exec(request.get('authorization') ?? '') ?? [];
      if (!given?.startsWith(BEGINNING)) return next();
      const found = await keyWhere(db, 'k.key_hash = $1', digest(given));
      if (!found)
        throw new ApiProblem('unknown-key', 'The key is not known, or has ended.', {
          mend: 'Make another one under Settings → Keys for programs.',
        });
      const { key, who } = found;
      const { calls, left } = await countCall(db, key.id);
      // As the draft of the IETF says it (RateLimit header fields for HTTP).
      response.set('ratelimit-policy', `"calls";q=${key.perMinute};w=60`);
      response.set('ratelimit', `"calls";r=${Math.max(0, key.perMinute - calls)};t=${left}`);
      if (calls > key.perMinute) {
        response.set('retry-after', String(left));
        throw new ApiProblem('too-many-calls', `The key makes more than ${key.perMinute} calls a minute.`, {
          mend: `Wait ${left} seconds; \`RateLimit\` tells how many calls are left.`,
        });
      }
      if (key.stale) await db.run('update api_key set used_at = now() where id = $1', [key.id]);
      response.locals.who = who;
      response.locals.key = { scopes: key.scopes, everywhere: key.everywhere } satisfies KeyInUse;
      next();
    } catch (error) {
      next(error);
    }
  };
}

/** Takes away counts of minutes that are over. */
export const forgetCalls = (db: Db): Promise<number> =>
  db.run("delete from api_key_minute where minute < now() - interval '5 minutes'");
