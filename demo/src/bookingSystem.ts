import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type pg from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { iban, norwegianId, seedNames, traveller, withLuhn } from './personal.ts';
import { day, daysBefore, seeded } from './random.ts';

const SCHEMA = (years: number[]) => `
create schema booking; create schema wake_card; create schema ref;
comment on schema booking is 'Sales: who travels, when, with what, and what was paid';
create table ref.port (id int primary key, code text not null unique, name text not null, latitude numeric(8,5), longitude numeric(8,5));
create table ref.country (code char(2) primary key, name text not null);
create table ref.vessel (id int primary key, vessel_name text not null, built int, passengers_max int, cars_max int);
create table ref.route (id int primary key, from_port_id int not null references ref.port, to_port_id int not null references ref.port, minutes int not null);
create table ref.fare_band (id int primary key, name text not null, price numeric(8,2) not null, valid_until date);
comment on table ref.fare_band is 'Prices by band; old bands stay for old bookings';
create table booking.passenger (id int primary key, given_name text not null, family_name text not null, date_of_birth date, email text, phone text, street_address text, postcode text, town text, country_code char(2) references ref.country, ref_2 text, created_at timestamptz not null default now());
comment on table booking.passenger is 'One row for each person who has travelled or booked';
comment on column booking.passenger.email is 'Where tickets are sent';
create table booking.booking (id int primary key, booking_ref text not null unique, passenger_id int not null references booking.passenger, route_id int not null references ref.route, fare_band_id int not null references ref.fare_band, sailing_code text not null, status text not null, booked_at timestamptz not null, party_size int not null default 1);
create table booking.booking_leg (id int not null, booking_id int not null, leg_no int not null, sailing_date date not null, vessel_id int not null references ref.vessel, ticket_barcode text not null, primary key (id, sailing_date)) partition by range (sailing_date);
${years.map((year) => `create table booking.booking_leg_${year} partition of booking.booking_leg for values from ('${year}-01-01') to ('${year + 1}-01-01');`).join('\n')}
create table booking.vehicle_carried (id int primary key, booking_id int not null references booking.booking, plate text, length_m numeric(4,1) not null);
create table booking.payment (id int primary key, booking_id int not null references booking.booking, method text not null, card_number text, amount numeric(9,2) not null, paid_at timestamptz not null);
create table booking.refund (id int primary key, payment_id int not null references booking.payment, account text not null, amount numeric(9,2) not null, reason text);
create table booking.contact_note (id int primary key, booking_id int not null references booking.booking, written_at timestamptz not null, author text not null, note text not null);
create table booking.web_visit (id int primary key, passenger_id int, seen_from inet not null, device text, page text not null, at timestamptz not null);
create table wake_card.card_holder (card_no text primary key, passenger_id int not null references booking.passenger, issued_on date not null, misc text);
create table wake_card.trip (id int primary key, card_no text not null references wake_card.card_holder, route_id int not null references ref.route, travelled_on date not null);
create view booking.open_booking as select b.id, b.booking_ref, p.given_name || ' ' || p.family_name as passenger, p.email, b.booked_at from booking.booking b join booking.passenger p on p.id = b.passenger_id where b.status = 'open';
create view booking.paid_total as select b.id as booking_id, coalesce(sum(pay.amount), 0) - coalesce(sum(r.amount), 0) as paid from booking.booking b left join booking.payment pay on pay.booking_id = b.id left join booking.refund r on r.payment_id = pay.id group by b.id;`;

