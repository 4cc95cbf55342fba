import type { accessEndpoints } from '@idrel/contract/access';
import type { AnswerOf } from '@idrel/contract/http';
import { Button, Group, Select, Stack, TextInput } from '@mantine/core';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Trouble } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { afterDay, lastDay } from './Conditions.tsx';
import { useChangeDeputyMutation, useDeputyQuery } from './requestsApi.ts';

/** The beginning of a day where one looks, as a date field says it. */
const firstDay = (from: string): string => lastDay(new Date(Date.parse(from) + 1).toISOString());
const fromDay = (day: string): string | null => {
  const after = afterDay(day);
  if (after === null) return null;
  const end = new Date(after);
  return new Date(end.getFullYear(), end.getMonth(), end.getDate() - 1).toISOString();
};

/** Who answers requests for access while somebody is away. */
export function Away({ person }: { person: string }) {
  const { data, error } = useDeputyQuery(person);
  if (error) return <Trouble error={error} what="Who stands in for you cannot be shown" />;
  if (!data) return null;
  return <Form key={person} person={person} data={data} />;
}

interface Values {
  deputyId: string | null;
  from: string | null;
  until: string | null;
}
type Deputy = AnswerOf<typeof accessEndpoints.deputy>;
const valuesOf = ({ deputy, from, until }: Pick<Deputy, 'deputy' | 'from' | 'until'>): Values => ({
  deputyId: deputy?.id ?? null,
  from,
  until,
});

function Form({ person, data }: { person: string; data: Deputy }) {
  const people = usePeopleQuery();
  const [change] = useChangeDeputyMutation();
  const edit = useEditForm<Values, Deputy>({
    key: `deputy:${person}`,
    now: { version: data.version, values: valuesOf(data) },
    fresh: valuesOf(data),
    valuesOf,
    async send(body, version) {
      await change({ id: person, version, body }).unwrap();
      const deputy = people.data?.find(({ id }) => id === body.deputyId);
      return {
        ...data,
        deputy: deputy ? { id: deputy.id, name: deputy.name } : null,
        from: body.from,
        until: body.until,
        version: version + 1,
      };
    },
    done: ({ deputy }) =>
      sayDone(deputy ? `${deputy.name} answers requests for you while you are away.` : 'You answer requests yourself.'),
  });
  const { values, put, form } = edit;
  const none = () =>
    void change({ id: person, version: data.version, body: { deputyId: null, from: null, until: null } })
      .unwrap()
      .then(
        () => {
          edit.discard();
          sayDone('You answer requests yourself.');
        },
        (problem: unknown) => sayProblem(problem, 'It was not changed'),
      );
  return (
    <Stack
      component="form"
      aria-label="While you are away"
      maw={640}
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <p className="quiet">
        Requests for access to what you own are then answered by somebody else as well, under their own name. They get
        no other right of yours, and must be able to see what is asked for.
      </p>
      {data.standsInFor.map(({ name, until }) => (
        <p key={name}>
          You answer for {name} until the end of {lastDay(until)}.
        </p>
      ))}
      <Group align="flex-end" wrap="wrap">
        <Select
          className="grow"
          label="Who answers"
          searchable
          clearable
          placeholder="Nobody but you"
          data={(people.data ?? [])
            .filter(({ id }) => id !== person)
            .map(({ id, name }) => ({ value: id, label: name }))}
          value={values.deputyId}
          error={form.errors.deputyId}
          onChange={(deputyId) => put({ deputyId })}
        />
        <TextInput
          type="date"
          label="From"
          description="Empty: from now"
          w={170}
          value={values.from === null ? '' : firstDay(values.from)}
          onChange={(event) => put({ from: fromDay(event.currentTarget.value) })}
        />
        <TextInput
          type="date"
          label="Until the end of"
          w={170}
          value={values.until === null ? '' : lastDay(values.until)}
          error={form.errors.until}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
      </Group>
      <FormNotice edit={edit} words={{ deputyId: 'Who answers', from: 'From', until: 'Until the end of' }} />
      <Group>
        <Button
          type="submit"
          variant="default"
          loading={edit.saving}
          disabled={!edit.differs || (values.deputyId !== null && values.until === null) || edit.clashes.length > 0}
        >
          Save it
        </Button>
        {data.deputy ? (
          <Button variant="subtle" onClick={none}>
            I am back
          </Button>
        ) : null}
      </Group>
    </Stack>
  );
}
