import { catalogEndpoints } from '@idrel/contract/catalog';
import { curationEndpoints } from '@idrel/contract/curation';
import { peopleEndpoints } from '@idrel/contract/people';
import { Client } from './client.ts';

/** Tables of reference that somebody has certified: what they mean, and each of their columns. */
const COMPLETE: Readonly<Record<string, readonly [text: string, columns: Readonly<Record<string, string>>]>> = {
  port: [
    'Every port we have called at since 1998. Closed ones stay, since old bookings name them.',
    {
      id: 'Number of the port; never given twice.',
      code: 'Three letters, as they stand on tickets.',
      name: 'As the port calls itself, in its own language.',
      latitude: 'Of the ramp, in degrees north (WGS 84).',
      longitude: 'Of the ramp, in degrees east (WGS 84).',
    },
  ],
  vessel: [
    'The vessels we sail, and those we sold.',
    {
      id: 'Number of the vessel; it stays when she is renamed.',
      vessel_name: 'The name she sails under today.',
      built: 'The year in which she was delivered.',
      passengers_max: 'Persons beside the crew, by her certificate.',
      cars_max: 'Cars of five metres on all decks, without lorries.',
    },
  ],
  route: [
    'Which ports we sail between, in which direction.',
    {
      id: 'Number of the route; the way back has its own.',
      from_port_id: 'The port of departure.',
      to_port_id: 'The port of arrival.',
      minutes: 'From ramp to ramp by the timetable, without delays.',
    },
  ],
};

/** Certifies tables of reference as its owner; of one the owner is taken away afterwards, so that its certificate lapses as soon as the catalog looks again. */
export async function certify(address: string): Promise<void> {
  const owner = new Client(address);
  await owner.signInAs('Sunniva Dahlmark');
  const people = await owner.ask(peopleEndpoints.people);
  const ownerIds = people.filter(({ name }) => name === 'Sunniva Dahlmark').map(({ id }) => id);
  const { items } = await owner.ask(catalogEndpoints.list, {
    query: { filter: 'kind:table under:ref source:"Booking system"', limit: 50 },
  });
  const edit = async (id: string, body: Parameters<typeof owner.ask<typeof curationEndpoints.edit>>[1]['body']) => {
    const { version } = await owner.ask(catalogEndpoints.get, { params: { id } });
    return owner.ask(curationEndpoints.edit, { params: { id }, version, body });
  };
  for (const [name, [description, columns]] of Object.entries(COMPLETE)) {
    const table = items.find((item) => item.name === name);
    if (!table) throw new Error(`The demo expects ref.${name} in the catalog.`);
    const texts = (await owner.ask(catalogEndpoints.children, { params: { id: table.id } })).flatMap((column) => {
      const text = columns[column.name];
      return text ? [{ id: column.id, version: column.version, description: text }] : [];
    });
    await owner.ask(curationEndpoints.describeMany, { body: { texts } });
    await edit(table.id, { description, ownerIds, standing: 'reviewed' });
    await edit(table.id, { standing: 'trusted', ...(name === 'port' ? { certifiedUntil: inMonths(9) } : {}) });
    // She has asked the timetable office whether they will take it over, and nobody answered yet.
    if (name === 'route') await edit(table.id, { ownerIds: [] });
  }
}

const inMonths = (months: number): string => {
  const day = new Date();
  day.setUTCMonth(day.getUTCMonth() + months, 1);
  return day.toISOString().slice(0, 10);
};
