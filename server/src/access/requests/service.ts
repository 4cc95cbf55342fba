import type { AnswerBody, AskBody, GrantBody, GrantEffect, RequestAnswer } from '@idrel/contract/access';
import { isKindThat } from '@idrel/core/things';
import { change, create, type Kept, type Principal, record } from '../../journal/index.ts';
import { isSeen, type Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { ApiProblem, conflict, forbidden, invalid, notFound } from '../../platform/problems.ts';
import { endGrants, grantPolicies } from '../policies.ts';
import { effectOfGrant, policiesOf } from './grant.ts';
import { tellOfRequest } from './mails.ts';
import { REQUEST, type RequestRow } from './models.ts';
import { answerOf, readRequest, type SeenRequest } from './read.ts';

/** So many requests of one person wait at most. */
const MOST_WAITING = 100;

const REQUESTS: Kept<RequestRow, SeenRequest> = {
  thing: 'request',
  model: REQUEST,
  read: readRequest,
  name: ({ number, person }) => `Request ${number} of ${person.name}`,
  subject: (_db, { domainIds }) => ({ domainIds }),
  told: (_db, { state, purpose, note, columns, until, assets, answer, answeredFor, granted }) => ({
    assets: assets.map(({ path }) => path),
    purpose,
    ...(note ? { note } : {}),
    ...(columns ? { columns } : {}),
    until,
    state,
    ...(answer ? { answer } : {}),
    ...(answeredFor ? { answeredFor } : {}),
    ...(state === 'granted' && granted
      ? { granted: assets.flatMap(({ id, path }) => (granted.assetIds.includes(id) ? path : [])) }
      : {}),
  }),
};

interface AskedAsset {
  readonly id: string;
  readonly kind: Parameters<typeof isKindThat>[1];
  readonly name: string;
  readonly party: string | null;
}

const IN_FUTURE = (field: string) => ({ field, message: 'has passed already' });

/** What can be asked for must hold rows, or hold what does. */
const holds = (kind: AskedAsset['kind']) =>
  kind === 'column' || isKindThat('holdsRows', kind) || ['schema', 'database', 'folder'].includes(kind);

/** Asks for access: a request for each who answers for some of it. @throws 404, 409, 422, 429 */
export async function askForAccess(tx: Db, who: Who, body: AskBody): Promise<RequestAnswer[]> {
  const { assetIds, columns, purpose, note, until } = body;
  // One after the other: nobody asks twice for the same in one moment.
  await tx.run('select from person where id = $1 for update', [who.id]);
  const assets = await tx.rows<AskedAsset>(
    `
      select a.id, a.kind, a.name, answers_for(a.id) as party
      from asset a
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')} and a.gone_at is null
      order by a.key`,
    [assetIds, who.domainsAs('reader')],
  );
  if (assets.length < assetIds.length) throw notFound('Something that you ask for');
  const odd = assets.filter(({ kind }) => !holds(kind));
  if (odd.length > 0)
    throw invalid(
      `${odd.map(({ kind, name }) => `“${name}” is a ${kind}`).join('; ')}: it holds no rows that could be read.`,
      'Ask for tables, views, files or columns, or for what they lie in.',
      [{ field: 'assetIds', message: 'names something that holds no rows' }],
    );
  if (until !== null && Date.parse(until) <= Date.now())
    throw invalid('The day until which you need it has passed.', 'Choose a later one, or none.', [IN_FUTURE('until')]);
  if (columns !== null) await checkColumns(tx, assets, columns);
  const waiting = await tx.rows<{ number: number; name: string; of: number }>(
    `
      select r.number, a.name, count(*) over ()::int as of
      from access_request r
      left join access_request_asset x on x.request_id = r.id and x.asset_id = any($2::uuid[])
      left join asset a on a.id = x.asset_id
      where r.person_id = $1 and r.state = 'waiting'
      order by a.id is null, r.number`,
    [who.id, assetIds],
  );
  const [again] = waiting;
  if (again?.name)
    throw conflict(
      'asked-already',
      `You have asked for “${again.name}” already: request ${again.number} waits for an answer.`,
      'Take that one back to ask for it otherwise, or leave it out here.',
    );
  if ((again?.of ?? 0) >= MOST_WAITING)
    throw new ApiProblem('too-much-at-once', `${MOST_WAITING} requests of yours wait for an answer already.`, {
      mend: 'Take back what you do not need any more, or wait for answers.',
    });
  const groups = new Map<string | null, string[]>();
  for (const { id, party } of assets) groups.set(party, [...(groups.get(party) ?? []), id]);
  const made: RequestAnswer[] = [];
  for (const ids of groups.values()) {
    const values = {
      personId: who.id,
      purpose,
      note,
      columns,
      until: until === null ? null : new Date(until),
    };
    const parts = (id: string) =>
      tx.run('insert into access_request_asset (request_id, asset_id) select $1, unnest($2::uuid[])', [id, ids]);
    const request = await create(tx, who, REQUESTS, values, { parts, action: 'asked' });
    await tellOfRequest(tx, { requestId: request.id, why: 'asked' });
    made.push(answerOf(request));
  }
  return made;
}

/** Columns can be named of one table alone, and must be there. */
async function checkColumns(tx: Db, assets: readonly AskedAsset[], columns: readonly string[]): Promise<void> {
  const [table] = assets;
  if (assets.length !== 1 || !table || !isKindThat('holdsRows', table.kind))
    throw invalid('Columns can be chosen of one table, view or file alone.', 'Ask for all of it, or for one table.', [
      { field: 'columns', message: 'can be chosen of one table alone' },
    ]);
  const there = await tx.rows<{ name: string }>(
    "select name from asset where parent_id = $1 and kind = 'column' and gone_at is null",
    [table.id],
  );
  const unknown = columns.filter((name) => !there.some((column) => column.name === name));
  if (unknown.length > 0)
    throw invalid(
      `“${table.name}” has no column ${unknown.map((name) => `“${name}”`).join(', ')}.`,
      'Choose them anew.',
      [{ field: 'columns', message: 'names a column that is not there' }],
    );
}

/** A grant must be of what was asked for, and no more of it. @throws 422 */
function checkGrant(request: SeenRequest, grant: GrantBody): void {
  const fields: { field: string; message: string }[] = [];
  if (grant.assetIds.some((id) => !request.assets.some((asset) => asset.id === id)))
    fields.push({ field: 'grant.assetIds', message: 'names something that was not asked for' });
  const { columns: asked } = request;
  if (asked && (grant.columns === null || grant.columnsBut || grant.columns.some((name) => !asked.includes(name))))
    fields.push({ field: 'grant.columns', message: `opens more than was asked for: ${asked.join(', ')}` });
  if (grant.columnsBut && grant.columns === null)
    fields.push({ field: 'grant.columns', message: 'does not say which columns are left out' });
  if (grant.masked?.columnsBut && grant.masked.columns === null)
    fields.push({ field: 'grant.masked', message: 'does not say which columns are shown as they are' });
  if (grant.masked?.mask.kind === 'partial' && grant.masked.mask.first + grant.masked.mask.last === 0)
    fields.push({ field: 'grant.masked', message: 'shows no characters: to show none, choose blank' });
  if (grant.until !== null && Date.parse(grant.until) <= Date.now()) fields.push(IN_FUTURE('grant.until'));
  if (fields.length > 0)
    throw invalid(
      `The request cannot be granted so: ${fields.map(({ field, message }) => `${field.slice('grant.'.length)} ${message}`).join('; ')}.`,
      'Grant what was asked for, or less.',
      fields,
    );
}

function mustAnswer({ right }: SeenRequest): void {
  if (!right.may)
    throw new ApiProblem('forbidden', right.whyNot ?? 'You may not answer this request.', {
      mend: 'Whoever owns all that it names answers it, or a policy administrator of its domains.',
    });
}

/** What a grant would open. @throws 403, 404, 422 */
export async function grantEffect(db: Db, who: Who, id: string, grant: GrantBody): Promise<GrantEffect> {
  const request = await readRequest(db, who, id);
  mustAnswer(request);
  checkGrant(request, grant);
  return effectOfGrant(db, who, request, grant);
}

const ACTIONS = { granted: 'granted', refused: 'refused', ended: 'ended', waiting: 'answer taken back' } as const;

/**
 * Answers a request, or answers it anew: what it granted before goes, what it grants now comes, in one transaction.
 * @throws 403, 404, 412, 422
 */
export async function answerRequest(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  { decision, text, grant }: AnswerBody,
): Promise<RequestAnswer> {
  const { after } = await change(tx, who, REQUESTS, id, {
    version,
    action: ACTIONS[decision],
    values(before): Partial<RequestRow> {
      if (decision === 'ended') {
        if (!before.mine) mustAnswer(before);
        if (before.state !== 'granted')
          throw invalid(`Nothing is granted: the request is ${before.state}.`, 'Look at it again.', [
            { field: 'decision', message: 'does not fit its state' },
          ]);
        return {
          state: 'ended',
          ...(text ? { answer: text } : {}),
          // Whoever asked is told when somebody else ends it.
          ...(before.mine
            ? { answerSeen: true }
            : { answeredAt: new Date(), answeredBy: who.id, answeredFor: before.right.instead, answerSeen: false }),
        };
      }
      mustAnswer(before);
      if (before.state === 'taken back')
        throw invalid('The request was taken back by whoever made it.', 'There is nothing to answer any more.', [
          { field: 'decision', message: 'does not fit its state' },
        ]);
      if (decision === 'refused' && !text)
        throw invalid('A refusal says why.', 'Write a sentence: whoever asked reads it.', [
          { field: 'text', message: 'says why it is refused' },
        ]);
      if (decision === 'granted') {
        if (!grant)
          throw invalid('It is not said what is granted.', 'Say it as `grant`.', [
            { field: 'grant', message: 'says what is granted' },
          ]);
        checkGrant(before, grant);
      }
      const open = decision === 'waiting';
      return {
        state: decision,
        answeredAt: open ? null : new Date(),
        answeredBy: open ? null : who.id,
        answeredFor: open ? null : before.right.instead,
        answer: open ? null : text,
        granted: decision === 'granted' ? grant : null,
        answerSeen: false,
        endSeen: false,
      };
    },
    async parts(_id, before) {
      const ended = await endGrants(tx, who, { requestId: id });
      if (decision !== 'granted' || !grant) return ended > 0;
      await grantPolicies(tx, who, { requestId: id }, policiesOf(before, grant));
      return true;
    },
  });
  if (decision === 'granted' || decision === 'refused' || (decision === 'ended' && !after.mine))
    await tellOfRequest(tx, { requestId: id, why: decision });
  return answerOf(after);
}

/** Takes a request back that waits. @throws 403, 404, 409 */
export async function takeRequestBack(tx: Db, who: Who, id: string): Promise<void> {
  await change(tx, who, REQUESTS, id, {
    version: null,
    action: 'taken back',
    values(before): Partial<RequestRow> {
      if (!before.mine) throw forbidden('of whoever asked: nobody else takes it back');
      if (before.state !== 'waiting')
        throw conflict('settled-already', `It does not wait any more: it is ${before.state}.`, 'Look at it again.');
      return { state: 'taken back' };
    },
  });
}

/** Takes the answer to one's own request, or its coming end, off the worklist, or puts it back. @throws 404 */
export async function seeRequest(
  tx: Db,
  who: Who,
  id: string,
  { what, seen }: { readonly what: 'answered' | 'ending'; readonly seen: boolean },
): Promise<void> {
  const column = what === 'answered' ? 'answer_seen' : 'end_seen';
  const done = await tx.run(`update access_request set ${column} = $3 where id = $1 and person_id = $2`, [
    id,
    who.id,
    seen,
  ]);
  if (done === 0) throw notFound('A request of yours');
}

/** Ends what a request granted, whoever sees it: a review does. */
export async function endRequest(tx: Db, principal: Principal, requestId: string): Promise<void> {
  const row = await tx.one<{ name: string; domains: string[] }>(
    `
      update access_request r
      set state = 'ended', answer_seen = false, version = r.version + 1
      from person p
      where r.id = $1 and p.id = r.person_id and r.state = 'granted'
      returning 'Request ' || r.number || ' of ' || p.name as name, array(
        select distinct a.domain_id from access_request_asset x join asset a on a.id = x.asset_id where x.request_id = r.id
      ) as domains`,
    [requestId],
  );
  if (!row) return;
  await endGrants(tx, principal, { requestId });
  await record(
    tx,
    principal,
    'ended',
    { kind: 'request', id: requestId, name: row.name, domainId: null, domainIds: row.domains },
    { state: 'granted' },
    { state: 'ended' },
  );
}

/** Grants again what a request granted before it was ended. @returns the id of the policy that allows; undefined where there is nothing to be granted */
export async function grantAgain(tx: Db, who: Who, requestId: string): Promise<string | undefined> {
  const request = await readRequest(tx, who, requestId);
  if (request.state !== 'ended' || !request.granted) return undefined;
  const allowing = await grantPolicies(tx, who, { requestId }, policiesOf(request, request.granted));
  await change(tx, who, REQUESTS, requestId, { version: null, values: { state: 'granted' }, action: 'granted' });
  return allowing;
}
