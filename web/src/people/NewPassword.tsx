import { PasswordInput } from '@mantine/core';
import type { AnyProblem } from '../app/api.ts';
import { ProblemNotice } from '../marks/states.tsx';

/** A field for a new password, with what is asked of it, and what was wrong with the last one. */
export function NewPassword({
  value,
  change,
  problem,
}: {
  value: string;
  change: (password: string) => void;
  problem: AnyProblem | null;
}) {
  const field = problem?.fields?.find((entry) => entry.field === 'password');
  return (
    <>
      <PasswordInput
        label="New password"
        description="At least 12 characters, of any kind; not one that is easily guessed. Four words at random are good."
        required
        value={value}
        onChange={(event) => change(event.currentTarget.value)}
        autoComplete="new-password"
        error={field ? `It ${field.message}.` : undefined}
        visibilityToggleButtonProps={{ 'aria-label': 'Show the new password' }}
      />
      <ProblemNotice problem={field ? null : problem} />
    </>
  );
}
