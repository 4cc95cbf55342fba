import { randomBytes, scryptSync } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { fillBookingSystem } from './bookingSystem.ts';
import { writeCrewing } from './crewing.ts';
import { writeDocuments } from './documents.ts';
import { writeIdentity } from './identity.ts';
import { LOADS_FOLDER, writeLoads } from './loads.ts';
import { fillOffice, OFFICES } from './offices.ts';
import { ABOUT_DOMAINS, addressOf, claimOf, DOMAINS, GROUPS, PARTNER, PEOPLE } from './organisation.ts';
import { giveRights } from './rights.ts';
import { writeServices } from './services.ts';
import { writeShoreStore } from './shoreStore.ts';
import { forgetMaking, makeUses } from './uses.ts';
import { writeVoyageFiles } from './voyageFiles.ts';
import { fillWarehouse } from './warehouse.ts';

/** The role with which sources are scanned, and its password (kept beside the demo). */
export const READER = 'ferry_reader';
/** Password of every person of the demo. */
export const DEMO_PASSWORD = 'tarnholm ferries';

/** Where the Crewing system lies. */
export const crewingFile = (folder: string): string => join(folder, 'crewing', 'crewing.sqlite');

export interface DemoPlace {
  /** A superuser's way to the server on which the demo's databases are made. */
  readonly serverUrl: string;
  readonly folder: string;
  readonly today: Date;
  readonly scale: number;
}

export function readerPassword(folder: string): string {
  const file = join(folder, 'reader-password');
  if (!existsSync(file)) writeFileSync(file, randomBytes(12).toString('base64url'), { mode: 0o600 });
  return readFileSync(file, 'utf8').trim();
}

