import { useState } from 'react';
import { type AnyProblem, problemOf } from '../app/api.ts';
import { toBase64 } from '../app/files.ts';

/** What is asked of every import: the file, the places in it that are left, and what was seen. */
export interface TakenIn {
  readonly name: string;
  readonly content: string;
  readonly leave?: readonly string[];
  readonly seen?: string;
}
interface Read<Told> {
  readonly name: string;
  readonly content: string;
  readonly told: Told;
}

/**
 * A file that is looked at before it is taken in: what would come of it is shown, and each change can be left. Where something else would come of it by
 * then, it is looked at again, with what was left before, and nothing is written.
 * @param leftAtFirst what is left unless it is chosen
 */
export function useTakenIn<Told extends { readonly seen: string }>({
  preview,
  take,
  done,
  leftAtFirst = () => [],
}: {
  preview: (file: TakenIn) => Promise<Told>;
  take: (file: TakenIn) => Promise<Told>;
  done: (told: Told) => void;
  leftAtFirst?: (told: Told) => readonly string[];
}) {
  const [read, setRead] = useState<Read<Told>>();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [problem, setProblem] = useState<AnyProblem | null>(null);
  const [busy, setBusy] = useState(false);
  const look = async (name: string, content: string, kept?: ReadonlySet<string>) => {
    setBusy(true);
    if (!kept) setProblem(null);
    try {
      const told = await preview({ name, content });
      setRead({ name, content, told });
      setLeft(kept ?? new Set(leftAtFirst(told)));
    } catch (error) {
      setRead(undefined);
      setProblem(problemOf(error));
    }
    setBusy(false);
  };
  return {
    /** The file, and what would come of it. */
    read,
    left,
    problem,
    busy,
    choose: (file: File | null) => {
      if (file) void toBase64(file).then((content) => look(file.name, content));
    },
    /** Looks at the same file again, where something else was chosen that it is read by. */
    again: () => read && void look(read.name, read.content),
    leave: (places: readonly string[], yes: boolean) =>
      setLeft((before) => {
        const next = new Set(before);
        for (const place of places)
          if (yes) next.add(place);
          else next.delete(place);
        return next;
      }),
    finish: async () => {
      if (!read) return;
      setProblem(null);
      setBusy(true);
      try {
        const told = await take({ name: read.name, content: read.content, leave: [...left], seen: read.told.seen });
        setRead(undefined);
        done(told);
      } catch (error) {
        const met = problemOf(error);
        setProblem(met);
        if (met.code === 'differs-now') await look(read.name, read.content, left);
      }
      setBusy(false);
    },
  };
}
