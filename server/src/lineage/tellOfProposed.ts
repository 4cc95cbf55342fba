import type { AnswerOf, BodyOf } from '@idrel/contract/http';
import type { proposedEndpoints } from '@idrel/contract/lineage';
import { mentionText } from '@idrel/core/writing';
import { loadWho, type Who } from '../people/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';
import { beginDiscussion } from '../writing/index.ts';
import { proposedImpact } from './proposed.ts';

type Tell = typeof proposedEndpoints.tell;

/** Of everybody of a party who is there: a person, or the members of a group. */
async function everybodyOf(db: Db, id: string, group: boolean): Promise<Who[]> {
  const ids = group
    ? (await db.rows<{ id: string }>('select person_id as id from group_member where group_id = $1', [id])).map(
        (row) => row.id,
      )
    : [id];
  const found: Who[] = [];
  for (const one of ids) {
    const who = await loadWho(db, one);
    if (who) found.push(who);
  }
  return found;
}

/**
 * Tells people of a proposed change: where they may see what changes in a discussion of that, else in one of the nearest that is concerned and theirs to see.
 * @throws 422 where somebody is none of those whom it concerns
 */
export async function tellOfProposed(tx: Tx, who: Who, body: BodyOf<Tell>): Promise<AnswerOf<Tell>> {
  const impact = await proposedImpact(tx, who, body);
  const known = new Map(impact.people.map((one) => [one.id, one]));
  const parties = [...new Set(body.people)];
  const strangers = parties.filter((id) => !known.has(id));
  if (strangers.length > 0)
    throw invalid(
      `${strangers.length} of those who are to be told are not concerned by it, or not any more.`,
      'Look at the impact again, and choose among those whom it names.',
      [{ field: 'people', message: 'names somebody who is not concerned' }],
    );
  const near = impact.rows
    .filter(({ consequence }) => consequence !== 'unharmed')
    .sort((a, b) => a.distance - b.distance);
  const places = [impact.asset, ...near, ...impact.flows];
  const domains = new Map(
    (
      await tx.rows<{ id: string; domain: string }>(
        'select id, domain_id as domain from asset where id = any($1::uuid[])',
        [places.map(({ id }) => id)],
      )
    ).map(({ id, domain }) => [id, domain]),
  );
  const at = new Map<string, { readonly path: string; readonly mentions: string[] }>();
  const notTold: string[] = [];
  for (const id of parties) {
    const { name, group } = known.get(id) as { name: string; group: boolean };
    const everybody = await everybodyOf(tx, id, group);
    const place = places.find((one) => everybody.some((person) => person.is('reader', domains.get(one.id) ?? '')));
    if (!place) {
      notTold.push(name);
      continue;
    }
    const told = at.get(place.id) ?? { path: place.path, mentions: [] };
    told.mentions.push(mentionText(group ? 'group' : 'person', id, name));
    at.set(place.id, told);
  }
  const discussions: { id: string; assetId: string; path: string }[] = [];
  for (const [assetId, { path, mentions }] of at) {
    const { id } = await beginDiscussion(tx, who, assetId, {
      question: false,
      text: `${body.text}\n\nTo ${mentions.join(', ')}`,
    });
    discussions.push({ id, assetId, path });
  }
  return { told: parties.length - notTold.length, discussions, notTold };
}
