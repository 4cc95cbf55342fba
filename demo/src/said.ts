import { catalogEndpoints } from '@idrel/contract/catalog';
import { drawnEndpoints } from '@idrel/contract/curation';
import { saidEndpoints } from '@idrel/contract/lineage';
import type { Client } from './client.ts';

/** What people say of lineage that no source tells: the pilots' logbook is a form on paper, and somebody types it in. */
export async function sayLineage(engineer: Client, ownerId: string): Promise<void> {
  const found = await engineer.ask(catalogEndpoints.list, { query: { filter: 'kind:table name:pilotage', limit: 10 } });
  const pilotage = found.items.find(({ path }) => path === 'navigation.pilotage');
  if (!pilotage) throw new Error('The demo expects navigation.pilotage in the catalog.');
  const logbook = await engineer.ask(drawnEndpoints.draw, {
    body: {
      near: pilotage.id,
      kind: 'application',
      name: 'Pilots’ logbook',
      description:
        'Written by hand on the bridge, a line for each pilot who comes aboard. The books lie in the office at Kessgar.',
      ownerIds: [ownerId],
      columns: ['voyage', 'came aboard', 'remarks'],
    },
  });
  const [from, to] = [
    await engineer.ask(catalogEndpoints.children, { params: { id: logbook.id } }),
    await engineer.ask(catalogEndpoints.children, { params: { id: pilotage.id } }),
  ];
  const idIn = (columns: typeof from, name: string) => {
    const column = columns.find((entry) => entry.name === name);
    if (!column) throw new Error(`The demo expects a column ${name}.`);
    return { id: column.id };
  };
  await engineer.ask(saidEndpoints.say, {
    body: {
      edges: [
        {
          from: idIn(from, 'came aboard'),
          to: idIn(to, 'opened_on'),
          note: 'Typed over each Monday by the navigation office.',
        },
        {
          from: idIn(from, 'remarks'),
          to: idIn(to, 'remark'),
          kind: 'transformed',
          note: 'Shortened while it is typed.',
        },
      ],
    },
  });
}
