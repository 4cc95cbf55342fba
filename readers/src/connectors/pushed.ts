import { runSteps } from './steps.ts';
import { type Connector, SourceProblem } from './types.ts';

/** A source that is not read: programs tell what it holds. @param how they do, in words */
const toldBy = (how: string, mend: string): Connector => ({
  test: () => runSteps([['Connect', async () => `Nothing is connected to: ${how}.`]]),
  open: async () => {
    throw new SourceProblem(`Nothing is read of this source: ${how}.`, mend);
  },
});

export const pushed = toldBy(
  'programs push what this source holds',
  'Send what the source holds to POST /api/v1/sources/<id>/push; the API reference shows how.',
);
export const drawn = toldBy(
  'people draw what it holds, beside what they document',
  'Say in the picture of lineage where something comes from: what is not in the catalog is added there.',
);
export const events = toldBy(
  'pipelines send events of their runs',
  'Make a key on the page of the source, and let pipelines send their events to POST /api/v1/lineage with it.',
);