const PORTS = [
  ['TRN', 'Tarnholm', 58.9712, 5.7331],
  ['ULV', 'Ulvey', 58.8421, 5.2117],
  ['KES', 'Kessgar', 58.7013, 5.4402],
  ['NBR', 'North Brae', 59.1204, 5.0931],
  ['LOD', 'Lodden Head', 58.6127, 4.9316],
  ['MAR', 'Marrick', 58.4405, 5.9927],
] as const;
const VESSELS = [
  'Wakerunner',
  'Saltmarsh',
  'Grey Tern',
  'Holm Light',
  'Ulvey Belle',
  'Northern Brae',
  'Kelpie',
  'Sound of Marrick',
  'Ardent',
  'Pilot Whale',
  'Steadfast',
];
const ROUTES = [
  [1, 2, 45],
  [1, 3, 70],
  [2, 4, 35],
  [3, 5, 95],
  [1, 6, 120],
  [5, 6, 80],
] as const;
const BANDS = [
  ['Walk-on', 12.5, null],
  ['Walk-on, child', 6.25, null],
  ['Car', 48, null],
  ['Freight trailer', 210, null],
  ['Summer saver', 9.9, '2024-09-30'],
  ['Wake Card', 8.75, null],
] as const;
const NOTES = [
  'Asked whether dogs may travel on the upper deck',
  'Wants a berth near the lift for a wheelchair',
  'The crossing was late and the connection was missed',
  'Complained about the price of coffee on board',
  'Forgot a blue umbrella in the lounge',
];

type Cell = string | number | null;
async function copy(client: pg.Client, table: string, rows: Iterable<readonly Cell[]>): Promise<void> {
  const inCopy = (cell: Cell) =>
    cell === null
      ? '\\N'
      : String(cell).replace(
          /[\\\t\n\r]/g,
          (character) => ({ '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' })[character] ?? '',
        );
  function* lines() {
    for (const row of rows) yield `${row.map(inCopy).join('\t')}\n`;
  }
  await pipeline(Readable.from(lines(), { highWaterMark: 512 }), client.query(copyFrom(`copy ${table} from stdin`)));
}
function* range<T>(count: number, make: (index: number) => T) {
  for (let index = 1; index <= count; index += 1) yield make(index);
}

/**
 * Fills an empty database with the Booking system: personal data under honest and misleading names, and columns that only look like it.
 * @param scale 1 for the usual volumes
 */
