import { Button, Skeleton } from '@mantine/core';
import type { ReactNode } from 'react';
import { type AnyProblem, problemOf } from '../app/api.ts';

/** What would be here, and the step that brings it. */
export const Empty = ({ title, children }: { title: string; children: ReactNode }) => (
  <div className="empty">
    <h2>{title}</h2>
    {children}
  </div>
);

/** What went wrong, what is still intact, and the way on. */
export function Trouble({ error, what, again }: { error: unknown; what: string; again?: () => void }) {
  const problem = problemOf(error);
  return (
    <div className="empty" role="alert">
      <h2>{what}</h2>
      <p>
        {problem.detail} {problem.mend}
      </p>
      {again ? (
        <Button mt={10} variant="default" onClick={again}>
          Try again
        </Button>
      ) : null}
    </div>
  );
}

/**
 * What is wrong with what was just tried, beside the form that keeps what was typed.
 * @param over saves over what somebody else wrote meanwhile, given the version that they made
 */
export const ProblemNotice = ({
  problem,
  over,
  children,
}: {
  problem: AnyProblem | null | undefined;
  over?: (version: number) => void;
  children?: ReactNode;
}) =>
  problem ? (
    <div className="notice" role="alert">
      {problem.detail} {problem.mend}
      {children}
      {over && problem.code === 'changed-meanwhile' ? (
        <div>
          <Button mt={6} onClick={() => over((problem.current as { version: number }).version)}>
            Save mine over it
          </Button>
        </div>
      ) : null}
    </div>
  ) : null;

/** Lines in the place of what is coming, at first only. */
export const Coming = ({ lines = 8 }: { lines?: number }) => (
  <div className="page" role="status" aria-label="Loading">
    {Array.from({ length: lines }, (_, index) => (
      <Skeleton key={`line-${index + 1}`} height={14} mb={16} width={`${92 - ((index * 17) % 40)}%`} />
    ))}
  </div>
);
