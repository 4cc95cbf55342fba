import type pg from 'pg';
import { seeded } from './random.ts';

/** Systems of offices ashore: many tables of the same build, as bought programs have them. */
export interface Office {
  readonly database: string;
  readonly name: string;
  readonly domain: string;
  readonly description: string;
  /** By schema: what it is for, and the things that it keeps, each with the aspects it keeps of them. */
  readonly schemas: Readonly<
    Record<string, { readonly about: string; readonly things: Readonly<Record<string, string>> }>
  >;
}

/** Aspects by their letters: b(ase), r(eadings), s(ervices), f(aults), d(ocuments), p(lans), c(osts), n(otes), h(istory), l(ines). */
export const OFFICES: readonly Office[] = [
  {
    database: 'fleet_office',
    name: 'Fleet office',
    domain: 'Fleet',
    description:
      'What the technical office keeps of the eleven vessels: work orders, spares, dockings, drills, bunkers.',
    schemas: {
      maintenance: {
        about: 'Work on machinery and hull',
        things: {
          work_order: 'bscdnhl',
          main_engine: 'brsfdh',
          generator: 'brsfdh',
          thruster: 'brsfdn',
          boiler: 'brsfdn',
          pump: 'brsfdn',
          hull_survey: 'bfdpnh',
        },
      },
      spares: {
        about: 'Parts on board and ashore',
        things: { part: 'bchnd', part_stock: 'bhrdn', stock_take: 'blndh', supplier: 'bdcnh', part_order: 'blchdn' },
      },
      docking: {
        about: 'Yard stays',
        things: { yard_stay: 'bpcdnl', yard_quote: 'blcdnh', coating: 'brfdnh', class_item: 'bpdhn' },
      },
      safety: {
        about: 'Drills, incidents and equipment',
        things: {
          drill: 'bpndh',
          incident: 'bfdnhc',
          near_miss: 'bfndh',
          life_raft: 'bsfdhn',
          fire_panel: 'brsfdn',
          safety_round: 'blndh',
        },
      },
      bunkering: {
        about: 'Fuel, oil and water',
        things: { bunker_order: 'blcdnh', tank: 'brfhdn', fuel_sample: 'brdnh', shore_power: 'brcdnh' },
      },
      navigation: {
        about: 'Voyages as they were sailed',
        things: { voyage_plan: 'bpnldh', log_entry: 'brnhd', radar: 'brsfdn', berth_slot: 'bphnd', pilotage: 'bcdnh' },
      },
    },
  },
  {
    database: 'freight_desk',
    name: 'Freight desk',
    domain: 'Freight',
    description: 'Trailers and cargo from the quote to the paid invoice, and the ledger behind it.',
    schemas: {
      freight: {
        about: 'What is carried',
        things: {
          consignment: 'blcdnh',
          trailer: 'brsfhd',
          haulier: 'bdcnh',
          quote: 'blcndh',
          loading_list: 'blnhd',
          dangerous_cargo: 'bdfnh',
          reefer_plug: 'brfdnh',
        },
      },
      depot: {
        about: 'Yards and gates ashore',
        things: { gate_pass: 'bhnd', yard_lane: 'bphdn', weighbridge: 'brsfdn', damage_claim: 'bcdnfh' },
      },
      invoicing: {
        about: 'What customers owe',
        things: {
          invoice: 'blcdnh',
          credit_note: 'bldnh',
          dunning: 'bhnd',
          price_list: 'blphnd',
          account_customer: 'bcdnh',
        },
      },
      ledger: {
        about: 'The books',
        things: {
          journal_line: 'bhdn',
          ledger_account: 'bphnd',
          cost_centre: 'bpcndh',
          bank_statement: 'bldnh',
          asset_register: 'bschdn',
          tax_return: 'bldnh',
        },
      },
      budget: {
        about: 'Plans of the year',
        things: { budget_round: 'bplnhd', forecast: 'blphdn', investment: 'bpcdnh' },
      },
      contracts: {
        about: 'What was agreed with others',
        things: { contract: 'bdpcnhl', tender: 'blcdnh', insurance: 'bpcdnh', port_agreement: 'bdcnlh' },
      },
    },
  },
];

type Column = readonly [name: string, type: string, value: string];
const STATES = "(array['open', 'planned', 'under way', 'done', 'closed'])[1 + i % 5]";
const day = (name: string, step: number): Column => [name, 'date', `current_date - (i * ${step}) % 900`];
const at = (name: string): Column => [name, 'timestamptz', "now() - (i * 317 || ' minutes')::interval"];
const amount = (name: string): Column => [name, 'numeric(12,2)', 'round((i * 37.19) % 5000, 2)'];
const remark: Column = ['remark', 'text', "case when i % 4 = 0 then 'as agreed with the yard' end"];
const kept: readonly Column[] = [
  ['entered_by', 'varchar(3)', "(array['rqu', 'hab', 'osv', 'lme'])[1 + i % 4]"],
  at('entered_at'),
  ['row_version', 'int', '1 + i % 7'],
];

/** What a table of each aspect holds besides its key and what it belongs to. */
const ASPECTS: Readonly<
  Record<string, { readonly suffix: string; readonly about: string; readonly columns: readonly Column[] }>
