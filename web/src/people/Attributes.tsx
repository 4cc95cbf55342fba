import type { PersonBody } from '@idrel/contract/people';
import { Autocomplete, Button, Group, Stack, TagsInput } from '@mantine/core';

type Given = NonNullable<PersonBody['attributes']>;

/** Keys that are offered before anybody has one. */
const KEYS = ['organisation', 'port', 'country', 'team'];

/** What is known of a person that policies can ask for: which rows they see, and for whom digests are equal. */
export function Attributes({
  may,
  attributes,
  put,
}: {
  may: boolean;
  attributes: Given;
  put: (attributes: Given) => void;
}) {
  const change = (at: number, changes: Partial<Given[number]>) =>
    put(attributes.map((entry, index) => (index === at ? { ...entry, ...changes } : entry)));
  return (
    <fieldset className="roles" disabled={!may}>
      <legend>What policies can ask for</legend>
      <Stack gap={6}>
        {attributes.length === 0 ? (
          <span className="quiet">nothing: of tables whose rows are limited by such, they see none</span>
        ) : null}
        {attributes.map(({ key, values }, at) => (
          <Group key={`attribute-${at + 1}`} gap={8}>
            <Autocomplete
              aria-label={`Name of attribute ${at + 1}`}
              placeholder="port"
              w={160}
              data={KEYS}
              value={key}
              onChange={(next) => change(at, { key: next })}
            />
            <TagsInput
              aria-label={`Values of attribute ${at + 1}`}
              className="grow"
              placeholder={values.length > 0 ? '' : 'values'}
              value={[...values]}
              onChange={(next) => change(at, { values: next })}
            />
            {may ? (
              <Button
                variant="subtle"
                size="compact-sm"
                aria-label={`Take away attribute ${at + 1}`}
                onClick={() => put(attributes.filter((_, index) => index !== at))}
              >
                Take away
              </Button>
            ) : null}
          </Group>
        ))}
        {may ? (
          <div>
            <Button variant="default" size="compact-sm" onClick={() => put([...attributes, { key: '', values: [] }])}>
              Add an attribute
            </Button>
          </div>
        ) : null}
      </Stack>
    </fieldset>
  );
}
