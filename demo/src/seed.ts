import { join } from 'node:path';
import { catalogEndpoints } from '@idrel/contract/catalog';
import { type AssetChange, curationEndpoints, noticeEndpoints } from '@idrel/contract/curation';
import { termEndpoints } from '@idrel/contract/glossary';
import type { SentBody } from '@idrel/contract/http';
import { domainEndpoints, peopleEndpoints } from '@idrel/contract/people';
import { routineEndpoints } from '@idrel/contract/routines';
import { planEndpoints } from '@idrel/contract/scanning';
import { sourceEndpoints } from '@idrel/contract/sources';
import { certify } from './certified.ts';
import { Client } from './client.ts';
import { follow } from './follow.ts';
import { liveIn } from './life.ts';
import { LOADS_FOLDER } from './loads.ts';
import { crewingFile, READER, readerPassword } from './make.ts';
import { changeMany, liveInOffices } from './officeLife.ts';
import { NOTICES, TERMS } from './organisation.ts';
import { sendEvents } from './pipelines.ts';
import { askForAccess } from './requests.ts';
import { keepWithRoutines } from './routines.ts';
import { sayLineage } from './said.ts';
import { serviceToken } from './services.ts';
import { share } from './shares.ts';
import { SHORE_BUCKET, shoreKey } from './shoreStore.ts';

const EVERYTHING = { cover: 'everything' } as const;

/** The Shore store, the Wheelhouse reports and the Night crew: registered with credentials of their own, planned and scanned. */
async function registerServices(
  engineer: Client,
  { standIns, folder, domainOf }: { standIns: string; folder: string; domainOf: (name: string) => string },
): Promise<void> {
  const { key, secret } = shoreKey(folder);
  const services: readonly {
    source: SentBody<typeof sourceEndpoints.register>;
    credential: SentBody<typeof sourceEndpoints.addCredential>;
    plan: SentBody<typeof planEndpoints.add>;
  }[] = [
    {
      source: {
        name: 'Shore store',
        kind: 'objects',
        address: { url: `${standIns}/store`, bucket: SHORE_BUCKET },
        domainId: domainOf('Onboard sales'),
        description: 'Exports of the tills on board, and invoices of the harbours.',
      },
      credential: { name: 'Shore reader', kind: 'key pair', username: key, password: secret },
      plan: {
        name: 'Every night',
        scope: EVERYTHING,
        options: { onlyChanged: true },
        schedule: { rhythm: { on: 'daily' }, time: '02:30', timeZone: 'Europe/Oslo' },
      },
    },
    {
      source: {
        name: 'Wheelhouse reports',
        kind: 'reports',
        address: { url: `${standIns}/reports` },
        domainId: domainOf('Reporting'),
        description: 'Reports and dashboards over the Warehouse.',
      },
      credential: { name: 'Wheelhouse token', kind: 'token', password: serviceToken(folder, 'reports') },
      plan: {
        name: 'Weekdays',
        scope: EVERYTHING,
        schedule: { rhythm: { on: 'weekdays' }, time: '05:00', timeZone: 'Europe/Oslo' },
      },
    },
    {
      source: {
        name: 'Night crew',
        kind: 'orchestrator',
        address: { url: `${standIns}/flows` },
        domainId: domainOf('Reporting'),
        description: 'Loads between systems, and how their runs ended.',
      },
      credential: { name: 'Night crew token', kind: 'token', password: serviceToken(folder, 'flows') },
      plan: {
        name: 'After the night',
        scope: EVERYTHING,
        schedule: { rhythm: { on: 'daily' }, time: '06:00', timeZone: 'Europe/Oslo' },
      },
    },
  ];
  for (const { source, credential, plan } of services) {
    const stored = await engineer.ask(sourceEndpoints.addCredential, { body: credential });
    const made = await engineer.ask(sourceEndpoints.register, { body: { ...source, credentialId: stored.id } });
    const planned = await engineer.ask(planEndpoints.add, { params: { id: made.id }, body: plan });
    await engineer.runEnds((await engineer.ask(planEndpoints.run, { params: { id: planned.id } })).id);
  }
}

