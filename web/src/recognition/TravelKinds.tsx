import type { TravelKind } from '@idrel/core/catalog';
import { TRAVEL_KINDS } from '@idrel/core/catalog';
import { Checkbox, type CheckboxGroupProps, Group } from '@mantine/core';

/** What can happen to a value, and a class or a tag still goes on with it. */
export function TravelKinds(group: Omit<CheckboxGroupProps<TravelKind>, 'children' | 'label'>) {
  return (
    <Checkbox.Group label="Travels downstream where the value is" {...group}>
      <Group mt={4}>
        {TRAVEL_KINDS.map((kind) => (
          <Checkbox key={kind} value={kind} label={kind} />
        ))}
      </Group>
    </Checkbox.Group>
  );
}
