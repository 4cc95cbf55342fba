import { factsOf, type Thing } from '@idrel/contract/things';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { type ModelOf, modelIn } from '../platform/models.ts';
import { conflict, mustBeCurrent, notFound } from '../platform/problems.ts';
import type { Principal } from './principal.ts';
import { type JournalSubject, record, type Told } from './record.ts';

/** How things of one kind are kept: what {@link create}, {@link change} and {@link remove} have to know of them. */
export interface Kept<Row extends object, Answer extends { readonly version: number }> {
  readonly thing: Thing;
  readonly model: ModelOf<Row>;
  /** The thing as whoever asks may see it. @throws 404 when it is not there, or they may not */
  read(db: Db, who: Who, id: string): Promise<Answer>;
  /** What the journal keeps of it. */
  told(db: Db, answer: Answer): Told | Promise<Told>;
  /** Who it is about in the journal, where that is another thing (a plan's changes are told of its source) or lies in domains. */
  subject?(db: Db, answer: Answer, before: Answer | null): Partial<JournalSubject> | Promise<Partial<JournalSubject>>;
  /** Its name, where the answer has none. */
  name?(answer: Answer): string;
  /** Whether somebody may change it as it stands. @throws 403 */
  may?(db: Db, who: Who, answer: Answer): void | Promise<void>;
}

const nameOf = <A extends object>(kept: Pick<Kept<never, never>, 'thing'> & { name?(a: A): string }, answer: A) =>
  kept.name?.(answer) ?? String((answer as { name?: unknown }).name ?? '');

/** A name that is there already, in words. */
function taken(thing: Thing, name: unknown) {
  return (error: unknown): never => {
    if ((error as { name?: string }).name !== 'SequelizeUniqueConstraintError') throw error;
    const { label } = factsOf(thing) ?? { label: thing };
    throw conflict('name-taken', `There already is a ${label} named “${String(name)}”.`, 'Choose another name.');
  };
}

async function written<Row extends object, A extends { readonly version: number }>(
  tx: Db,
  who: Who,
  kept: Kept<Row, A>,
  id: string,
  action: string,
  before: A | null,
  after: A | null,
): Promise<void> {
  const about = (after ?? before) as A;
  const subject = { kind: kept.thing, id, name: nameOf(kept, about), domainId: null };
  await record(
    tx,
    who,
    action,
    { ...subject, ...(await kept.subject?.(tx, about, before)) },
    before && (await kept.told(tx, before)),
    after && (await kept.told(tx, after)),
  );
}

/**
 * Makes a thing: its row, whether that may be, its entry in the journal and its event, all in the transaction of the caller.
 * @throws 409 when its name is taken; 403 when it may not be made as it is
 */
export async function create<Row extends object, A extends { readonly version: number }>(
  tx: Db,
  who: Who,
  kept: Kept<Row, A>,
  values: Partial<Row>,
  { parts, action = 'created' }: { parts?: (id: string) => Promise<unknown>; action?: string } = {},
): Promise<A> {
  const model = modelIn(tx, kept.model);
  const row = await model
    .create(values as never, tx.here)
    .catch(
      taken(kept.thing, (values as { name?: unknown; label?: unknown }).name ?? (values as { label?: unknown }).label),
    );
  const id = String(row.get(model.primaryKeyAttribute as never));
  await parts?.(id);
  const after = await kept.read(tx, who, id);
  await kept.may?.(tx, who, after);
  await written(tx, who, kept, id, action, null, after);
  return after;
}

/** One change of a thing. */
export interface Change<Row extends object, A> {
  /** The version that was seen; null for what is changed whatever its version is. */
  readonly version: number | null | undefined;
  /** What is to stand in its row, perhaps by what stands there. What is already so is not written. */
  readonly values: Partial<Row> | ((before: A) => Partial<Row> | Promise<Partial<Row>>);
  /** Writes what the thing has in other tables. @returns whether that is other than before */
  readonly parts?: (id: string, before: A) => Promise<boolean>;
  readonly action?: string;
}

/**
 * Changes a thing, in the transaction of the caller: its row is held, who asks may change it as it was and as it becomes, the version is the one they saw;
 * then it is written, with its entry in the journal and its event. When nothing differs, nothing is written, and its version stays.
 *
 * @throws 404, 403, 428 without a version, 412 with what stands there now, 409 when its name is taken
 */
