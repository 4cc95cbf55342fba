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

/** Says that something was done, with the way to take it back. */
export function sayDone(what: string, undo?: () => void): void {
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
                undo();
              },
            },
            'Undo',
          )
        : null,
    ),
    color: 'kelp.7',
    autoClose: undo ? 9000 : 4000,
    ...CLOSE,
  });
}
