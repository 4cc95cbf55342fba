import { type UseFormReturnType, useForm } from '@mantine/form';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { flushSync } from 'react-dom';
import { type AnyProblem, problemOf, useSessionQuery } from '../app/api.ts';
import { keepEdit, readKept } from './keep.ts';
import { changedFields, type FieldClash, type Held, type Joiner, rebase } from './merge.ts';

interface Options<T extends object, A> {
  /** What is edited: the kind of thing, and which. Another key is another form (give it to React as the component's key, too). */
  readonly key: string;
  /** What the server holds now; null for something new. */
  readonly now: Held<T> | null;
  /** What the form begins with when there is nothing yet. */
  readonly fresh: T;
  /** The form's values of an answer, as a save or a clash gives it. */
  readonly valuesOf: (answer: A) => T;
  /** Sends the values upon the version that the edit began from; 0 for something new. */
  readonly send: (values: T, version: number) => Promise<A & { readonly version: number }>;
  /** After a save. @param before what the edit began from, for taking it back */
  readonly done?: (saved: A & { readonly version: number }, before: T) => void;
  /** Fields that never lie in the browser: leaving the page with one of them filled asks first. */
  readonly secret?: readonly (keyof T & string)[];
  /** How two changes of one field are put together. The same object at each call. */
  readonly joiners?: { readonly [field in keyof T]?: Joiner };
}

export interface EditForm<T extends object> {
  /** Mantine's form: values, errors and the properties of inputs. */
  readonly form: UseFormReturnType<T>;
  readonly values: T;
  readonly put: (changes: Partial<T>) => void;
  /** Something was typed that is not saved. */
  readonly differs: boolean;
  /** Fields in which it was. */
  readonly changed: readonly (keyof T & string)[];
  /** It was found again as it had been left. */
  readonly resumed: boolean;
  readonly clashes: readonly FieldClash<T>[];
  /** Fields that somebody else changed meanwhile, and that now show theirs, or both. */
  readonly followed: readonly (keyof T & string)[];
  readonly take: (field: keyof T & string, side: 'mine' | 'theirs') => void;
  readonly problem: AnyProblem | null;
  readonly saving: boolean;
  /** The browser has no room to keep what is typed. */
  readonly unkept: boolean;
  /** Saves what the form holds. @param changes chosen in the same moment */
  readonly save: (changes?: Partial<T>) => Promise<boolean>;
  /** Gives up what was typed: the form shows what the server holds. */
  readonly discard: () => void;
  /** Leaving the page now would lose what is typed. */
  readonly loses: boolean;
}

/**
 * The form of everything that is edited. What is typed is kept in the browser for the person who typed it, with the version that it began from; a save is sent upon
 * that version, never upon one that was not seen. What somebody else changes meanwhile is taken over where only they changed it, and shown beside mine where both did.
 */
