import { Button, FileButton, Group } from '@mantine/core';
import type { ReactNode } from 'react';
import { ProblemNotice } from '../marks/states.tsx';
import type { useTakenIn } from './useTakenIn.ts';

/** Chooses the file that is taken in, and says which one it is and what is wrong with it. */
export const ChooseFile = ({
  file: { read, busy, problem, choose },
  accept,
  called = 'file',
  children,
  also,
}: {
  file: Pick<ReturnType<typeof useTakenIn<{ readonly seen: string }>>, 'busy' | 'problem' | 'choose'> & {
    readonly read: { readonly name: string } | undefined;
  };
  accept: string;
  called?: string;
  /** What stands beside it while none is chosen. */
  children?: ReactNode;
  /** What stands beside it always. */
  also?: ReactNode;
}) => (
  <>
    <Group>
      <FileButton onChange={choose} accept={accept}>
        {(props) => (
          <Button {...props} variant={read ? 'default' : 'filled'} loading={busy && !read}>
            {read ? `Choose another ${called}` : `Choose a ${called}`}
          </Button>
        )}
      </FileButton>
      {read ? <span className="mono small">{read.name}</span> : children}
      {also}
    </Group>
    <ProblemNotice problem={problem} />
  </>
);
