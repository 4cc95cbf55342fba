import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addressOf, claimOf, NOT_YET, PEOPLE } from './organisation.ts';
import { standInsFolder } from './shoreStore.ts';

/** Writes whom the identity provider knows: everybody of the demo, with the groups as it calls them, and one whom Idrel does not know. */
export function writeIdentity(folder: string): void {
  const people = [...PEOPLE, NOT_YET].map(({ name, job, groups }) => ({
    id: claimOf(name),
    name,
    job,
    email: addressOf(name),
    groups: groups.map(claimOf),
  }));
  writeFileSync(join(standInsFolder(folder), 'identity.json'), JSON.stringify({ name: 'Harbour Pass', people }));
}