export async function change<Row extends object, A extends { readonly version: number }>(
  tx: Db,
  who: Who,
  kept: Kept<Row, A>,
  id: string,
  { version, values, parts, action = 'edited' }: Change<Row, A>,
): Promise<{ readonly before: A; readonly after: A }> {
  const { row, before } = await held(tx, who, kept, id);
  if (version !== null) mustBeCurrent(version, before);
  const next = typeof values === 'function' ? await values(before) : values;
  row.set(next);
  // A change of what lies in other tables is one of the thing, and gives it a new version.
  if (await parts?.(id, before)) row.changed('version' as never, true);
  const { name, label } = next as { name?: unknown; label?: unknown };
  await row.save(tx.here).catch(taken(kept.thing, name ?? label));
  const after = await kept.read(tx, who, id);
  await kept.may?.(tx, who, after);
  await written(tx, who, kept, id, action, before, after);
  return { before, after };
}

/**
 * Removes a thing, in the transaction of the caller, with its entry in the journal and its event.
 * @param unless what stands in the way of it, by throwing
 * @param parts takes away what others keep of it, before its row goes
 * @param leaving what its row then says, where it stays out of sight, to be brought back
 */
export async function remove<Row extends object, A extends { readonly version: number }>(
  tx: Db,
  who: Who,
  kept: Kept<Row, A>,
  id: string,
  {
    unless,
    parts,
    leaving,
    action = 'removed',
  }: {
    unless?: (before: A) => void | Promise<void>;
    parts?: (before: A) => Promise<unknown>;
    leaving?: Partial<Row>;
    action?: string;
  } = {},
): Promise<A> {
  const { row, before } = await held(tx, who, kept, id);
  await unless?.(before);
  await parts?.(before);
  if (leaving) await row.update(leaving, tx.here);
  else await row.destroy(tx.here);
  await written(tx, who, kept, id, action, before, null);
  return before;
}

/**
 * Brings back what was removed and left its row.
 * @throws 404 when there is none such, 403, 409 when its name was taken meanwhile
 */
export async function bringBack<Row extends object, A extends { readonly version: number }>(
  tx: Db,
  who: Who,
  kept: Kept<Row, A>,
  id: string,
  { isGone, values, action = 'brought back' }: { isGone: (row: Row) => boolean; values: Partial<Row>; action?: string },
): Promise<A> {
  const model = modelIn(tx, kept.model);
  const row = await model.findByPk(id, { ...tx.here, lock: true });
  if (!row || !isGone(row.get())) throw notFound(`The ${factsOf(kept.thing)?.label ?? kept.thing}`);
  const { name, label } = row.get() as { name?: unknown; label?: unknown };
  await row.update(values, tx.here).catch(taken(kept.thing, name ?? label));
  const after = await kept.read(tx, who, id);
  await kept.may?.(tx, who, after);
  await written(tx, who, kept, id, action, null, after);
  return after;
}

/**
 * Something that is said of a thing beside its own row, and that has no version: a decision on a finding, a switch, an exception that a plan makes.
 * @typeParam Now what is said of it, with whatever is needed to tell who may say it
 */
export interface Saying<Now> {
  readonly action: string;
  /** What is said now, held until the end of the transaction. @throws 404 */
  held(): Promise<Now>;
  /** @throws 403; 409 when somebody else was quicker */
  may(now: Now): void | Promise<void>;
  /** Writes it. @returns what the journal keeps of before and after */
  write(now: Now): Promise<readonly [before: Told | null, after: Told | null]>;
  about(now: Now): JournalSubject;
}

/**
 * Says something of a thing, in the transaction of the caller, with its entry in the journal and its event: what stands there is held, who asks may say it,
 * then it is written. The journal gets no entry where before and after are the same.
 * @returns what was said before
 */
export async function say<Now>(tx: Db, principal: Principal, saying: Saying<Now>): Promise<Now> {
  const now = await saying.held();
  await saying.may(now);
  const [before, after] = await saying.write(now);
  await record(tx, principal, saying.action, saying.about(now), before, after);
  return now;
}

/** The row, held until the end of the transaction, and the thing as whoever asks sees it and may change it. */
async function held<Row extends object, A extends { readonly version: number }>(
  tx: Db,
  who: Who,
  kept: Kept<Row, A>,
  id: string,
) {
  const row = await modelIn(tx, kept.model).findByPk(id, { ...tx.here, lock: true });
  const before = await kept.read(tx, who, id);
  if (!row) throw notFound(`The ${factsOf(kept.thing)?.label ?? kept.thing}`);
  await kept.may?.(tx, who, before);
  return { row, before };
}
