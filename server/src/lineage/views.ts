import type { KeptView, KeptViewBody, KeptViewBrief } from '@idrel/contract/lineage';
import { FROM, getAsset, PATH, readFilter, sharedUnderNames } from '../catalog/index.ts';
import { bringBack, change, create, type Kept, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { forbidden, notFound } from '../platform/problems.ts';
import { KEPT_VIEW, type KeptViewRow } from './models.ts';

/** $1: the person; $2: the domains in which they may read. */
const select = (more = '') => `
  select
    v.id, v.name, v.shared, v.version, case when v.person_id <> $1 then p.name end as "madeBy",
    json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}) as focus ${more}
  from kept_view v
  join person p on p.id = v.person_id
  join (${FROM}) on a.id = v.asset_id
  where v.removed_at is null and (v.person_id = $1 or v.shared) and ${isSeen('a', '$2')}`;

/** Pictures that a person keeps, then those that others share. */
export const listViews = (db: Db, who: Who): Promise<KeptViewBrief[]> =>
  db.rows<KeptViewBrief>(`${select()} order by v.person_id <> $1, lower(v.name)`, [who.id, who.domainsAs('reader')]);

const VIEWS: Kept<KeptViewRow, KeptView> = {
  thing: 'kept view',
  model: KEPT_VIEW,
  async read(db, who, id) {
    const view = await db.one<KeptView>(`${select(', v.shows')} and v.id = $3`, [who.id, who.domainsAs('reader'), id]);
    if (!view) throw notFound('The picture');
    return view;
  },
  // Where tables were moved to is nothing that somebody reads in a journal.
  told: (_db, { name, shared, focus, shows: { places: _, ...shows } }) => ({ name, shared, of: focus.path, ...shows }),
  may(_db, _who, { madeBy }) {
    if (madeBy !== null) throw forbidden(`of ${madeBy}, who made the picture`);
  },
};

const valuesOf = ({ focus, ...values }: KeptViewBody) => ({ ...values, assetId: focus });

/** A filter that cannot be read would mark nothing, and nobody would know why. */
function check({ shows }: KeptViewBody): void {
  if (shows.mark !== '') readFilter(shows.mark);
}

/** What of this goes on when a person leaves. */
export const VIEWS_HELD = sharedUnderNames('kept view', {
  what: 'pictures of lineage shared with everybody',
  table: 'kept_view',
  address: "'/lineage?view=' || s.id",
});

export const getView = (db: Db, who: Who, id: string): Promise<KeptView> => VIEWS.read(db, who, id);

/** @throws 404 when the asset is not theirs to see, 422 when what marks cannot be read, 409 when the person keeps another one of the name */
export async function keepView(tx: Db, who: Who, body: KeptViewBody): Promise<KeptView> {
  check(body);
  await getAsset(tx, who, body.focus);
  return create(tx, who, VIEWS, { ...valuesOf(body), personId: who.id });
}

export async function changeView(tx: Db, who: Who, id: string, version: number, body: KeptViewBody): Promise<KeptView> {
  check(body);
  await getAsset(tx, who, body.focus);
  return (await change(tx, who, VIEWS, id, { version, values: valuesOf(body) })).after;
}

/** It stays, out of sight, so that it can be brought back. */
export async function removeView(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, VIEWS, id, { leaving: { removedAt: new Date() } });
}

export const bringBackView = (tx: Db, who: Who, id: string): Promise<KeptView> =>
  bringBack(tx, who, VIEWS, id, { isGone: ({ removedAt }) => removedAt !== null, values: { removedAt: null } });
