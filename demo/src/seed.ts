import { Client } from './client.ts';
import { crewingFile, READER, readerPassword } from './make.ts';
import { TERMS } from './organisation.ts';

const EVERYTHING = { cover: 'everything', chosen: [], include: [], exclude: [] };

interface Found {
  items: { id: string; name: string; path: string; version: number; kind: string }[];
}

/**
 * Fills the catalog through the API that everybody has: the Booking system and Crewing registered, planned and scanned, a glossary, owners, descriptions, a first policy.
 * The Warehouse and the Voyage files are left to the person who looks.
 */
export async function seedThroughApi(address: string, database: { host: string; port: number }, folder: string, tell: (text: string) => void): Promise<void> {
  const engineer = new Client(address);
  await engineer.signInAs('Rafe Quillon');
  const domains = await engineer.get<{ id: string; name: string }[]>('/domains');
  const domainId = domains.find((domain) => domain.name === 'Bookings')?.id;
  const credential = await engineer.post<{ id: string }>('/credentials', { name: 'Ferry reader', username: READER, password: readerPassword(folder) });
  const source = await engineer.post<{ id: string }>('/sources', {
    name: 'Booking system',
    kind: 'postgresql',
    address: { ...database, database: 'booking_system' },
    domainId,
    credentialId: credential.id,
    description: 'Sales, payments and the Wake Card, as the counters and the web shop write them.',
  });
  tell('Scanning the Booking system …');
  const nightly = await engineer.post<{ id: string }>(`/sources/${source.id}/plans`, {
    name: 'Nightly',
    scope: { ...EVERYTHING, exclude: ['public'] },
    schedule: { rhythm: { on: 'daily' }, time: '03:00', timeZone: 'Europe/Oslo', blackouts: [{ from: '06:00', to: '22:00' }] },
  });
  const run = await engineer.post<{ id: string }>(`/plans/${nightly.id}/runs`);
  const { counts } = await engineer.runEnds(run.id);
  tell(`Scanned: ${counts.objects} objects, ${counts.columns} columns, ${counts.findings} findings.`);
  const crewing = await engineer.post<{ id: string }>('/sources', {
    name: 'Crewing',
    kind: 'sqlite',
    address: { path: crewingFile(folder) },
    domainId: domains.find((domain) => domain.name === 'Crewing')?.id,
    description: 'Who sails on which vessel, with certificates, rest hours and medical checks. The crewing office keeps it on one machine.',
  });
  const weekly = await engineer.post<{ id: string }>(`/sources/${crewing.id}/plans`, {
    name: 'Every Sunday',
    scope: EVERYTHING,
    schedule: { rhythm: { on: 'days', days: [7] }, time: '04:00', timeZone: 'Europe/Oslo' },
  });
  await engineer.runEnds((await engineer.post<{ id: string }>(`/plans/${weekly.id}/runs`)).id);

  const steward = new Client(address);
  await steward.signInAs('Sunniva Dahlmark');
  const people = await steward.get<{ id: string; name: string }[]>('/people');
  const personId = (name: string) => people.find((person) => person.name === name)?.id ?? '';
  const terms = new Map<string, string>();
  for (const { broader, ...term } of TERMS) {
    const made = await steward.post<{ id: string }>('/terms', { ...term, status: 'agreed', ownerId: personId('Sunniva Dahlmark'), ...(broader ? { broaderId: terms.get(broader) } : {}) });
    terms.set(term.name, made.id);
  }
  const edit = async (filter: string, path: string, change: Record<string, unknown>) => {
    const found = await steward.get<Found>(`/assets?filter=${encodeURIComponent(filter)}&limit=200`);
    const asset = found.items.find((item) => item.path === path);
    if (!asset) throw new Error(`The demo expects ${path} in the catalog.`);
    await steward.patch(`/assets/${asset.id}`, asset.version, change);
  };
  const tobias = [personId('Tobias Marrow')];
  await edit('kind:table', 'booking.passenger', {
    description: 'Everybody who has travelled or booked. One person can stand here twice: the counters do not look for earlier rows.',
    ownerIds: tobias,
    stewardIds: [personId('Sunniva Dahlmark')],
    termIds: [terms.get('Traveller')],
    standing: 'reviewed',
  });
  await edit('kind:table', 'booking.booking', {
    description: 'Agreements to carry; the state tells whether they were sailed.',
    ownerIds: tobias,
    termIds: [terms.get('Booking')],
    standing: 'reviewed',
  });
  await edit('kind:table', 'ref.fare_band', { description: 'Prices by band. Ended bands stay, since old bookings name them.', ownerIds: tobias, termIds: [terms.get('Fare band')] });
  await edit('kind:column', 'booking.passenger.email', { description: 'Where tickets and delays are sent. Not verified.', termIds: [terms.get('Contact data')] });
}
