import { accessEndpoints } from '@idrel/contract/access';
import { catalogEndpoints } from '@idrel/contract/catalog';
import { clientKeyEndpoints, partnerEndpoints } from '@idrel/contract/people';
import pg from 'pg';
import { Client } from './client.ts';
import { PARTNER } from './organisation.ts';

/** The harbour's own program reads by a key, as any client of PostgreSQL does. */
async function readAsProgram(ines: Client): Promise<void> {
  const { key } = await ines.ask(clientKeyEndpoints.make, { body: { name: 'Berth planner', days: 365 } });
  const { port, user } = await ines.ask(clientKeyEndpoints.list);
  if (port === null) return;
  const client = new pg.Client({ host: '127.0.0.1', port, user, password: key, database: 'departures' });
  await client.connect();
  try {
    await client.query(
      'select sailing_date, count(*) as legs from booking.booking_leg group by sailing_date order by 1 desc limit 14',
    );
    await client.query(
      'select v.vessel_name, count(*) as legs from booking.booking_leg l join ref.vessel v on v.id = l.vessel_id group by 1',
    );
  } finally {
    await client.end();
  }
}

/** What is shared with the harbour: one share that it reads, one that waits for its answer. */
export async function share(address: string): Promise<void> {
  const [giver, ines] = [new Client(address), new Client(address)];
  await giver.signInAs('Emrys Strand');
  await ines.signInAs(PARTNER.lead);
  const idOf = async (path: string): Promise<string> => {
    const { items } = await giver.ask(catalogEndpoints.list, {
      query: { filter: `path:${path} kind:table source:"Booking system"`, limit: 2 },
    });
    const [asset] = items;
    if (!asset) throw new Error(`The demo expects ${path} in the catalog.`);
    return asset.id;
  };
  const partner = (await giver.ask(partnerEndpoints.list)).find(({ name }) => name === PARTNER.name);
  if (!partner) throw new Error(`The demo expects the partner ${PARTNER.name}.`);
  const offer = async (name: string, note: string, paths: readonly string[], more: object) =>
    giver.ask(accessEndpoints.offer, {
      body: { partnerId: partner.id, name, note, assetIds: await Promise.all(paths.map(idOf)), ...more },
    });
  const departures = await offer(
    'Departures for the planning of berths',
    'Which vessel sails when on which route, and how many are booked. No names, and no tickets.',
    ['booking.booking_leg', 'ref.route', 'ref.port', 'ref.vessel'],
    { columns: ['ticket_barcode'], columnsBut: true },
  );
  await ines.ask(accessEndpoints.answerShare, {
    params: { id: departures.id },
    version: departures.version,
    body: { decision: 'accepted', localName: 'departures', text: 'Thank you. Our planners read it each morning.' },
  });
  await ines.ask(partnerEndpoints.addPerson, {
    body: { partnerId: partner.id, name: 'Tove Hallam', email: 'tove.hallam@marrick.example' },
  });
  await readAsProgram(ines);
  await offer(
    'Vehicles on board',
    'How long the vehicles are that come ashore at Marrick, so that the lanes fit. Plates are shown in part, to tell one from another.',
    ['booking.vehicle_carried'],
    { masked: { mask: { kind: 'partial', first: 2, last: 0 }, columns: ['plate'] } },
  );
}
