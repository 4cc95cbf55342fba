import { accessEndpoints } from '@idrel/contract/access';
import { catalogEndpoints } from '@idrel/contract/catalog';
import { Client } from './client.ts';

const DAY = 86_400_000;
const inDays = (days: number): string => {
  const end = new Date(Date.now() + days * DAY);
  return new Date(end.getFullYear(), end.getMonth(), end.getDate() + 1).toISOString();
};

/** What people have asked for: one that is granted for a while, one that is refused, and one that waits for the owner of bookings; and a review of rights that is half done. */
export async function askForAccess(address: string): Promise<void> {
  const as = async (name: string): Promise<Client> => {
    const client = new Client(address);
    await client.signInAs(name);
    return client;
  };
  const [head, privacy, onboard, fares] = await Promise.all(
    ['Jorun Pell', 'Emrys Strand', 'Maud Ilkley', 'Bettina Sark'].map(as),
  );
  if (!head || !privacy || !onboard || !fares) throw new Error('The demo expects its people.');
  const idOf = async (path: string): Promise<string> => {
    const { items } = await head.ask(catalogEndpoints.list, {
      query: { filter: `path:${path} kind:table -source:Warehouse`, limit: 2 },
    });
    const [asset] = items;
    if (!asset) throw new Error(`The demo expects ${path} in the catalog.`);
    return asset.id;
  };
  const ask = async (who: Client, paths: readonly string[], purpose: string, note: string, days: number | null) => {
    const [request] = await who.ask(accessEndpoints.ask, {
      body: {
        assetIds: await Promise.all(paths.map(idOf)),
        purpose,
        note,
        until: days === null ? null : inDays(days),
      },
    });
    if (!request) throw new Error('The demo expects a request.');
    return request;
  };

  const pilots = await ask(privacy, ['navigation.pilotage'], 'Audit of the yearly report', '', 20);
  await head.ask(accessEndpoints.answerRequest, {
    params: { id: pilots.id },
    version: pilots.version,
    body: {
      decision: 'granted',
      text: 'For the days of the audit.',
      grant: { assetIds: pilots.assets.map(({ id }) => id), until: inDays(6) },
    },
  });
  const ledger = await ask(onboard, ['ledger.bank_statement'], 'Sales against receipts', '', null);
  await head.ask(accessEndpoints.answerRequest, {
    params: { id: ledger.id },
    version: ledger.version,
    body: {
      decision: 'refused',
      text: 'Statements hold the names of who paid. What you need is in the accounts, by day and vessel: ask for those.',
      grant: null,
    },
  });
  await ask(
    fares,
    ['booking.passenger', 'booking.booking'],
    'Complaints of the autumn',
    'Three letters say that the same fare was paid twice. I need who travelled on which booking, and no contact data.',
    30,
  );

  // Half done: of the rights on the offices ashore one is kept, the others wait.
  const end = new Date();
  const review = await head.ask(accessEndpoints.startReview, {
    body: {
      name: 'Who reads the offices ashore',
      filter: 'source:"Freight desk","Fleet office"',
      endsAt: new Date(end.getFullYear(), end.getMonth(), end.getDate() + 22).toISOString(),
    },
  });
  const { items } = await head.ask(accessEndpoints.reviewItems, { params: { id: review.id }, query: {} });
  const freight = items.find(({ policy }) => policy === 'Onboard analysts read freight');
  if (!freight) throw new Error('The demo expects a right under review.');
  await head.ask(accessEndpoints.decideRight, { params: { id: freight.id }, body: { decision: 'kept', seen: null } });
}
