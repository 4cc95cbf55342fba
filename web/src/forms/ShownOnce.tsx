import { Box, Button, CopyButton, Group } from '@mantine/core';
import type { ReactNode } from 'react';

/** A key or a secret, this once. @param what it is, in a word @param children what can be done with it */
export const ShownOnce = ({
  what,
  secret,
  words,
  done,
  children,
}: {
  what: string;
  secret: string;
  words: string;
  done: () => void;
  children?: ReactNode;
}) => (
  <Box className="notice calm" mt={10}>
    <p>
      <strong>The {what} is not shown again.</strong> {words}
    </p>
    <pre className="code after">{secret}</pre>
    {children}
    <Group mt={8}>
      <CopyButton value={secret}>
        {({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : `Copy the ${what}`}</Button>}
      </CopyButton>
      <Button variant="subtle" onClick={done}>
        I have it
      </Button>
    </Group>
  </Box>
);
