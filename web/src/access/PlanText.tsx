import { Button, CopyButton, Group } from '@mantine/core';
import { useState } from 'react';
import { saveText } from '../app/files.ts';
import { Code } from '../marks/Code.tsx';

/** The statements of a plan, and those that take it back: to be read, copied or kept as a file. @param name what the file is called after */
export function PlanText({ name, text, back }: { name: string; text: string; back: string }) {
  const [shown, setShown] = useState<'text' | 'back'>('text');
  const statements = shown === 'text' ? text : back;
  return (
    <>
      <Group>
        <Button
          variant={shown === 'text' ? 'light' : 'default'}
          aria-pressed={shown === 'text'}
          onClick={() => setShown('text')}
        >
          The plan
        </Button>
        <Button
          variant={shown === 'back' ? 'light' : 'default'}
          aria-pressed={shown === 'back'}
          onClick={() => setShown('back')}
        >
          What takes it back
        </Button>
        <CopyButton value={statements}>
          {({ copied, copy }) => (
            <Button variant="subtle" onClick={copy}>
              {copied ? 'Copied' : 'Copy it'}
            </Button>
          )}
        </CopyButton>
        <Button
          variant="subtle"
          onClick={() =>
            saveText({
              name: `${name}, ${shown === 'text' ? 'plan' : 'taken back'}.sql`,
              type: 'application/sql',
              text: statements,
            })
          }
        >
          Save as a file
        </Button>
      </Group>
      <Code text={statements} language="sql" />
    </>
  );
}
