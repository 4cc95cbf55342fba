import type { Problem } from '@idrel/contract/http';
import { Button } from '@mantine/core';
import { type ReactNode, useState } from 'react';
import { problemOf, useSessionQuery } from '../app/api.ts';
import { sayProblem } from '../app/say.ts';
import { count } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';

/** Whether the person has one of these roles in any domain. */
export function useMayAnywhere(...roles: string[]): boolean {
  const session = useSessionQuery();
  return session.data?.grants.some((grant) => [...roles, 'administrator'].includes(grant.role)) ?? false;
}

/** Saving and removing as forms do it: what is wrong with a save stands beside the form, what is wrong with a removal is said. */
export function useKeeping() {
  const [problem, setProblem] = useState<Problem | null>(null);
  return {
    problem,
    keep: <T,>(saving: Promise<T>, done: (saved: T) => void): void =>
      void saving.then(
        (saved) => {
          setProblem(null);
          done(saved);
        },
        (error: unknown) => setProblem(problemOf(error)),
      ),
    remove: (removing: Promise<unknown>, what: string, done: () => void): void => void removing.then(done, (error: unknown) => sayProblem(error, what)),
  };
}

/** What a change would do before it is done: in words, and as rows of which the first are shown. */
export function Effect({ told, label, rows, total }: { told: string; label: string; rows: readonly ReactNode[]; total: number }) {
  const shown = rows.slice(0, SHOWN);
  return (
    <section aria-label="What it would change">
      <h3>What it would change</h3>
      <p role="status">{told}</p>
      {shown.length > 0 ? (
        <table className="plain" aria-label={label}>
          <tbody>{shown}</tbody>
        </table>
      ) : null}
      {total > shown.length ? <p className="quiet small">and {count(total - shown.length)} more</p> : null}
    </section>
  );
}
const SHOWN = 60;

/** A form in the right half of a view: its fields, what is wrong, the buttons that save and remove, and what the change would do. */
export function Frame({
  title,
  may,
  problem,
  save,
  saving,
  ready,
  words,
  remove,
  removeWords = 'Remove',
  children,
  below,
}: {
  title: string;
  may: boolean;
  problem: Problem | null;
  /** Saves what was typed; given a version, over what somebody else made meanwhile. */
  save: (version?: number) => void;
  saving: boolean;
  ready: boolean;
  words: string;
  remove?: (() => void) | undefined;
  removeWords?: string;
  children: ReactNode;
  below?: ReactNode;
}) {
  return (
    <div className="stack" style={{ maxWidth: 760 }}>
      <h2>{title}</h2>
      <fieldset disabled={!may} style={{ border: 0, padding: 0, margin: 0 }} className="stack">
        {children}
      </fieldset>
      <ProblemNotice problem={problem} over={save} />
      {may ? (
        <div className="row">
          <Button onClick={() => save()} loading={saving} disabled={!ready}>
            {words}
          </Button>
          {remove ? (
            <Button variant="subtle" c="var(--buoy)" onClick={remove}>
              {removeWords}
            </Button>
          ) : null}
        </div>
      ) : null}
      {below}
    </div>
  );
}

/** One of a list at the left, that opens its form. */
export const Choice = ({ chosen, choose, children }: { chosen: boolean; choose: () => void; children: ReactNode }) => (
  <li style={{ listStyle: 'none' }}>
    <button type="button" className="node" aria-current={chosen} style={{ background: chosen ? 'var(--kelp-soft)' : 'none' }} onClick={choose}>
      {children}
    </button>
  </li>
);
