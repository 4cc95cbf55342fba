import { service } from '../journal/index.ts';
import type { Db } from '../platform/database.ts';
import { recordOfPerson } from './ofPerson.ts';
import { makeLink } from './passwordLinks.ts';

/**
 * A link for somebody to set a password, made by an operator at the machine. Who is not there yet is added when a name is given; as long as nobody
 * administers everything, it is they who do.
 * @throws Error, in words, when the address is that of nobody and no name is given
 */
export async function firstWay(
  tx: Db,
  address: string,
  email: string,
  name: string,
): Promise<{ readonly link: string; readonly told: string }> {
  if (!/^[^\s@]+@[^\s@]+$/.test(email)) throw new Error(`“${email}” is no e-mail address.`);
  const by = service('operator');
  let person = await tx.one<{ id: string; name: string }>(
    'select id, name from person where lower(email) = lower($1) and left_at is null',
    [email],
  );
  if (!person) {
    if (!name) throw new Error(`Nobody has the address ${email}. Give a name as well to add them.`);
    person = await tx.one<{ id: string; name: string }>(
      'insert into person (name, email) values ($1, $2) on conflict do nothing returning id, name',
      [name, email],
    );
    if (!person) throw new Error(`${email} is the address of somebody who has left: let them come back first.`);
    await recordOfPerson(tx, by, 'created', person, null, { name, email });
  }
  const administered = await tx.one(
    "select from role_grant r join person p on p.id = r.person_id and p.left_at is null where r.role = 'administrator' and r.domain_id is null",
  );
  if (!administered) {
    await tx.run("insert into role_grant (person_id, role) values ($1, 'administrator')", [person.id]);
    await recordOfPerson(tx, by, 'edited', person, { roles: [] }, { roles: ['administrator everywhere'] });
  }
  await recordOfPerson(tx, by, 'invited', person, null, { invited: 'to set a password' });
  const role = administered ? '' : ' administers everything, and';
  return {
    link: await makeLink(tx, address, person.id, 'invited'),
    told: `${person.name}${role} sets a password here, within three days:`,
  };
}
