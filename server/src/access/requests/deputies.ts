import type { requestEndpoints } from '@idrel/contract/access';
import type { AnswerOf, BodyOf } from '@idrel/contract/http';
import { record, recordMany } from '../../journal/index.ts';
import { type Held, listedBy, type Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { forbidden, invalid, mustBeCurrent, notFound } from '../../platform/problems.ts';

type Deputy = AnswerOf<typeof requestEndpoints.deputy>;

function mustBe(who: Who, personId: string): void {
  if (who.id !== personId && !who.isEverywhere('administrator')) throw forbidden('administrator everywhere');
}

/** Who answers for somebody while they are away, and for whom they do. @throws 403, 404 */
export async function deputyOf(db: Db, who: Who, personId: string): Promise<Deputy> {
  mustBe(who, personId);
  const found = await db.one<Deputy>(
    `
      select
        case when d.until_at > now() then json_build_object('id', s.id, 'name', s.name) end as deputy,
        case when d.until_at > now() then d.from_at end as "from", case when d.until_at > now() then d.until_at end as until,
        coalesce(
          (select json_agg(json_build_object('name', q.name, 'until', o.until_at) order by q.name)
           from deputy o
           join person q on q.id = o.person_id and q.left_at is null
           where o.deputy_id = p.id and o.until_at > now()),
          '[]') as "standsInFor",
        coalesce(d.version, 0) as version
      from person p
      left join deputy d on d.person_id = p.id
      left join person s on s.id = d.deputy_id
      where p.id = $1`,
    [personId],
  );
  if (!found) throw notFound('The person');
  return {
    ...found,
    standsInFor: found.standsInFor.map((one) => ({ ...one, until: new Date(one.until).toISOString() })),
  };
}

/** Says who answers for somebody while they are away; with nobody named they answer themselves. @throws 403, 404, 412, 422 */
export async function changeDeputy(
  tx: Db,
  who: Who,
  personId: string,
  version: number,
  { deputyId, from, until }: BodyOf<typeof requestEndpoints.changeDeputy>,
): Promise<void> {
  mustBe(who, personId);
  await tx.run('select from person where id = $1 for update', [personId]);
  const before = await deputyOf(tx, who, personId);
  mustBeCurrent(version, before);
  const person = await tx.one<{ id: string; name: string }>('select id, name from person where id = $1', [personId]);
  if (!person) throw notFound('The person');
  const fields: { field: string; message: string }[] = [];
  const deputy =
    deputyId === null
      ? undefined
      : await tx.one<{ name: string }>(
          'select name from person where id = $1 and left_at is null and partner_id is null',
          [deputyId],
        );
  if (deputyId !== null) {
    if (!deputy) fields.push({ field: 'deputyId', message: 'is not there, or has left' });
    if (deputyId === personId) fields.push({ field: 'deputyId', message: 'is the person themselves' });
    if (until === null) fields.push({ field: 'until', message: 'says when they are back' });
    else if (Date.parse(until) <= Math.max(Date.now(), from === null ? 0 : Date.parse(from)))
      fields.push({ field: 'until', message: 'has passed, or is before the day on which it begins' });
  }
  if (fields.length > 0)
    throw invalid(
      `It cannot be saved: ${fields.map(({ field, message }) => `${field} ${message}`).join('; ')}.`,
      'Choose somebody else, and a day that comes.',
      fields,
    );
  if (deputyId === null)
    // The row stays, for its version: whoever saw the one before is told.
    await tx.run(
      "update deputy set from_at = least(from_at, now() - interval '1 second'), until_at = least(until_at, now()), version = version + 1 where person_id = $1",
      [personId],
    );
  else
    await tx.run(
      `
        insert into deputy (person_id, deputy_id, from_at, until_at)
        values ($1, $2, coalesce($3, now()), $4)
        on conflict (person_id)
        do update set deputy_id = excluded.deputy_id, from_at = excluded.from_at, until_at = excluded.until_at, version = deputy.version + 1`,
      [personId, deputyId, from, until],
    );
  const told = (one: string | undefined, since: string | null, to: string | null) => ({
    deputy: one ?? null,
    from: one ? since : null,
    until: one ? to : null,
  });
  await record(
    tx,
    who,
    'deputy',
    { kind: 'person', ...person, domainId: null },
    told(before.deputy?.name, before.from, before.until),
    told(deputy?.name, from, until),
  );
}

/** What of requests goes when somebody leaves. */
export const REQUESTS_HELD: readonly Held[] = [
  {
    what: 'requests for access that wait',
    after: 'They are taken back.',
    list: listedBy(
      `select 'Request ' || r.number || ': ' || r.purpose as name, '/access?show=requests&request=' || r.id as address
       from access_request r where r.person_id = $1::uuid and r.state = 'waiting'`,
    ),
    async pass(tx, who, from) {
      await tx.run(
        `create temp table passed on commit drop as
         select r.id, 'Request ' || r.number || ' of ' || p.name as name
         from access_request r join person p on p.id = r.person_id
         where r.person_id = $1 and r.state = 'waiting'`,
        [from],
      );
      await tx.run(
        "update access_request set state = 'taken back', version = version + 1 where id in (select id from passed)",
      );
      await recordMany(
        tx,
        who,
        'taken back',
        'state',
        `select 'request' as kind, x.id, x.name, null::uuid as domain_id, to_json('waiting'::text) as before, to_json('taken back'::text) as after from passed x`,
        [],
      );
      await tx.run('drop table passed');
    },
  },
  {
    what: 'people for whom they answer requests',
    after: 'Requests for these wait for themselves again.',
    list: listedBy(
      `select p.name, null::text as address from deputy d join person p on p.id = d.person_id
       where d.deputy_id = $1::uuid and d.until_at > now()`,
    ),
    async pass(tx, _who, from) {
      await tx.run('delete from deputy where deputy_id = $1 or person_id = $1', [from]);
    },
  },
];
