import { notifications } from '@mantine/notifications';
import { createElement } from 'react';
import { problemOf } from './api.ts';

const CLOSE = { closeButtonProps: { 'aria-label': 'Close this message' } };

/** Says that something went wrong: what, what is still right, what to do. */
export function sayProblem(error: unknown, what: string): void {
  const problem = problemOf(error);
  notifications.show({
    title: what,
    message: [problem.detail, problem.mend].filter(Boolean).join(' '),
    color: 'buoy.7',
    autoClose: 9000,
    ...CLOSE,
  });
}

/** What a change that was asked for came to: it fails by throwing, or by answering with its error. */
async function failure(work: () => unknown): Promise<unknown> {
  try {
    const answer = await work();
    return answer && typeof answer === 'object' && 'error' in answer ? answer.error : undefined;
  } catch (error) {
    return error;
  }
}

/**
 * Says that something was done, with the way to take it back.
 * @param undo takes it back; where that fails, it is said
 */
export function sayDone(what: string, undo?: () => unknown): void {
  const id = notifications.show({
    message: createElement(
      'span',
      {},
      what,
      undo
        ? createElement(
            'button',
            {
              type: 'button',
              className: 'linkish',
              style: { marginLeft: 10 },
              onClick: () => {
                notifications.hide(id);
                void failure(undo).then((error) => error && sayProblem(error, 'It could not be taken back'));
              },
            },
            'Undo',
          )
        : null,
    ),
    color: 'kelp.7',
    // Whoever reads slowly, or with a screen reader, gets to the way back in time.
    autoClose: undo ? 20_000 : 4000,
    ...CLOSE,
  });
}
