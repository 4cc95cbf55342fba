import type pg from 'pg';

/** Who may do what in a database of the company by the database's own rights, as they have come to be over the years. */
interface Rights {
  /** Roles as which somebody comes in, with what they are members of. */
  readonly logins: Readonly<Record<string, readonly string[]>>;
  readonly grants: readonly string[];
}

/** The role that makes policies hold at a source itself, and the schemas of each database over which it may: read them, and pass that on. */
export const KEEPER = 'policy_keeper';
export const KEPT: Readonly<Record<string, readonly string[]>> = {
  freight_desk: ['freight', 'contracts', 'invoicing'],
};

/** Reporting got its rights when there were three tables; it was given everything, and everything that comes. */
const REPORTING = 'reporting_all';

const RIGHTS: Record<string, Rights> = {
  booking_system: {
    logins: {
      web_shop: [],
      counter: [],
      call_centre: ['pg_read_all_data'],
      fares_desk: [REPORTING],
      bettina_sark: [REPORTING],
    },
    grants: [
      `grant usage on schema booking, ref to ${REPORTING}, web_shop, counter`,
      `grant select on all tables in schema booking to ${REPORTING}`,
      `alter default privileges in schema booking grant select on tables to ${REPORTING}`,
      'grant select on booking.booking, booking.booking_leg, ref.port to web_shop',
      'grant select (given_name, family_name, email) on booking.passenger to counter',
      'grant select on booking.payment to counter',
    ],
  },
  fleet_office: {
    logins: { technical_office: [], bridge_board: [], accounts: [] },
    grants: [
      'grant usage on schema maintenance to technical_office, bridge_board, accounts',
      'grant select on all tables in schema maintenance to technical_office',
      'grant select on maintenance.main_engine_fault to bridge_board',
      'grant select on maintenance.work_order, maintenance.work_order_cost, maintenance.work_order_document to accounts',
    ],
  },
  freight_desk: {
    logins: { freight_desk: [], accounts: [], maud_ilkley: [REPORTING] },
    grants: [
      `grant usage on schema freight to freight_desk, accounts`,
      'grant select on all tables in schema freight to freight_desk',
      'grant select on freight.consignment, freight.consignment_cost to accounts',
      `grant usage on schema contracts, invoicing to ${REPORTING}`,
      `grant select on all tables in schema contracts to ${REPORTING}`,
      `alter default privileges in schema contracts grant select on tables to ${REPORTING}`,
    ],
  },
  warehouse: {
    logins: { fares_desk: [REPORTING], counter: [], bettina_sark: [REPORTING] },
    grants: [
      `grant usage on schema mart to ${REPORTING}, counter`,
      `grant select on all tables in schema mart to ${REPORTING}`,
      'grant select on mart.onboard_sales to counter',
    ],
  },
};

const EVERY_ROLE = [...new Set(Object.values(RIGHTS).flatMap(({ logins }) => Object.keys(logins)))];

/** Makes the roles of a database and gives them what they have; to be run in that database. @param password of the role that makes policies hold there */
export async function giveRights(client: pg.Client, database: string, password: string): Promise<void> {
  const rights = RIGHTS[database];
  if (!rights) return;
  for (const role of [REPORTING, ...EVERY_ROLE])
    await client.query(
      `do $$ begin if not exists (select 1 from pg_roles where rolname = '${role}') then create role ${role}; end if; end $$`,
    );
  for (const [login, groups] of Object.entries(rights.logins)) {
    await client.query(`alter role ${login} login; grant connect on database ${database} to ${login}`);
    for (const group of groups) await client.query(`grant ${group} to ${login}`);
  }
  for (const grant of rights.grants) await client.query(grant);
  for (const schema of KEPT[database] ?? []) {
    await client.query(
      `do $$ begin if not exists (select 1 from pg_roles where rolname = '${KEEPER}') then create role ${KEEPER}; end if; end $$`,
    );
    await client.query(
      `alter role ${KEEPER} with login password '${password}' createrole nosuperuser;
       grant connect, create on database ${database} to ${KEEPER};
       grant usage on schema ${schema} to ${KEEPER} with grant option;
       grant select on all tables in schema ${schema} to ${KEEPER} with grant option`,
    );
  }
}