export interface SeedPlace {
  readonly address: string;
  readonly database: { readonly host: string; readonly port: number };
  readonly folder: string;
  /** Address of the stand-ins for outside services. */
  readonly standIns: string;
  /** What somebody changes in the Booking system between two scans. */
  readonly change: () => Promise<void>;
  readonly tell: (text: string) => void;
}

/** Schemas of the Booking system that belong to other domains than it. */
const LIES_ELSEWHERE = [
  ['wake_card', 'Wake Card'],
  ['ref', 'Reference'],
] as const;

/**
 * Fills the catalog through the API that everybody has: sources registered, planned and scanned (the Booking system twice, with changes between),
 * a glossary, owners, descriptions. The Warehouse and the Voyage files are left to the person who looks.
 */
export async function seedThroughApi({ address, database, folder, standIns, change, tell }: SeedPlace): Promise<void> {
  const engineer = new Client(address);
  await engineer.signInAs('Rafe Quillon');
  const domains = await engineer.ask(domainEndpoints.all);
  const domainOf = (name: string) => {
    const found = domains.find((domain) => domain.name === name);
    if (!found) throw new Error(`The demo expects the domain ${name}.`);
    return found.id;
  };
  const credential = await engineer.ask(sourceEndpoints.addCredential, {
    body: {
      name: 'Ferry reader',
      username: READER,
      password: readerPassword(folder),
    },
  });
  const source = await engineer.ask(sourceEndpoints.register, {
    body: {
      name: 'Booking system',
      kind: 'postgresql',
      address: { ...database, database: 'booking_system' },
      domainId: domainOf('Bookings'),
      credentialId: credential.id,
      description: 'Sales, payments and the Wake Card, as the counters and the web shop write them.',
    },
  });
  tell('Scanning the Booking system …');
  const nightly = await engineer.ask(planEndpoints.add, {
    params: { id: source.id },
    body: {
      name: 'Nightly',
      scope: { ...EVERYTHING, exclude: ['public'] },
      schedule: {
        rhythm: { on: 'daily' },
        time: '03:00',
        timeZone: 'Europe/Oslo',
        blackouts: [{ from: '06:00', to: '22:00' }],
      },
    },
  });
  const run = await engineer.ask(planEndpoints.run, { params: { id: nightly.id } });
  const { counts } = await engineer.runEnds(run.id);
  tell(`Scanned: ${counts.objects} objects, ${counts.columns} columns, ${counts.findings} findings.`);
  const crewing = await engineer.ask(sourceEndpoints.register, {
    body: {
      name: 'Crewing',
      kind: 'sqlite',
      address: { path: crewingFile(folder) },
      domainId: domainOf('Crewing'),
      description:
        'Who sails on which vessel, with certificates, rest hours and medical checks. The crewing office keeps it on one machine.',
    },
  });
  const weekly = await engineer.ask(planEndpoints.add, {
    params: { id: crewing.id },
    body: {
      name: 'Every Sunday',
      scope: EVERYTHING,
      schedule: { rhythm: { on: 'days', days: [7] }, time: '04:00', timeZone: 'Europe/Oslo' },
    },
  });
  await engineer.runEnds((await engineer.ask(planEndpoints.run, { params: { id: weekly.id } })).id);
  const loads = await engineer.ask(sourceEndpoints.register, {
    body: {
      name: 'Warehouse loads',
      kind: 'scripts',
      address: { path: join(folder, LOADS_FOLDER), ...database, database: 'warehouse' },
      domainId: domainOf('Reporting'),
      description: 'Scripts by which the Warehouse is filled and kept.',
    },
  });
  const loadsRead = await engineer.ask(planEndpoints.add, {
    params: { id: loads.id },
    body: {
      name: 'After each change',
      scope: EVERYTHING,
      schedule: { rhythm: { on: 'weekdays' }, time: '05:30', timeZone: 'Europe/Oslo' },
    },
  });
  await engineer.runEnds((await engineer.ask(planEndpoints.run, { params: { id: loadsRead.id } })).id);
  for (const [schema, domain] of LIES_ELSEWHERE)
    await changeMany(engineer, `kind:schema name:${schema}`, { kind: 'domain', id: domainOf(domain) });
  await registerServices(engineer, {
    standIns,
    folder,
    domainOf,
  });

  const steward = new Client(address);
  await steward.signInAs('Sunniva Dahlmark');
  const people = await steward.ask(peopleEndpoints.people);
  const personId = (name: string) => people.find((person) => person.name === name)?.id ?? '';
  const terms = new Map<string, string>();
  const termOf = (name: string) => terms.get(name) ?? '';
  for (const { name, definition, broader, related = [], proposed, ...said } of TERMS) {
    const label = (kind: 'preferred' | 'alternative' | 'hidden', language: string) => (text: string) => ({
      kind,
      language,
      text,
    });
    const note = (kind: 'scope note' | 'example') => (text: string) => ({ kind, language: 'en', text });
    const made = await steward.ask(termEndpoints.create, {
      body: {
        name,
        definition,
        labels: [
          ...(said.german ? [said.german] : []).map(label('preferred', 'de')),
          ...(said.otherNames ?? []).map(label('alternative', 'en')),
          ...(said.hiddenNames ?? []).map(label('hidden', 'en')),
        ],
        notes: [
          ...(said.scopeNote ? [said.scopeNote] : []).map(note('scope note')),
          ...(said.example ? [said.example] : []).map(note('example')),
        ],
        status: proposed ? 'proposed' : 'agreed',
        ownerId: personId('Sunniva Dahlmark'),
        broaderIds: broader ? [termOf(broader)] : [],
        relatedIds: related.map(termOf),
      },
    });
    terms.set(name, made.id);
  }
  const edit = async (filter: string, path: string, change: AssetChange) => {
    const found = await steward.ask(catalogEndpoints.list, { query: { filter, limit: 200 } });
    const asset = found.items.find((item) => item.path === path);
    if (!asset) throw new Error(`The demo expects ${path} in the catalog.`);
    await steward.ask(curationEndpoints.edit, { params: { id: asset.id }, version: asset.version, body: change });
  };
  const tobias = [personId('Tobias Marrow')];
  await edit('kind:table', 'booking.passenger', {
    description:
      'Everybody who has travelled or booked. One person can stand here twice: the counters do not look for earlier rows.',
    ownerIds: tobias,
    stewardIds: [personId('Sunniva Dahlmark')],
    termIds: [termOf('Traveller')],
    standing: 'reviewed',
  });
  await edit('kind:table', 'booking.booking', {
    description: 'Agreements to carry; the state tells whether they were sailed.',
    ownerIds: tobias,
    termIds: [termOf('Booking')],
    standing: 'reviewed',
  });
  await edit('kind:table', 'ref.fare_band', {
    description: 'Prices by band. Ended bands stay, since old bookings name them.',
    ownerIds: tobias,
    termIds: [termOf('Fare band')],
  });
  await edit('kind:column', 'booking.passenger.email', {
    description: 'Where tickets and delays are sent. Not verified.',
    termIds: [termOf('Contact data')],
  });
  for (const { path, ...notice } of NOTICES) {
    const found = await steward.ask(catalogEndpoints.list, { query: { filter: 'kind:table', limit: 200 } });
    const asset = found.items.find((item) => item.path === path);
    if (!asset) throw new Error(`The demo expects ${path} in the catalog.`);
    const starts = new Date().toISOString().slice(0, 10);
    await steward.ask(noticeEndpoints.create, { params: { id: asset.id }, body: { ...notice, starts, ends: null } });
  }
  await steward.ask(routineEndpoints.create, {
    body: {
      name: 'Bookings are answered for',
      filter: 'kind:table domain:Bookings owner:none',
      steps: [{ do: 'act', action: { kind: 'owner', id: personId('Tobias Marrow') } }],
    },
  });
  await keepWithRoutines(address);

  await follow(address);
  await liveIn(address, standIns, termOf);
  await certify(address);
  tell('Scanning the offices ashore …');
  await liveInOffices(address, database, credential.id, readerPassword(folder));
  await askForAccess(address);
  await share(address);
  await sendEvents(address, engineer, domainOf('Freight'), database);
  await sayLineage(engineer, personId('Rafe Quillon'));

  // What happened since: the comparison of the second scan has something to show, and a rename waits for a decision.
  await change();
  await engineer.runEnds((await engineer.ask(planEndpoints.run, { params: { id: nightly.id } })).id);
}
