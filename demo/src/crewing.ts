import { mkdirSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import sqlite from 'node-sqlite3-wasm';
import { norwegianId, seedNames, traveller } from './personal.ts';
import { day, daysBefore, seeded } from './random.ts';

const CREW = 340;
const SCHEMA = `
  create table crew_member (
    id integer primary key, staff_no text not null unique, given_name text not null, family_name text not null, born date not null,
    fodselsnummer text, email text, mobile text, rank text not null, hired date not null, vessel text);
  create table certificate (id integer primary key, crew_member_id int not null references crew_member (id), name text not null, number text not null, valid_until date not null);
  -- Special-category data: results of medical examinations.
  create table medical_check (id integer primary key, crew_member_id int not null references crew_member (id), checked_on date not null, fit text not null, remark text);
  create table roster (crew_member_id int not null references crew_member (id), week text not null, vessel text not null, watch text not null, primary key (crew_member_id, week)) without rowid;
  create table rest_hours (crew_member_id int not null references crew_member (id), on_day date not null, hours numeric(4, 1) not null);
  create table next_of_kin (crew_member_id int not null references crew_member (id), ref_1 text not null, ref_2 text);
  create view overdue_medical as
    select c.staff_no, c.given_name || ' ' || c.family_name as name, max(m.checked_on) as last_check
    from crew_member c join medical_check m on m.crew_member_id = c.id group by c.staff_no, c.given_name, c.family_name having max(m.checked_on) < '2024-01-01';`;
const RANKS = [
  'Master',
  'Chief officer',
  'Second officer',
  'Chief engineer',
  'Motorman',
  'Able seaman',
  'Steward',
  'Cook',
];
const VESSELS = ['Wakerunner', 'Kelpie', 'Ardent', 'Skerry', 'Tern'];
const REMARKS = [
  '',
  '',
  '',
  'Wears glasses on the bridge.',
  'Asthma; carries an inhaler.',
  'Type 1 diabetes, well adjusted.',
  'Back trouble: no heavy lifting until the autumn.',
];

/** Writes the Crewing system: one SQLite file with crew, certificates, medical checks, rosters, rest hours and next of kin. */
export function writeCrewing(path: string, today: Date): void {
  mkdirSync(dirname(path), { recursive: true });
  rmSync(path, { force: true });
  const random = seeded(47);
  seedNames(47);
  const database = new sqlite.Database(path);
  const insert = (table: string, rows: readonly (readonly (string | number | null)[])[]) => {
    const statement = database.prepare(`insert into ${table} values (${(rows[0] ?? []).map(() => '?').join(', ')})`);
    for (const row of rows) statement.run([...row]);
    statement.finalize();
  };
  database.exec(SCHEMA);
  database.exec('begin');
  const crew = Array.from({ length: CREW }, (_, index) => {
    const who = traveller(random, index);
    const born = day(daysBefore(today, 365 * (19 + random.below(44)) + random.below(365)));
    const id = who.country === 'NO' ? norwegianId(random, born) : null;
    return [
      index + 1,
      `TF-${String(1000 + index)}`,
      who.given,
      who.family,
      born,
      id,
      who.email,
      who.phone,
      random.pick(RANKS),
      day(daysBefore(today, random.below(7000))),
      random.pick(VESSELS),
    ];
  });
  insert('crew_member', crew);
  insert(
    'certificate',
    Array.from({ length: CREW * 2 }, (_, index) => [
      index + 1,
      (index % CREW) + 1,
      random.pick(['Basic safety', 'Radio operator', 'Crowd management', 'Fast rescue boat']),
      `C${random.digits(7)}`,
      day(daysBefore(today, random.below(1800) - 1200)),
    ]),
  );
  insert(
    'medical_check',
    Array.from({ length: CREW * 3 }, (_, index) => [
      index + 1,
      (index % CREW) + 1,
      day(daysBefore(today, random.below(1500))),
      random.pick(['yes', 'yes', 'yes', 'with limits']),
      random.pick(REMARKS),
    ]),
  );
  const weeks = Array.from(
    { length: 12 },
    (_, index) =>
      `${daysBefore(today, index * 7).getUTCFullYear()}-W${String(1 + ((index * 7) % 52)).padStart(2, '0')}`,
  );
  insert(
    'roster',
    crew.flatMap(([id]) =>
      [...new Set(weeks)].map((week) => [id as number, week, random.pick(VESSELS), random.pick(['day', 'night'])]),
    ),
  );
  insert(
    'rest_hours',
    crew.flatMap(([id]) =>
      Array.from({ length: 14 }, (_, index) => [
        id as number,
        day(daysBefore(today, index)),
        6 + random.below(80) / 10,
      ]),
    ),
  );
  insert(
    'next_of_kin',
    crew.map(([id], index) => {
      const who = traveller(random, index);
      return [id as number, `${who.given} ${who.family}`, who.phone];
    }),
  );
  database.exec('commit');
  database.close();
}
