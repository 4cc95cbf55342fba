import type { BulkEditAnswer, Choice, ManyAction } from '@idrel/contract/curation';
import { useEffect, useRef, useState } from 'react';
import { problemOf } from '../app/api.ts';
import { sayProblem } from '../app/say.ts';
import { usePrepareBulkEditMutation, useStartBulkEditMutation } from './manyApi.ts';

/** What an action would do to what was chosen, as soon as one is told, and the way to do it. @param begun called once it is under way */
export function usePrepared(choice: Choice, action: ManyAction | null, begun: () => void) {
  const [prepare, preparing] = usePrepareBulkEditMutation();
  const [start, starting] = useStartBulkEditMutation();
  const [seen, setSeen] = useState<BulkEditAnswer>();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const asked = useRef(0);
  const wanted = JSON.stringify({ choice, action });
  useEffect(() => {
    asked.current += 1;
    const mine = asked.current;
    setSeen(undefined);
    setProblem(null);
    const { action: given, ...rest } = JSON.parse(wanted) as Parameters<typeof prepare>[0];
    if (!given) return undefined;
    // What is still typed, as the value of a tag, is asked for once it rests; an answer that comes late is not shown.
    const waiting = setTimeout(() => {
      prepare({ action: given, ...rest })
        .unwrap()
        .then(
          (answer) => mine === asked.current && setSeen(answer),
          (error: unknown) => mine === asked.current && setProblem(problemOf(error)),
        );
    }, 250);
    return () => clearTimeout(waiting);
  }, [wanted, prepare]);
  const go = async () => {
    if (!seen) return;
    try {
      await start(seen.id).unwrap();
      begun();
    } catch (error) {
      sayProblem(error, 'Nothing was changed');
    }
  };
  return { seen, problem, looking: preparing.isLoading, go, starting: starting.isLoading };
}
