import type { PartnerAnswer, PartnerBody, PartnerPerson, PartnerPersonBody } from '@idrel/contract/people';
import { ORGANISATION } from '@idrel/core/access';
import { record } from '../journal/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, conflict, forbidden, invalid, notFound } from '../platform/problems.ts';
import { TELL } from '../platform/signals.ts';
import { recordOfPerson } from './ofPerson.ts';
import { inviteByMail } from './passwordLinks.ts';
import { endSessions } from './sessions.ts';
import type { Who } from './who.ts';

/** So many people of one partner come in at most. */
const PEOPLE_MOST = 200;

/** The news that somebody does not come in any more: whatever reads for them is ended. */
export const readerTopic = (personId: string): string => `reader:${personId}`;

const PERSON = `
  p.id, p.name, p.email, p.leads, p.created_at as "addedAt",
         (select max(q.at) from gateway_query q where q.asked_by = p.id and q.share_id is not null and q.outcome = 'answered') as "lastRead"`;

/** People of a partner. */
export const peopleOf = (db: Db, partnerId: string): Promise<PartnerPerson[]> =>
  db.rows<PartnerPerson>(
    `select ${PERSON} from person p where p.partner_id = $1 and p.left_at is null order by not p.leads, p.name`,
    [partnerId],
  );

const PARTNERS = `
  select q.id, q.name, q.note, g.id as "groupId",
         (select count(*)::int from share s where s.partner_id = q.id and s.state in ('offered', 'accepted')) as shares
  from partner q
  join person_group g on g.partner_id = q.id`;

export async function listPartners(db: Db): Promise<PartnerAnswer[]> {
  const partners = await db.rows<Omit<PartnerAnswer, 'people'>>(`${PARTNERS} order by lower(q.name)`);
  const people = await db.rows<PartnerPerson & { of: string }>(
    `select p.partner_id as of, ${PERSON} from person p where p.partner_id is not null and p.left_at is null order by not p.leads, p.name`,
  );
  return partners.map((partner) => ({
    ...partner,
    people: people.filter(({ of }) => of === partner.id).map(({ of: _, ...person }) => person),
  }));
}

/** Adds a partner, with the group of its people and who speaks for it. @throws 409, 422 */
export async function addPartner(
  tx: Db,
  config: Config,
  who: Who,
  { name, note, lead }: PartnerBody,
): Promise<PartnerAnswer> {
  who.mustAnywhere('policy administrator');
  const taken = await tx.one(
    'select from partner where lower(name) = lower($1) union all select from person_group where lower(name) = lower($1)',
    [name],
  );
  if (taken)
    throw conflict('name-taken', `There already is a partner or a group named “${name}”.`, 'Choose another name.');
  const partner = await tx.one<{ id: string }>(
    'insert into partner (name, note, made_by) values ($1, $2, $3) returning id',
    [name, note, who.id],
  );
  const id = partner?.id ?? '';
  await tx.run('insert into person_group (name, partner_id) values ($1, $2)', [name, id]);
  await record(tx, who, 'created', { kind: 'partner', id, name, domainId: null }, null, { name, note });
  await addPartnerPerson(tx, config, who, { ...lead, partnerId: id, leads: true });
  const [made] = (await listPartners(tx)).filter((one) => one.id === id);
  if (!made) throw notFound('The partner');
  return made;
}

/** Who may say who reads for a partner: who gives, and who speaks for the partner. @throws 403, 404 */
async function mustSayFor(tx: Db, who: Who, partnerId: string): Promise<{ id: string; name: string }> {
  if (who.partner && !(who.partner.leads && who.partner.id === partnerId)) throw forbidden('to speak for the partner');
  if (!who.partner) who.mustAnywhere('policy administrator');
  const partner = await tx.one<{ id: string; name: string }>('select id, name from partner where id = $1 for update', [
    partnerId,
  ]);
  if (!partner) throw notFound('The partner');
  return partner;
}

