import { createHash } from 'node:crypto';
import type { Db } from './database.ts';
import { ApiProblem, invalid, toApiProblem } from './problems.ts';

/** So long an answer is kept, and so long one that never came may still come. */
const [KEPT, UNDER_WAY] = ['1 day', '10 minutes'];
const KEY = /^[\x21-\x7e]{1,200}$/;

/** What was answered, as it is sent. */
export interface Answered {
  readonly json: string | null;
  readonly etag: string | null;
}

/** What a call was, by which it is known again: the operation, what it is about, what was sent. */
export function printOf(id: string, about: unknown, pieces: readonly Uint8Array[]): Buffer {
  const hash = createHash('sha256').update(JSON.stringify([id, about]));
  for (const piece of pieces) hash.update(piece);
  return hash.digest();
}

/**
 * Does something once for one idempotency key of a person: sent again within a day the same is answered the same, and nothing is done. (The Idempotency-Key HTTP
 * header field, a draft of the IETF.) What was refused did nothing, and may be sent again.
 * @param key as the caller chose it
 * @throws 422 when the key was sent with something else; 409 while the first is under way, or when nobody knows how it ended
 */
export async function once(
  db: Db,
  personId: string,
  key: string,
  print: Buffer,
  work: () => Promise<Answered>,
): Promise<{ answer: Answered; again: boolean }> {
  if (!KEY.test(key))
    throw invalid(
      'The idempotency key cannot be read.',
      'Send 1 to 200 letters, digits and signs, for example a UUID.',
      [{ field: 'Idempotency-Key', message: 'is none' }],
    );
  await db.run(`delete from idempotent_call where person_id = $1 and key = $2 and at < now() - interval '${KEPT}'`, [
    personId,
    key,
  ]);
  const fresh = await db.run(
    'insert into idempotent_call (person_id, key, print) values ($1, $2, $3) on conflict do nothing',
    [personId, key, print],
  );
  if (fresh === 0) {
    const known = await db.one<{
      same: boolean;
      status: number | null;
      answer: string | null;
      etag: string | null;
      lost: boolean;
    }>(
      `
        select print = $3 as same, status, answer, etag, at < now() - interval '${UNDER_WAY}' as lost
        from idempotent_call
        where person_id = $1 and key = $2`,
      [personId, key, print],
    );
    if (known && !known.same)
      throw new ApiProblem('call-differs', 'This idempotency key was sent before, with something else.', {
        mend: 'Send another key with what is another call.',
      });
    if (known && known.status !== null) return { answer: { json: known.answer, etag: known.etag }, again: true };
    throw new ApiProblem(
      'call-under-way',
      known?.lost
        ? 'Nobody knows how the call with this idempotency key ended.'
        : 'The call with this idempotency key is under way.',
      {
        mend: known?.lost
          ? 'Look whether it was done; if not, send it with another key.'
          : 'Send the same again in a moment: it is answered then.',
      },
    );
  }
  let answer: Answered;
  try {
    answer = await work();
  } catch (error) {
    // What was refused did nothing. Of anything else nobody knows how it ended: it is not done a second time unasked.
    if (toApiProblem(error).status < 500)
      await db.run('delete from idempotent_call where person_id = $1 and key = $2', [personId, key]);
    throw error;
  }
  await db.run('update idempotent_call set status = $3, answer = $4, etag = $5 where person_id = $1 and key = $2', [
    personId,
    key,
    answer.json === null ? 204 : 200,
    answer.json,
    answer.etag,
  ]);
  return { answer, again: false };
}

/** Takes away what is no longer answered again. */
export const forgetAnswers = (db: Db): Promise<number> =>
  db.run(`delete from idempotent_call where at < now() - interval '${KEPT}'`);
