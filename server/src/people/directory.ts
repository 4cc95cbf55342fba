import { createHash } from 'node:crypto';
import type { FileAnswer } from '@idrel/contract/curation';
import type { BodyOf } from '@idrel/contract/http';
import { DIRECTORY_MOST, type DirectoryChange, type directoryEndpoints } from '@idrel/contract/people';
import {
  type DirectoryChange as Compared,
  compareDirectory,
  directoryRows,
  type Known,
  readDirectory,
} from '@idrel/core/people';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { conflict, invalid } from '../platform/problems.ts';
import { asSheet, readSheet, SHEET_TYPES } from '../platform/sheets.ts';
import { addPerson, changePerson } from './manage.ts';
import { invite } from './passwordLinks.ts';
import type { Who } from './who.ts';

const TOLD = 500;

interface Row extends Known {
  readonly version: number;
  readonly grants: { role: string; domainId: string | null }[];
}

const everybody = (db: Db): Promise<Row[]> =>
  db.rows<Row>(`
    select
      p.id, p.email, p.name, p.job, p.version, p.left_at is not null as left,
      array(
        select g.name from group_member m join person_group g on g.id = m.group_id where m.person_id = p.id order by g.name
      ) as groups,
      coalesce(
        (
          select json_agg(json_build_object('role', r.role, 'domainId', r.domain_id))
          from role_grant r
          where r.person_id = p.id
        ),
        '[]'
      ) as grants
    from person p
    where p.partner_id is null
    order by p.name, p.email`);

/** Everybody who is there, as a file. */
export async function exportDirectory(db: Db, who: Who, format: 'csv' | 'xlsx'): Promise<FileAnswer> {
  who.mustEverywhere('administrator');
  const people = (await everybody(db)).filter(({ left }) => !left);
  const content = await asSheet(format, 'people', directoryRows(people));
  return { name: `people.${format}`, type: SHEET_TYPES[format], content: content.toString('base64') };
}

type Body = BodyOf<typeof directoryEndpoints.imported>;

/**
 * Takes people in from a file, or tells what would come of it.
 * @throws 422 when the file cannot be read, or holds more changes than one may; 409 when something else would come of it than was seen
 */
export async function importDirectory(
  db: Database,
  config: Config,
  who: Who,
  body: Body,
  preview: boolean,
): Promise<DirectoryChange> {
  who.mustEverywhere('administrator');
  const given = readDirectory(await readSheet(body.name, Buffer.from(body.content, 'base64')));
  return db.transaction(async (tx) => {
    // Nobody changes a person between the comparison and what is written.
    if (!preview) await tx.run('lock table person, person_group in share row exclusive mode');
    const people = await everybody(tx);
    const groups = await tx.rows<{ id: string; name: string }>(
      'select id, name from person_group where partner_id is null',
    );
    const compare = (lines: typeof given.lines) =>
      compareDirectory(
        { ...given, lines },
        people,
        groups.map(({ name }) => name),
      );
    const whole = compare(given.lines);
    const seen = digestOf(whole);
    const told = (change: Compared, state: Pick<DirectoryChange, 'invited' | 'written'>): DirectoryChange => ({
      fresh: change.fresh.slice(0, TOLD).map((person) => ({ ...person })),
      freshCount: change.fresh.length,
      changed: change.changed.slice(0, TOLD).map(({ after: _, ...person }) => person),
      changedCount: change.changed.length,
      same: change.same,
      absent: whole.absent.slice(0, TOLD).map(({ id, name }) => ({ id, name })),
      absentCount: whole.absent.length,
      flaws: change.flaws.slice(0, TOLD).map((flaw) => ({ ...flaw })),
      flawCount: change.flaws.length,
      notKept: given.notKept.map((entry) => ({ ...entry })),
      seen,
      ...state,
    });
    if (preview) return told(whole, { invited: 0, written: false });
    if (body.seen !== undefined && body.seen !== seen)
      throw conflict(
        'differs-now',
        'People were changed since you looked: something else would come of the file now.',
        'Look at it again, then take it in. Nothing was changed.',
      );
    const left = new Set(body.leave);
    const chosen = compare(given.lines.filter(({ at }) => !left.has(at)));
    const much = chosen.fresh.length + chosen.changed.length;
    if (much > DIRECTORY_MOST)
      throw invalid(
        `The file changes ${much} people; one changes at most ${DIRECTORY_MOST}.`,
        'Leave some of them, or part the file.',
        [{ field: 'content', message: `changes ${much} people` }],
      );
    const groupIds = new Map(groups.map(({ id, name }) => [name, id]));
    const idsOf = (names: readonly string[]) => names.flatMap((name) => groupIds.get(name) ?? []);
    const byId = new Map(people.map((person) => [person.id, person]));
    for (const { email, name, job, groups: names } of chosen.fresh) {
      const { id } = await addPerson(tx, who, { email, name, job, groupIds: idsOf(names), grants: [] });
      if (body.invite) await invite(tx, config, who, id);
    }
    for (const { id, after } of chosen.changed) {
      const { version, grants } = byId.get(id) as Row;
      await changePerson(tx, who, id, version, {
        email: after.email,
        name: after.name,
        job: after.job,
        groupIds: idsOf(after.groups),
        grants: grants as Parameters<typeof changePerson>[4]['grants'],
      });
    }
    return told(chosen, { invited: body.invite ? chosen.fresh.length : 0, written: true });
  });
}

const digestOf = ({ fresh, changed }: Compared): string =>
  createHash('sha256').update(JSON.stringify({ fresh, changed })).digest('base64url');
