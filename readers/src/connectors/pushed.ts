import { runSteps } from './steps.ts';
import { type Connector, SourceProblem } from './types.ts';

const MEND = 'Send what the source holds to POST /api/v1/sources/<id>/push; the API reference shows how.';

/** A source that is not read: programs push what it holds. */
export const pushed: Connector = {
  test: () => runSteps([['Connect', async () => 'Nothing is connected to: programs push what this source holds.']]),
  open: async () => {
    throw new SourceProblem('Nothing is read of this source: programs push what it holds.', MEND);
  },
};
