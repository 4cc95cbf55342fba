import { CONNECTORS, type Reading } from '@idrel/readers/connectors';
import { ApiProblem, conflict } from '../platform/problems.ts';
import type { connectorInput } from '../sources/index.ts';

/** What is read of a source while somebody waits takes at most so long. */
const SECONDS = 30;

/** @throws 409 when only agents reach the source */
export function mustReach(source: { readonly name: string; readonly agentGroup: string | null }, what: string): void {
  if (source.agentGroup)
    throw conflict(
      'agent-only',
      `${source.name} is read by agents alone: its ${what} do not come here.`,
      'Ask who runs the agent for an extract.',
    );
}

/**
 * Opens a source for one thing that somebody waits for, and closes it again.
 * @param what is read, in words of the errors
 * @throws 502 when the source does not answer, or not with that
 */
export async function withReading<T>(
  input: Awaited<ReturnType<typeof connectorInput>>,
  left: AbortSignal,
  what: string,
  work: (reading: Reading) => Promise<T>,
): Promise<T> {
  const reading = await CONNECTORS[input.kind].open(input).catch((error: Error & { mend?: string }) => {
    throw new ApiProblem('source-error', error.message, { mend: error.mend ?? 'Test the connection of the source.' });
  });
  let late = false;
  const stop = () => reading.abort();
  const timer = setTimeout(() => {
    late = true;
    stop();
  }, SECONDS * 1000);
  left.addEventListener('abort', stop);
  try {
    return await work(reading);
  } catch (error) {
    if (error instanceof ApiProblem) throw error;
    if (left.aborted) throw new ApiProblem('gone', 'The reader went away.');
    if (late)
      throw new ApiProblem('query-stopped', `The source did not give the ${what} within ${SECONDS} seconds.`, {
        mend: 'Try again when it is less busy.',
      });
    // The text of the error can hold values, also such as are not to be seen.
    throw new ApiProblem('source-error', `${input.name} could not give ${what} of it.`, {
      mend: 'It can be gone or changed there since the last scan, closed to the account that reads, or broken: scan the source again, its run tells which.',
    });
  } finally {
    clearTimeout(timer);
    left.removeEventListener('abort', stop);
    await reading.close().catch(() => undefined);
  }
}
