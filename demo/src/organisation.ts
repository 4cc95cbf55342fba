/** The people, groups and domains of Tarnholm Ferries, and who has which role where (null: everywhere). All invented. */
export const DOMAINS: readonly (readonly [name: string, parent: string | null])[] = [
  ['Travel', null],
  ['Bookings', 'Travel'],
  ['Wake Card', 'Travel'],
  ['Vessels', null],
  ['Fleet', 'Vessels'],
  ['Maintenance', 'Vessels'],
  ['People', null],
  ['Crewing', 'People'],
  ['Commerce', null],
  ['Onboard sales', 'Commerce'],
  ['Freight', 'Commerce'],
  ['Finance', 'Commerce'],
  ['Shared', null],
  ['Reference', 'Shared'],
  ['Reporting', 'Shared'],
];

/** What domains are for, and who answers for them; the others have nobody, and nobody has said what they are for. */
export const ABOUT_DOMAINS: Readonly<Record<string, readonly [purpose: string, owner: string]>> = {
  Travel: ['Everything about people who travel with us: bookings, passengers, travel cards.', 'Tobias Marrow'],
  Bookings: ['Bookings from the first look at a sailing to the refund. Fares lie in Reference.', 'Tobias Marrow'],
  Vessels: ['The vessels themselves: where they are, what they burn, what is mended.', 'Rafe Quillon'],
  People: ['Crew and staff. Medical checks and next of kin are read by the crewing office alone.', 'Ottoline Feeney'],
  Crewing: ['Who sails on which vessel, with which certificates, after how much rest.', 'Ottoline Feeney'],
  Commerce: ['What is sold on board and carried as freight, and what is paid for it.', 'Jorun Pell'],
  'Onboard sales': ['Tills of the shop and the café.', 'Maud Ilkley'],
  Shared: ['What more than one domain uses; what belongs to one alone lies there.', 'Sunniva Dahlmark'],
  Reference: ['Ports, routes, vessels, fare bands, countries: changed by nobody but its owner.', 'Sunniva Dahlmark'],
  Reporting: ['Marts and reports for the whole company.', 'Bettina Sark'],
};

export interface DemoPerson {
  readonly name: string;
  readonly job: string;
  readonly groups: readonly string[];
  readonly roles: readonly (readonly [role: string, domain: string | null])[];
}

export const PEOPLE: readonly DemoPerson[] = [
  {
    name: 'Sunniva Dahlmark',
    job: 'data steward',
    groups: ['Privacy'],
    roles: [
      ['steward', null],
      ['source administrator', null],
      ['policy administrator', null],
    ],
  },
  {
    name: 'Tobias Marrow',
    job: 'owner of bookings',
    groups: [],
    roles: [
      ['editor', 'Travel'],
      ['policy administrator', 'Travel'],
      ['reader', 'Shared'],
    ],
  },
  {
    name: 'Ottoline Feeney',
    job: 'owner of crewing',
    groups: ['Crewing office'],
    roles: [
      ['steward', 'People'],
      ['reader', 'Shared'],
    ],
  },
  {
    name: 'Rafe Quillon',
    job: 'data engineer',
    groups: ['Data engineering'],
    roles: [
      ['source administrator', null],
      ['editor', null],
    ],
  },
  {
    name: 'Bettina Sark',
    job: 'analyst, fares',
    groups: ['Fares analysts'],
    roles: [
      ['reader', 'Travel'],
      ['reader', 'Shared'],
    ],
  },
  {
    name: 'Emrys Strand',
    job: 'privacy officer',
    groups: ['Privacy'],
    roles: [
      ['policy administrator', null],
      ['reader', null],
    ],
  },
  {
    name: 'Maud Ilkley',
    job: 'analyst, onboard sales',
    groups: ['Onboard analysts'],
    roles: [
      ['reader', 'Commerce'],
      ['reader', 'Shared'],
    ],
  },
  { name: 'Jorun Pell', job: 'head of data', groups: [], roles: [['administrator', null]] },
];
export const GROUPS = [
  'Fares analysts',
  'Onboard analysts',
  'Crewing office',
  'Data engineering',
  'Privacy',
  'Port partners',
];

/** Terms of the house: other names they go by, names they are found by (abbreviations in systems), names in German. */
export const TERMS: readonly {
  name: string;
  otherNames?: string[];
  hiddenNames?: string[];
  german?: string;
  definition: string;
  scopeNote?: string;
  example?: string;
  broader?: string;
  related?: string[];
  proposed?: true;
}[] = [
  {
    name: 'Traveller',
    otherNames: ['Passenger', 'Guest'],
    hiddenNames: ['pax'],
    german: 'Reisender',
    definition: 'A person who sails with us, whoever booked and paid.',
    scopeNote: 'Crew on duty are no travellers; crew on leave who sail with a booking are.',
  },
  {
    name: 'Minor',
    otherNames: ['Child'],
    german: 'Minderjährige',
    definition: 'A traveller who is younger than 18 on the day of the sailing.',
    broader: 'Traveller',
  },
  {
    name: 'Booking',
    otherNames: ['Reservation'],
    hiddenNames: ['bkg'],
    german: 'Buchung',
    definition: 'An agreement to carry travellers and vehicles on one or more sailings.',
    example: 'Two adults with a car from Vessby to Holm and back are one booking with two legs.',
    related: ['Traveller'],
  },
  {
    name: 'Sailing',
    otherNames: ['Departure', 'Crossing'],
    german: 'Abfahrt',
    definition: 'One voyage of one vessel on one route at one time.',
    related: ['Booking'],
  },
  {
    name: 'Fare band',
    otherNames: ['Tariff'],
    german: 'Tarif',
    definition: 'A price with the conditions under which it is sold.',
    related: ['Booking'],
  },
  {
    name: 'Wake Card',
    otherNames: ['Travel card'],
    definition: 'The card with which frequent travellers pay less.',
    related: ['Traveller'],
  },
  {
    name: 'Contact data',
    german: 'Kontaktdaten',
    definition: 'By which a person can be reached: e-mail, phone, postal address.',
  },
  {
    name: 'Electronic mail address',
    otherNames: ['E-mail'],
    hiddenNames: ['eml'],
    definition: 'An address at which a person receives electronic mail.',
    broader: 'Contact data',
    proposed: true,
  },
];

/** What is to be known of tables by whoever meets them. */
export const NOTICES: readonly { path: string; kind: 'note' | 'caution' | 'stop'; text: string }[] = [
  {
    path: 'booking.refund',
    kind: 'stop',
    text: 'Refunds of the autumn timetable stand here twice. Do not add them up before Finance has cleared them.',
  },
  {
    path: 'booking.web_visit',
    kind: 'caution',
    text: 'Visits are counted by cookie: one person with two devices stands here twice.',
  },
  { path: 'ref.fare_band', kind: 'note', text: 'The bands of the next timetable come with the new year.' },
];

export const addressOf = (name: string): string => `${name.toLowerCase().replaceAll(' ', '.')}@tarnholm.example`;
/** What the identity provider calls a group. */
export const claimOf = (group: string): string => group.toLowerCase().replaceAll(' ', '-');

/** Known to the identity provider, not to Idrel. */
export const NOT_YET: DemoPerson = { name: 'Ivo Lenz', job: 'new in the harbour office', groups: [], roles: [] };

/** With whom something is shared. */
export const PARTNER = {
  name: 'Marrick Harbour Trust',
  note: 'Runs the berths at Marrick. Agreement of the spring: departures and vehicles, for the planning of berths alone.',
  lead: 'Ines Carrow',
  email: 'ines.carrow@marrick.example',
} as const;