export function useEditForm<T extends object, A>({
  key,
  now,
  fresh,
  valuesOf,
  send,
  done,
  secret = [],
  joiners,
}: Options<T, A>): EditForm<T> {
  const person = useSessionQuery().data?.person?.id ?? '';
  const [kept] = useState(() => readKept<T>(person, key));
  const [base, setBase] = useState<Held<T>>(() => {
    const begun = now ?? { version: 0, values: fresh };
    // What was left before a field came to be has none of it.
    return kept ? { version: kept.base.version, values: { ...begun.values, ...kept.base.values } } : begun;
  });
  const [theirs, setTheirs] = useState<Held<T> | null>(null);
  const [settled, setSettled] = useState<readonly string[]>([]);
  const [followed, setFollowed] = useState<readonly (keyof T & string)[]>([]);
  const [problem, setProblem] = useState<AnyProblem | null>(null);
  const [saving, setSaving] = useState(false);
  const [unkept, setUnkept] = useState(false);
  const [resumed, setResumed] = useState(kept !== undefined);
  const form = useForm<T>({ mode: 'controlled', initialValues: { ...base.values, ...kept?.changes } });
  const { values, setValues } = form;
  const changed = useMemo(() => changedFields(base.values, values), [base, values]);
  const clashes = useMemo(
    () =>
      theirs
        ? rebase(base.values, values, theirs.values, joiners).clashes.filter(({ field }) => !settled.includes(field))
        : [],
    [theirs, base, values, settled, joiners],
  );

  const meet = useCallback(
    (other: Held<T>, typed: T = values): boolean => {
      const { values: merged, followed: taken, clashes: met } = rebase(base.values, typed, other.values, joiners);
      const mine = changedFields(base.values, typed).length > 0;
      setValues(merged as Parameters<typeof setValues>[0]);
      if (mine) setFollowed((before) => [...new Set([...before, ...taken])]);
      setSettled([]);
      if (met.length === 0) {
        setBase(other);
        setTheirs(null);
        return false;
      }
      // What only they changed is theirs from here on; the version stays the one that the rest began from.
      setBase({
        version: base.version,
        values: { ...base.values, ...Object.fromEntries(taken.map((field) => [field, other.values[field]])) },
      });
      setTheirs(other);
      return true;
    },
    [base, values, setValues, joiners],
  );

  // A draft of an earlier day, or a thing fetched anew under the open form.
  useEffect(() => {
    if (now && now.version > (theirs ?? base).version) meet(now);
  }, [now, theirs, base, meet]);

  // The last side was taken: what is typed now begins from what they made.
  useEffect(() => {
    if (!theirs || clashes.length > 0) return;
    setBase(theirs);
    setTheirs(null);
    setSettled([]);
    setProblem(null);
  }, [theirs, clashes]);

  const isSecret = useCallback((field: string) => (secret as readonly string[]).includes(field), [secret]);
  const begun = JSON.stringify(base);
  const typed = JSON.stringify(
    Object.fromEntries(changed.filter((field) => !isSecret(field)).map((field) => [field, values[field] ?? null])),
  );
  useEffect(() => {
    const changes = JSON.parse(typed) as Partial<T>;
    const failed = !keepEdit<T>(
      person,
      key,
      Object.keys(changes).length > 0 ? { base: JSON.parse(begun) as Held<T>, changes } : undefined,
    );
    // Only where it is different: React takes what each letter sets anew, typed fast, for an endless loop, and drops the fifty-second letter.
    if (failed !== unkept) setUnkept(failed);
  }, [person, key, typed, begun, unkept]);

  const discard = () => {
    keepEdit(person, key, undefined);
    const start = theirs ?? (now && now.version >= base.version ? now : base);
    setBase(start);
    setTheirs(null);
    setSettled([]);
    setFollowed([]);
    setProblem(null);
    setResumed(false);
    form.clearErrors();
    setValues(start.values as Parameters<typeof setValues>[0]);
  };

  const save = async (changes?: Partial<T>): Promise<boolean> => {
    const wanted = { ...values, ...changes };
    if (changes) setValues(wanted as Parameters<typeof setValues>[0]);
    setSaving(true);
    form.clearErrors();
    try {
      const saved = await send(wanted, base.version).catch((error: unknown) => {
        // Somebody changed the thing elsewhere, and nothing that stands in this form: it goes upon theirs as it is.
        const other = currentIn<A & { version: number }>(problemOf(error));
        const met = other && rebase(base.values, wanted, valuesOf(other), joiners);
        if (!other || !met || met.clashes.length + met.followed.length > 0) throw error;
        return send(wanted, other.version);
      });
      keepEdit(person, key, undefined);
      setProblem(null);
      setFollowed([]);
      setResumed(false);
      // What was new is a thing of its own now: the next new one begins afresh.
      const held = now ? { version: saved.version, values: valuesOf(saved) } : { version: 0, values: fresh };
      // Before whoever opened the form goes on: a page that is left then has nothing unsaved.
      flushSync(() => {
        setBase(held);
        setTheirs(null);
        // What was typed while it was on its way stays, as not saved yet.
        const since = now ? changedFields(wanted, form.getValues()) : [];
        setValues({
          ...held.values,
          ...Object.fromEntries(since.map((field) => [field, form.getValues()[field]])),
        } as Parameters<typeof setValues>[0]);
      });
      done?.(saved, base.values);
      return true;
    } catch (error) {
      const met = problemOf(error);
      setProblem(met);
      for (const { field, message } of met.fields ?? []) form.setFieldError(fieldIn(wanted, field), message);
      const current = currentIn<A & { version: number }>(met);
      if (current) meet({ version: current.version, values: valuesOf(current) }, form.getValues());
      return false;
    } finally {
      setSaving(false);
    }
  };

  return {
    form,
    values,
    put: (changes) => setValues(changes as Parameters<typeof setValues>[0]),
    differs: changed.length > 0,
    changed,
    resumed,
    clashes,
    followed,
    take: (field, side) => {
      if (side === 'theirs' && theirs)
        setValues({ [field]: theirs.values[field] } as unknown as Parameters<typeof setValues>[0]);
      else setSettled((before) => [...before, field]);
    },
    problem,
    saving,
    unkept,
    save,
    discard,
    loses: changed.length > 0 && (unkept || changed.some(isSecret)),
  };
}

/** What stands there now, where a save met it. */
const currentIn = <A>(problem: AnyProblem): A | undefined =>
  problem.code === 'changed-meanwhile' ? (problem.current as A | undefined) : undefined;

/** The field of the form that a field of the request belongs to: `address.host` is one of `address`, where the form has no such field itself. */
function fieldIn(values: object, path: string): string {
  if (path in values) return path;
  const [first = path] = path.split(/[.[]/);
  return first;
}
