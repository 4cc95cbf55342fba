import type { Holding, PersonAnswer } from '@idrel/contract/people';
import { Button, Group, Select, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, plural } from '../marks/index.tsx';
import { Coming, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useComeBackMutation, useHoldingsQuery, useLeaveMutation, usePeopleQuery } from './api.ts';

/** What somebody answers for and has kept, and the step in which they leave: to whom it all goes is chosen before. */
export function Leaving({ person }: { person: PersonAnswer }) {
  const { data, error, refetch } = useHoldingsQuery(person.id);
  const [comeBack] = useComeBackMutation();
  const [open, setOpen] = useState(false);
  if (error) return <Trouble error={error} what="What they hold cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  if (person.leftAt)
    return (
      <div>
        <Button
          variant="default"
          onClick={() =>
            void comeBack(person.id)
              .unwrap()
              .then(
                () => sayDone(`${person.name} is back. Groups and roles are given anew.`),
                (failed: unknown) => sayProblem(failed, 'They did not come back'),
              )
          }
        >
          Let them come back
        </Button>
      </div>
    );
  return (
    <section aria-label="What they hold" className="stack under">
      <h2>What they hold</h2>
      {data.length === 0 ? <p className="quiet">They answer for nothing, and have kept nothing.</p> : null}
      {data.map((holding) => (
        <One key={holding.what} holding={holding} leaving={open} />
      ))}
      {open ? (
        <Form key={person.id} person={person} holdings={data} close={() => setOpen(false)} />
      ) : (
        <div>
          <Button variant="default" onClick={() => setOpen(true)}>
            {person.name} leaves …
          </Button>
        </div>
      )}
    </section>
  );
}

function One({ holding: { what, count: n, first, after }, leaving }: { holding: Holding; leaving: boolean }) {
  return (
    <details open={n <= 5}>
      <summary>
        {what}: {count(n)}
        {leaving ? <span className="quiet small"> · {after}</span> : null}
      </summary>
      <ul className="bare held">
        {first.map(({ name, address }) => (
          <li key={address ?? name} className="mono small cut">
            {address ? <Link to={address}>{name}</Link> : name}
          </li>
        ))}
        {n > first.length ? <li className="quiet small">and {count(n - first.length)} more</li> : null}
      </ul>
    </details>
  );
}

function Form({ person, holdings, close }: { person: PersonAnswer; holdings: readonly Holding[]; close: () => void }) {
  const people = usePeopleQuery();
  const [leave, { error, isLoading }] = useLeaveMutation();
  const [to, setTo] = useState<string | null>(null);
  const seen = holdings.reduce((sum, holding) => sum + holding.count, 0);
  const go = () =>
    void leave({ id: person.id, to: to === '' ? null : to, seen })
      .unwrap()
      .then(
        () => {
          sayDone(`${person.name} has left.`);
          close();
        },
        () => undefined, // said beside the form
      );
  return (
    <Stack className="notice" role="group" aria-label={`${person.name} leaves`}>
      <strong>
        {person.name} leaves: {plural(seen, 'thing')} to pass on, {plural(person.groups.length, 'group')} and{' '}
        {plural(person.grants.length, 'role')} end, every session of theirs ends now.
      </strong>
      <Group align="flex-end">
        <Select
          label="All of it goes to"
          w={260}
          searchable
          placeholder="Choose a person, or nobody"
          data={[
            { value: '', label: 'nobody: it waits for an owner' },
            ...(people.data ?? [])
              .filter(({ id }) => id !== person.id)
              .map(({ id, name }) => ({ value: id, label: name })),
          ]}
          value={to}
          onChange={setTo}
        />
        <Button onClick={go} loading={isLoading} disabled={seen > 0 && to === null}>
          They leave
        </Button>
        <Button variant="default" onClick={close}>
          They stay
        </Button>
      </Group>
      <ProblemNotice problem={error ? problemOf(error) : null} />
    </Stack>
  );
}