/** Adds a person of a partner: they are in its group, and in no other. @throws 403, 404, 422, 429 */
export async function addPartnerPerson(
  tx: Db,
  config: Config,
  who: Who,
  { partnerId, name, email, leads }: PartnerPersonBody,
): Promise<PartnerPerson> {
  const partner = await mustSayFor(tx, who, partnerId);
  const now = await tx.one<{ n: number }>(
    'select count(*)::int as n from person where partner_id = $1 and left_at is null',
    [partnerId],
  );
  if ((now?.n ?? 0) >= PEOPLE_MOST)
    throw new ApiProblem('too-much-at-once', `${PEOPLE_MOST} people of ${partner.name} come in already.`, {
      mend: 'End those who do not read any more.',
    });
  const [taken, other] = await tx.rows<{ id: string; sameAddress: boolean; back: boolean }>(
    `
      select id, lower(email) = lower($2) as "sameAddress", partner_id = $3 and left_at is not null as back
      from person
      where lower(email) = lower($2) or name = $1
      order by lower(email) = lower($2) desc`,
    [name, email, partnerId],
  );
  const comesBack = taken?.sameAddress === true && taken.back;
  // Who it is that has it is none of a partner's business.
  if (taken && (!comesBack || other))
    throw taken.sameAddress && !comesBack
      ? invalid('This address cannot be used: somebody has it already.', 'Give another address of theirs.', [
          { field: 'email', message: 'is that of somebody else' },
        ])
      : invalid('Somebody has this name already.', 'Add what tells them apart, such as where they work.', [
          { field: 'name', message: 'is that of somebody else' },
        ]);
  const made = await tx.one<{ id: string }>(
    comesBack
      ? `update person set name = $1, job = $3, leads = $5, left_at = null, password_hash = null, version = version + 1
         where lower(email) = lower($2) and partner_id = $4 returning id`
      : 'insert into person (name, email, job, partner_id, leads) values ($1, $2, $3, $4, $5) returning id',
    [name, email, partner.name, partnerId, leads],
  );
  if (!made) throw notFound('The person');
  await tx.run('insert into group_member (group_id, person_id) select id, $2 from person_group where partner_id = $1', [
    partnerId,
    made.id,
  ]);
  // By this, digests that are made for one organisation differ from those for others.
  await tx.run('insert into person_attribute (person_id, key, value) values ($1, $2, $3) on conflict do nothing', [
    made.id,
    ORGANISATION,
    partner.name,
  ]);
  await recordOfPerson(tx, who, comesBack ? 'came back' : 'created', { id: made.id, name }, null, {
    name,
    email,
    partner: partner.name,
    leads,
  });
  await inviteByMail(tx, config, email);
  const [person] = await tx.rows<PartnerPerson>(`select ${PERSON} from person p where p.id = $1`, [made.id]);
  return person as PartnerPerson;
}

/** Ends a person of a partner: their sessions, their keys, and whatever reads for them. @throws 403, 404 */
export async function endPartnerPerson(tx: Db, who: Who, id: string): Promise<void> {
  const person = await tx.one<{ id: string; name: string; partnerId: string }>(
    'select id, name, partner_id as "partnerId" from person where id = $1 and partner_id is not null and left_at is null',
    [id],
  );
  if (!person) throw notFound('The person');
  await mustSayFor(tx, who, person.partnerId);
  if (person.id === who.id)
    throw invalid('You cannot end yourself.', 'Let somebody else who speaks for your organisation do it.', [
      { field: 'id', message: 'is you' },
    ]);
  await tx.run('update person set left_at = now(), version = version + 1 where id = $1', [id]);
  await endSessions(tx, id, null);
  await tx.run('delete from client_key where person_id = $1', [id]);
  await tx.run('delete from group_member where person_id = $1', [id]);
  await tx.run(TELL, [readerTopic(id)]);
  await recordOfPerson(tx, who, 'left', person, { left: null }, { left: 'yes' });
}
