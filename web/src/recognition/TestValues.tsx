import { Group } from '@mantine/core';

export const TestValues = ({
  words,
  values,
  remove,
}: {
  words: string;
  values: readonly string[];
  remove: (value: string) => void;
}) =>
  values.length === 0 ? null : (
    <Group mt={6} gap={4} wrap="wrap">
      <span className="quiet small">{words}:</span>
      {values.map((value) => (
        <button
          key={value}
          type="button"
          className="chip mono value"
          title="Press to take it out"
          aria-label={`Take ${value} out of the tests`}
          onClick={() => remove(value)}
        >
          {value}
        </button>
      ))}
    </Group>
  );