export async function fillBookingSystem(client: pg.Client, today: Date, scale: number): Promise<void> {
  const random = seeded(20261);
  seedNames(20261);
  const years = [today.getUTCFullYear() - 1, today.getUTCFullYear(), today.getUTCFullYear() + 1];
  await client.query(SCHEMA(years));
  const counts = { passenger: 20_000 * scale, booking: 45_000 * scale, payment: 60_000 * scale, leg: 80_000 * scale };
  const stamp = (most: number) => daysBefore(today, random.next() * most).toISOString();
  await copy(
    client,
    'ref.port',
    PORTS.map(([code, name, lat, lon], index) => [index + 1, code, name, lat, lon]),
  );
  await copy(client, 'ref.country', [
    ['GB', 'United Kingdom'],
    ['NO', 'Norway'],
    ['DE', 'Germany'],
    ['US', 'United States'],
  ]);
  await copy(
    client,
    'ref.vessel',
    VESSELS.map((name, index) => [index + 1, name, 1978 + index * 4, 240 + index * 60, 30 + index * 11]),
  );
  await copy(
    client,
    'ref.route',
    ROUTES.map(([from, to, minutes], index) => [index + 1, from, to, minutes]),
  );
  await copy(
    client,
    'ref.fare_band',
    BANDS.map(([name, price, until], index) => [index + 1, name, price, until]),
  );
  await copy(
    client,
    'booking.passenger',
    range(counts.passenger, (id) => {
      const who = traveller(random, id);
      const born = day(
        daysBefore(today, (random.next() < 0.12 ? 3 + random.next() * 14 : 18 + random.next() * 65) * 365.25),
      );
      return [
        id,
        who.given,
        who.family,
        random.next() < 0.04 ? null : born,
        random.next() < 0.06 ? null : who.email,
        random.next() < 0.2 ? null : who.phone,
        who.street,
        who.postcode,
        who.town,
        who.country,
        who.country === 'NO' ? norwegianId(random, born) : null,
        stamp(900),
      ];
    }),
  );
  await copy(
    client,
    'booking.booking',
    range(counts.booking, (id) => [
      id,
      `47 22 ${random.digits(2)} ${String(id).padStart(6, '0')}`,
      1 + random.below(counts.passenger),
      1 + random.below(ROUTES.length),
      1 + random.below(BANDS.length),
      `TF${10 + random.below(80)}${random.pick(PORTS)[0]}${2026}${random.digits(8)}`,
      random.pick(['travelled', 'travelled', 'travelled', 'open', 'cancelled']),
      stamp(360),
      1 + random.below(5),
    ]),
  );
  await copy(
    client,
    'booking.booking_leg',
    range(counts.leg, (id) => [
      id,
      1 + random.below(counts.booking),
      1 + (id % 2),
      day(daysBefore(today, random.below(330) - 20)),
      1 + random.below(VESSELS.length),
      withLuhn(`7${random.digits(14)}`, false),
    ]),
  );
  await copy(
    client,
    'booking.vehicle_carried',
    range(Math.round(counts.booking / 6), (id) => [
      id,
      1 + random.below(counts.booking),
      random.next() < 0.6
        ? `${random.pick(['EK', 'SV', 'DN', 'RJ'])} ${random.digits(5)}`
        : `${random.pick(['AB', 'LS', 'SK', 'YX'])}${random.digits(2)} ${random.pick(['KLM', 'OPR', 'TUV', 'XYZ'])}`,
      3.5 + random.below(90) / 10,
    ]),
  );
  await copy(
    client,
    'booking.payment',
    range(counts.payment, (id) => {
      const card = random.next() < 0.7;
      return [
        id,
        1 + random.below(counts.booking),
        card ? 'card' : 'invoice',
        card ? withLuhn(`4${random.digits(14)}`, true) : null,
        5 + random.below(30_000) / 100,
        stamp(360),
      ];
    }),
  );
  await copy(
    client,
    'booking.refund',
    range(Math.round(counts.payment / 30), (id) => [
      id,
      id * 7,
      iban('GB', `TFER${random.digits(14)}`),
      5 + random.below(4000) / 100,
      random.pick(['weather', 'cancelled by us', 'goodwill']),
    ]),
  );
  await copy(
    client,
    'booking.contact_note',
    range(Math.round(counts.booking / 15), (id) => {
      const who = traveller(random, id);
      const text = random.pick(NOTES);
      return [
        id,
        1 + random.below(counts.booking),
        stamp(300),
        random.pick(['counter', 'phone', 'web form']),
        id % 11 === 0
          ? `${text}. Please answer to ${who.email}`
          : id % 17 === 0
            ? `${text}; call back on ${who.phone} after five`
            : text,
      ];
    }),
  );
  await copy(
    client,
    'booking.web_visit',
    range(Math.round(counts.passenger / 2), (id) => [
      id,
      random.next() < 0.5 ? 1 + random.below(counts.passenger) : null,
      `192.0.2.${random.below(255)}`,
      `02:${Array.from({ length: 5 }, () => random.below(256).toString(16).padStart(2, '0')).join(':')}`,
      `https://tickets.tarnholm.example/${random.pick(['fares', 'routes', 'my-trips'])}?v=${id}`,
      stamp(90),
    ]),
  );
  await copy(
    client,
    'wake_card.card_holder',
    range(Math.round(counts.passenger / 4), (id) => [
      `WC${String(id).padStart(7, '0')}`,
      id * 4 - 3,
      day(daysBefore(today, random.below(1500))),
      random.next() < 0.7 ? traveller(random, id).email : null,
    ]),
  );
  await copy(
    client,
    'wake_card.trip',
    range(Math.round(counts.passenger), (id) => [
      id,
      `WC${String(1 + random.below(Math.round(counts.passenger / 4))).padStart(7, '0')}`,
      1 + random.below(ROUTES.length),
      day(daysBefore(today, random.below(400))),
    ]),
  );
  await client.query('analyze');
}