> = {
  b: {
    suffix: '',
    about: 'One row for each',
    columns: [
      ['code', 'varchar(12)', "upper(substr(md5('c' || i), 1, 3)) || '-' || 1000 + i"],
      ['title', 'varchar(80)', "'No ' || i"],
      ['vessel_id', 'int', '1 + i % 11'],
      ['state', 'varchar(20)', STATES],
      ['priority', 'smallint', '1 + i % 3'],
      day('opened_on', 7),
      day('closed_on', 5),
      ['office', 'varchar(30)', "(array['Tarnholm', 'Ulvey', 'Kessgar'])[1 + i % 3]"],
      ['is_locked', 'boolean', 'i % 9 = 0'],
      ['budget_year', 'smallint', 'extract(year from current_date)::int - i % 3'],
      ['route_no', 'smallint', '1 + i % 6'],
      amount('estimate'),
      amount('spent'),
      ['approved_by', 'varchar(3)', "(array['rqu', 'jpe'])[1 + i % 2]"],
      day('approved_on', 6),
      ['legacy_no', 'varchar(20)', "case when i % 3 = 0 then 'A' || i end"],
      remark,
    ],
  },
  r: {
    suffix: '_reading',
    about: 'Readings, one row for each time and gauge',
    columns: [
      at('read_at'),
      ['gauge', 'varchar(20)', "(array['pressure', 'temperature', 'hours', 'level'])[1 + i % 4]"],
      ['value', 'numeric(10,3)', '(i * 13.7) % 400'],
      ['unit', 'varchar(8)', "(array['bar', '°C', 'h', 'm³'])[1 + i % 4]"],
      ['lowest_allowed', 'numeric(10,3)', '5'],
      ['highest_allowed', 'numeric(10,3)', '380'],
      ['is_accepted', 'boolean', 'i % 13 <> 0'],
      ['watch', 'varchar(10)', "(array['morning', 'day', 'evening', 'night'])[1 + i % 4]"],
      ['sensor_serial', 'varchar(16)', "'S' || substr(md5('s' || i), 1, 8)"],
      ['was_typed', 'boolean', 'i % 5 = 0'],
      remark,
    ],
  },
  s: {
    suffix: '_service',
    about: 'Work done on it',
    columns: [
      day('planned_on', 6),
      day('done_on', 4),
      ['hours_worked', 'numeric(6,2)', '(i * 1.25) % 40'],
      ['interval_hours', 'int', '250 * (1 + i % 8)'],
      ['done_by_yard', 'boolean', 'i % 6 = 0'],
      ['part_code', 'varchar(12)', "'P-' || 100 + i % 300"],
      amount('cost'),
      ['currency', 'char(3)', "'EUR'"],
      ['order_no', 'varchar(14)', "'WO' || 20000 + i"],
      ['state', 'varchar(20)', STATES],
      ['signed_off', 'boolean', 'i % 2 = 0'],
      remark,
    ],
  },
  f: {
    suffix: '_fault',
    about: 'What was found wrong',
    columns: [
      at('found_at'),
      ['severity', 'smallint', '1 + i % 4'],
      ['cause', 'varchar(40)', "(array['wear', 'leak', 'corrosion', 'wrong use', 'unknown'])[1 + i % 5]"],
      ['place', 'varchar(40)', "'deck ' || 1 + i % 7"],
      day('mended_on', 3),
      ['is_repeated', 'boolean', 'i % 8 = 0'],
      ['downtime_minutes', 'int', '(i * 17) % 600'],
      ['reported_to_class', 'boolean', 'i % 10 = 0'],
      ['work_order_no', 'varchar(14)', "'WO' || 20000 + i % 400"],
      ['state', 'varchar(20)', STATES],
      remark,
    ],
  },
  d: {
    suffix: '_document',
    about: 'Papers that belong to it',
    columns: [
      ['title', 'varchar(120)', "'Paper ' || i"],
      ['kind', 'varchar(20)', "(array['certificate', 'drawing', 'report', 'agreement'])[1 + i % 4]"],
      day('issued_on', 9),
      ['valid_until', 'date', 'current_date + (i * 11) % 700'],
      ['pages', 'int', '1 + i % 60'],
      ['issuer', 'varchar(40)', "(array['yard', 'class society', 'flag state', 'maker'])[1 + i % 4]"],
      ['store_path', 'varchar(200)', "'/papers/' || substr(md5('d' || i), 1, 6) || '.pdf'"],
      ['checksum', 'char(32)', "md5('doc' || i)"],
      ['language', 'char(2)', "(array['en', 'no', 'de'])[1 + i % 3]"],
      ['is_original', 'boolean', 'i % 4 <> 0'],
      remark,
    ],
  },
  p: {
    suffix: '_plan',
    about: 'When it is due',
    columns: [
      ['due_on', 'date', 'current_date + (i * 5) % 365'],
      ['window_days', 'int', '7 * (1 + i % 4)'],
      ['season', 'varchar(10)', "(array['winter', 'spring', 'summer', 'autumn'])[1 + i % 4]"],
      ['planned_hours', 'numeric(6,2)', '(i * 2.5) % 80'],
      ['needs_dock', 'boolean', 'i % 12 = 0'],
      ['rank', 'smallint', '1 + i % 9'],
      ['depends_on_no', 'varchar(14)', "case when i % 7 = 0 then 'WO' || 20000 + i end"],
      ['state', 'varchar(20)', STATES],
      ['agreed', 'boolean', 'i % 3 = 0'],
      day('agreed_on', 2),
      remark,
    ],
  },
  c: {
    suffix: '_cost',
    about: 'What it costs',
    columns: [
      day('booked_on', 3),
      ['cost_centre', 'varchar(10)', "'CC' || 100 + i % 40"],
      ['ledger_account', 'varchar(10)', "'4' || 100 + i % 80"],
      amount('net_amount'),
      ['tax_rate', 'numeric(4,2)', '0.25'],
      amount('gross_amount'),
      ['currency', 'char(3)', "'EUR'"],
      ['exchange_rate', 'numeric(10,5)', '1'],
      ['invoice_no', 'varchar(16)', "'F' || 70000 + i"],
      ['is_accrued', 'boolean', 'i % 5 = 0'],
      ['period', 'char(7)', "to_char(current_date - (i % 400), 'YYYY-MM')"],
      remark,
    ],
  },
  n: {
    suffix: '_note',
    about: 'What was written about it',
    columns: [
      at('written_at'),
      ['subject', 'varchar(80)', "'About no ' || i"],
      ['body', 'text', "'Seen and agreed, see the order of ' || to_char(current_date - i % 300, 'YYYY-MM-DD')"],
      ['is_internal', 'boolean', 'i % 2 = 0'],
      ['is_pinned', 'boolean', 'i % 15 = 0'],
      ['answers_note_id', 'int', 'case when i % 6 = 0 then i - 1 end'],
      ['topic', 'varchar(20)', "(array['cost', 'time', 'safety', 'quality'])[1 + i % 4]"],
      ['follow_up_on', 'date', 'current_date + i % 30'],
    ],
  },
  h: {
    suffix: '_history',
    about: 'How its state changed',
    columns: [
      at('changed_at'),
      ['field', 'varchar(40)', "(array['state', 'priority', 'office', 'title'])[1 + i % 4]"],
      ['old_value', 'varchar(200)', "(array['open', '2', 'Ulvey', 'old'])[1 + i % 4]"],
      ['new_value', 'varchar(200)', "(array['done', '1', 'Tarnholm', 'new'])[1 + i % 4]"],
      ['reason', 'varchar(60)', "case when i % 3 = 0 then 'yearly round' end"],
      ['by_program', 'boolean', 'i % 2 = 1'],
      ['program', 'varchar(30)', "case when i % 2 = 1 then 'night job' end"],
      ['batch_no', 'int', '1 + i / 20'],
    ],
  },
  l: {
    suffix: '_line',
    about: 'Its lines',
    columns: [
      ['line_no', 'int', '1 + i % 12'],
      ['text', 'varchar(120)', "'Line ' || i"],
      ['quantity', 'numeric(10,2)', '1 + i % 20'],
      ['unit', 'varchar(8)', "(array['pc', 'm', 'h', 't'])[1 + i % 4]"],
      amount('unit_price'),
      amount('line_total'),
      ['discount', 'numeric(4,2)', '0'],
      ['cost_centre', 'varchar(10)', "'CC' || 100 + i % 40"],
      ['is_delivered', 'boolean', 'i % 3 <> 0'],
      day('delivered_on', 4),
      ['part_code', 'varchar(12)', "'P-' || 100 + i % 300"],
      remark,
    ],
  },
};
const ROWS = 60;