async function within<T>(url: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client(url);
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** The databases of the demo's own systems. */
const DATABASES = ['booking_system', 'warehouse', ...OFFICES.map(({ database }) => database)];

/** Makes the demo's own systems: databases on one server, a role that may only read them, and a folder of files. */
export async function makeSources({ serverUrl, folder, today, scale }: DemoPlace): Promise<void> {
  const url = new URL(serverUrl);
  const other = (database: string) => {
    const copy = new URL(url);
    copy.pathname = `/${database}`;
    return copy.href;
  };
  const password = readerPassword(folder);
  await within(url.href, async (client) => {
    await client.query(
      `do $$ begin if not exists (select 1 from pg_roles where rolname = '${READER}') then create role ${READER} login; end if; end $$`,
    );
    await client.query(
      `alter role ${READER} with login password '${password}' nosuperuser nocreatedb nocreaterole; grant pg_read_all_stats to ${READER}`,
    );
    for (const database of DATABASES) {
      await client.query(`drop database if exists ${database} with (force)`);
      await client.query(`create database ${database}`);
      await client.query(
        `revoke connect on database ${database} from public; grant connect on database ${database} to ${READER}`,
      );
    }
  });
  const grants = (schemas: string) =>
    `grant usage on schema ${schemas} to ${READER}; grant select on all tables in schema ${schemas} to ${READER}`;
  await within(other('booking_system'), async (client) => {
    await fillBookingSystem(client, today, scale);
    await client.query(grants('booking, wake_card, ref'));
    await giveRights(client, 'booking_system', password);
    await makeUses(client, 'booking_system');
  });
  await within(other('warehouse'), async (client) => {
    await fillWarehouse(client, {
      host: url.hostname,
      port: Number(url.port || 5432),
      owner: decodeURIComponent(url.username),
      ownerPassword: decodeURIComponent(url.password),
      reader: READER,
      readerPassword: password,
    });
    await client.query(grants('landing, core, mart'));
    await giveRights(client, 'warehouse', password);
    await makeUses(client, 'warehouse');
  });
  for (const office of OFFICES)
    await within(other(office.database), async (client) => {
      await fillOffice(client, office);
      await client.query(grants(Object.keys(office.schemas).join(', ')));
      await giveRights(client, office.database, password);
      await makeUses(client, office.database);
    });
  await writeVoyageFiles(join(folder, 'voyage-files'), today);
  writeLoads(folder);
  writeCrewing(crewingFile(folder), today);
  writeShoreStore(folder, today);
  writeServices(folder, { host: url.hostname, port: Number(url.port || 5432) }, today);
  writeDocuments(folder);
  writeIdentity(folder);
}

/** What somebody changed in the Booking system between its first scan and its second. */
export async function plantChanges(serverUrl: string): Promise<void> {
  const url = new URL(serverUrl);
  url.pathname = '/booking_system';
  await within(url.href, async (client) => {
    await client.query('alter table wake_card.trip rename to journey');
    await client.query('alter table wake_card.card_holder add column may_write boolean not null default false');
    await client.query('alter table booking.web_visit alter column device type varchar(200)');
    await client.query("comment on table booking.web_visit is 'Who looked at the web shop; kept for 30 days'");
    await client.query(
      'create table booking.lost_property (id int primary key, found_on date not null, what text not null, reported_by text, call_back text)',
    );
    await client.query(
      "insert into booking.lost_property select p.id, current_date - (p.id % 90), (array['umbrella', 'phone', 'glove', 'book'])[1 + p.id % 4], p.email, p.phone from booking.passenger p where p.id <= 150",
    );
    await client.query(`grant select on booking.lost_property to ${READER}`);
    await forgetMaking(client);
  });
}

/** Writes people, groups, domains and roles; what is there already stays. */
export async function makeOrganisation(databaseUrl: string): Promise<void> {
  const salt = randomBytes(16);
  const hash = `scrypt:${salt.toString('base64')}:${scryptSync(DEMO_PASSWORD, salt, 32).toString('base64')}`;
  await within(databaseUrl, async (client) => {
    await client.query('begin');
    for (const [name, parent] of DOMAINS)
      await client.query(
        'insert into domain (name, parent_id) values ($1, (select id from domain where name = $2)) on conflict do nothing',
        [name, parent],
      );
    for (const name of GROUPS)
      await client.query('insert into person_group (name, claim) values ($1, $2) on conflict do nothing', [
        name,
        claimOf(name),
      ]);
    for (const person of PEOPLE) {
      await client.query(
        'insert into person (name, email, job, password_hash, demo, created_at) values ($1, $2, $3, $4, true, clock_timestamp()) on conflict do nothing',
        [person.name, addressOf(person.name), person.job, hash],
      );
      for (const group of person.groups)
        await client.query(
          'insert into group_member select g.id, p.id from person_group g, person p where g.name = $1 and p.name = $2 on conflict do nothing',
          [group, person.name],
        );
      for (const [role, domain] of person.roles)
        await client.query(
          'insert into role_grant (person_id, domain_id, role) select p.id, (select id from domain where name = $2), $3 from person p where p.name = $1 on conflict do nothing',
          [person.name, domain, role],
        );
    }
    await makePartner(client, hash);
    for (const [domain, [purpose, owner]] of Object.entries(ABOUT_DOMAINS))
      await client.query(
        'update domain set purpose = $2, owner_id = (select id from person where name = $3) where name = $1',
        [domain, purpose, owner],
      );
    await client.query('commit');
  });
}

/** The organisation that something is shared with, and who speaks for it. */
async function makePartner(client: pg.Client, hash: string): Promise<void> {
  await client.query(
    `with made as (
       insert into partner (name, note) values ($1, $2) on conflict do nothing returning id
     ),
     grouped as (insert into person_group (name, partner_id) select $1, id from made returning id),
     added as (
       insert into person (name, email, job, password_hash, demo, created_at, partner_id, leads)
       select $3, $4, $1, $5, true, clock_timestamp() + interval '1 second', id, true from made returning id
     )
     insert into person_attribute (person_id, key, value) select id, 'organisation', $1 from added`,
    [PARTNER.name, PARTNER.note, PARTNER.lead, PARTNER.email, hash],
  );
  await client.query(
    `insert into group_member (group_id, person_id)
     select g.id, p.id from person_group g join person p on p.partner_id = g.partner_id on conflict do nothing`,
  );
}

/** When the database server, the stand-ins or the folder are somewhere else than before: the addresses that the demo wrote down follow them. */
export async function follow({
  databaseUrl,
  serverUrl,
  folder,
  standIns,
}: {
  databaseUrl: string;
  serverUrl: string;
  folder: string;
  standIns: string;
}): Promise<void> {
  const url = new URL(serverUrl);
  await within(databaseUrl, (client) =>
    client.query(
      "update source set address = jsonb_set(address, '{url}', to_jsonb($1::text || substring(address ->> 'url' from '/(?:store|reports|flows)$'))) where kind in ('objects', 'reports', 'orchestrator') and address ->> 'url' ~ '^http://127[.]0[.]0[.]1:[0-9]+/(store|reports|flows)$'",
      [standIns],
    ),
  );
  await within(databaseUrl, (client) =>
    client.query(
      "update asset_link set url = regexp_replace(url, '^http://127[.]0[.]0[.]1:[0-9]+/documents/', $1::text || '/documents/')",
      [standIns],
    ),
  );
  for (const [table, held] of [
    ['source', 'address'],
    ['asset', 'native'],
  ])
    await within(databaseUrl, (client) =>
      client.query(
        `update ${table} set ${held} = jsonb_set(${held}, '{path}', to_jsonb($1::text || substring(${held} ->> 'path' from $2))) where kind in ('folder', 'sqlite', 'scripts', 'source') and ${held} ->> 'path' ~ $2`,
        [folder, `/(?:crewing/crewing[.]sqlite|voyage-files|${LOADS_FOLDER})$`],
      ),
    );
  writeServices(folder, { host: url.hostname, port: Number(url.port || 5432) }, new Date());
  writeDocuments(folder);
  writeIdentity(folder);
  // Ends of edges that lie in another source are known by where that is.
  for (const end of ['from_place', 'to_place'])
    await within(databaseUrl, (client) =>
      client.query(
        `update remote_edge set ${end} = regexp_replace(${end}, ':[0-9]+/', $1) where ${end} ~ '^postgresql://127[.]0[.]0[.]1:[0-9]+/' and split_part(${end}, '/', 4) = any($2::text[])`,
        [`:${url.port}/`, DATABASES],
      ),
    );
  await within(databaseUrl, (client) =>
    client.query(
      "update source set address = jsonb_set(address, '{port}', to_jsonb($1::int)) where kind in ('postgresql', 'scripts') and address ->> 'database' = any($2::text[])",
      [Number(url.port), DATABASES],
    ),
  );
  url.pathname = '/warehouse';
  await within(url.href, (client) =>
    client.query(`alter server booking_system options (set port '${Number(url.port)}')`),
  );
}
