import type { TestStep } from '@idrel/contract/sources';
import { SourceProblem } from './types.ts';

/** Runs named steps in order, timing each; the first that throws fails, and the rest is not reached. */
export async function runSteps(
  steps: readonly (readonly [name: string, run: () => Promise<string>])[],
): Promise<TestStep[]> {
  const results: TestStep[] = [];
  let failed = false;
  for (const [step, run] of steps) {
    if (failed) {
      results.push({ step, state: 'not reached', detail: '', milliseconds: 0 });
      continue;
    }
    const started = performance.now();
    const took = () => Math.round(performance.now() - started);
    try {
      results.push({ step, state: 'passed', detail: await run(), milliseconds: took() });
    } catch (error) {
      failed = true;
      const problem =
        error instanceof SourceProblem
          ? error
          : new SourceProblem(
              error instanceof Error ? error.message : String(error),
              'Check the address of the source.',
            );
      results.push({ step, state: 'failed', detail: problem.message, mend: problem.mend, milliseconds: took() });
    }
  }
  return results;
}