/** Fills the database of an office. Keys and what belongs to what are declared, as a program that was bought has them. */
export async function fillOffice(client: pg.Client, { schemas }: Office): Promise<void> {
  const random = seeded(20_261_127);
  for (const [schema, { about, things }] of Object.entries(schemas)) {
    const statements = [`create schema ${schema}; comment on schema ${schema} is '${about}'`];
    for (const [thing, aspects] of Object.entries(things))
      for (const letter of aspects) {
        const { suffix, about: kind, columns } = ASPECTS[letter] as (typeof ASPECTS)[string];
        const table = `${schema}.${thing}${suffix}`;
        const own = [...columns, ...kept];
        const belongs = suffix ? `, ${thing}_id int not null references ${schema}.${thing} (id)` : '';
        statements.push(
          `create table ${table} (id int primary key${belongs}, ${own.map(([name, type]) => `${name} ${type}`).join(', ')})`,
          `insert into ${table} select i${suffix ? `, 1 + i % ${ROWS}` : ''}, ${own.map(([, , value]) => value).join(', ')} from generate_series(1, ${ROWS}) i`,
        );
        // Whoever made the program described some of its tables.
        if (random.below(3) === 0)
          statements.push(`comment on table ${table} is '${thing.replaceAll('_', ' ')}: ${kind.toLowerCase()}'`);
      }
    await client.query(statements.join(';\n'));
  }
  await client.query('analyze');
}
