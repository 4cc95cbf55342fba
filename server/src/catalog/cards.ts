import type { Card } from '@idrel/contract/catalog';
import { onOneLine, shortened } from '@idrel/core/text';
import type { Db } from '../platform/database.ts';
import { idAt } from './addresses.ts';
import { FROM, PATH } from './rows.ts';

const ID = /^\/assets\/([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})$/;
const LONGEST = 300;

/** What is told of any address to whoever may see nothing: whether there is something at it, too, is not told. */
export const CLOSED: Card = {
  title: 'An asset in Idrel',
  description: 'Sign in to see what it is, what it means and who answers for it.',
  standing: null,
  owners: [],
};

/**
 * What an address of an asset shows where it is pasted, to a stranger: what the asset is called, how it stands, who answers for it and what it means, where those
 * who look after its domain let that be shown outside; and else nothing of it, as of an address at which nothing is.
 */
export async function cardAt(db: Db, address: string): Promise<Card> {
  const id = ID.exec(address)?.[1] ?? (await idAt(db, address, true));
  const asset =
    id &&
    (await db.one<{
      path: string;
      kind: string;
      source: string;
      standing: Card['standing'];
      description: string | null;
      owners: string[];
    }>(
      `
        select
          ${PATH} as path, a.kind, s.name as source, a.standing, a.description,
          array(
            select p.name from asset_person ap join party p on p.id = ap.person_id where ap.asset_id = a.id and ap.role = 'owner' order by p.name
          ) as owners
        from ${FROM}
        where a.id = $1 and d.shown_outside`,
      [id],
    ));
  if (!asset) return CLOSED;
  const { path, kind, source, standing, description, owners } = asset;
  const meaning = onOneLine(description ?? '');
  const said = [
    `${kind[0]?.toUpperCase()}${kind.slice(1)} in ${source}`,
    standing ?? '',
    owners.length > 0 ? `owner: ${owners.join(', ')}` : 'no owner',
  ];
  const facts = said.filter(Boolean).join(' · ');
  const whole = meaning ? `${facts}. ${meaning}` : `${facts}.`;
  return {
    title: path,
    description: shortened(whole, LONGEST),
    standing,
    owners,
  };
}
