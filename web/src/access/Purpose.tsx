import { Button, Group } from '@mantine/core';

/** Purposes of which stating one opens more: who states one says what they read for, and it is noted with what they asked. */
export function Purpose({
  purposes,
  stated,
  state,
}: {
  purposes: readonly string[];
  stated: string | null;
  state: (purpose: string | null) => void;
}) {
  return (
    <Group gap={8} role="group" aria-label="What it is read for">
      <span>More can be read for a purpose. It is noted who stated which.</span>
      {purposes.map((purpose) => (
        <Button key={purpose} variant="default" size="compact-sm" onClick={() => state(purpose)}>
          {purpose}
        </Button>
      ))}
      {stated === null ? null : (
        <Button variant="subtle" size="compact-sm" onClick={() => state(null)}>
          State none
        </Button>
      )}
    </Group>
  );
}
