import type { NativeRoleAnswer } from '@idrel/contract/access';
import { Checkbox, Group, MultiSelect } from '@mantine/core';
import { Fragment, useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useOurGroups, usePeopleQuery } from '../people/index.ts';
import { useMatchRoleMutation, useNativeRolesQuery } from './api.ts';

/** Roles at a source, and who comes in as them. */
export function NativeRoles({ id, back }: { id: string; back: () => void }) {
  const { data, error, refetch } = useNativeRolesQuery(id);
  const [open, setOpen] = useState<string | null>(null);
  const [match] = useMatchRoleMutation();
  if (error) return <Trouble error={error} what="The roles cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const take = (role: NativeRoleAnswer, { id: party, name, isGroup }: NativeRoleAnswer['suggestions'][number]) =>
    void match({
      id,
      version: role.version,
      body: { role: role.name, personIds: isGroup ? [] : [party], groupIds: isGroup ? [party] : [], program: false },
    })
      .unwrap()
      .then(
        () => sayDone(`${name} comes in as ${role.name}.`),
        (problem: unknown) => sayProblem(problem, 'It was not said'),
      );
  return (
    <div className="stack">
      <div>
        <button type="button" className="linkish" onClick={back}>
          All rights
        </button>
        <h2>Who comes in as which role</h2>
        <p className="quiet">
          {data.readAt ? (
            <>
              Roles as they were read <When at={data.readAt} />.{' '}
            </>
          ) : null}
          What is said here decides whose policies a right is compared with. Of a role of which nothing was said, the
          policies for everyone hold.
        </p>
      </div>
      {data.roles.length === 0 ? (
        <Empty title="No roles were read">
          <p>They are read with the next scan, from sources that have rights of their own.</p>
        </Empty>
      ) : (
        <Listing heads={['Role', 'Member of', 'Who comes in as it', 'Said', heard('What to do')]}>
          {[...data.roles].sort(nearFirst).map((role) => (
            <Fragment key={role.name}>
              <tr>
                <td className="mono">
                  {role.name}
                  {role.superuser ? <div className="quiet small">a superuser</div> : null}
                </td>
                <td className="mono">{role.memberOf.join(', ')}</td>
                <td>
                  <Parties role={role} mayMatch={data.mayMatch} take={take} />
                </td>
                <td className="oneline quiet">
                  {role.said ? (
                    <>
                      {role.said.by ?? 'somebody who has left'} <When at={role.said.at} />
                    </>
                  ) : null}
                </td>
                <td className="oneline">
                  {role.login && role.comesIn && !role.scans && data.mayMatch ? (
                    <button
                      type="button"
                      className="linkish"
                      aria-label={`Say who comes in as ${role.name}`}
                      aria-expanded={open === role.name}
                      onClick={() => setOpen(open === role.name ? null : role.name)}
                    >
                      Say who
                    </button>
                  ) : null}
                </td>
              </tr>
              {open === role.name ? (
                <tr>
                  <td colSpan={5}>
                    <MatchForm source={id} role={role} close={() => setOpen(null)} />
                  </td>
                </tr>
              ) : null}
            </Fragment>
          ))}
        </Listing>
      )}
    </div>
  );
}

/** Those that come in before those that do not; else as they came. */
const nearFirst = (one: NativeRoleAnswer, other: NativeRoleAnswer): number =>
  Number(other.login && other.comesIn) - Number(one.login && one.comesIn);

function Parties({
  role,
  mayMatch,
  take,
}: {
  role: NativeRoleAnswer;
  mayMatch: boolean;
  take: (role: NativeRoleAnswer, suggestion: NativeRoleAnswer['suggestions'][number]) => void;
}) {
  if (role.scans) return <span className="quiet">Idrel’s own: no person comes in as it</span>;
  if (!role.login) return <span className="quiet">nobody: it only holds rights</span>;
  if (!role.comesIn) return <span className="quiet">it may not come into this database</span>;
  if (role.program) return <>a program</>;
  const names = [...role.people, ...role.groups].map(({ name }) => name);
  if (names.length > 0) return <>{names.join(', ')}</>;
  if (role.suggestions.length === 0) return <span className="quiet">nobody said it yet</span>;
  return (
    <Group gap={8} wrap="wrap">
      <span className="quiet">perhaps</span>
      {role.suggestions.map((suggestion) =>
        mayMatch ? (
          <button
            key={suggestion.id}
            type="button"
            className="chip"
            title={`${role.name} ${suggestion.why}`}
            onClick={() => take(role, suggestion)}
          >
            {suggestion.name}
          </button>
        ) : (
          <span key={suggestion.id}>{suggestion.name}</span>
        ),
      )}
    </Group>
  );
}

interface Match {
  personIds: readonly string[];
  groupIds: readonly string[];
  program: boolean;
}
const fieldsOf = ({ people, groups, program }: NativeRoleAnswer): Match => ({
  personIds: people.map(({ id }) => id),
  groupIds: groups.map(({ id }) => id),
  program,
});

function MatchForm({ source, role, close }: { source: string; role: NativeRoleAnswer; close: () => void }) {
  const [match] = useMatchRoleMutation();
  const people = usePeopleQuery();
  const groups = useOurGroups();
  const edit = useEditForm<Match, NativeRoleAnswer>({
    key: `role:${source}:${role.name}`,
    now: { version: role.version, values: fieldsOf(role) },
    fresh: { personIds: [], groupIds: [], program: false },
    valuesOf: fieldsOf,
    send: (values, version) => match({ id: source, version, body: { role: role.name, ...values } }).unwrap(),
    done: () => {
      sayDone(`It is said who comes in as ${role.name}.`);
      close();
    },
  });
  const { values, put } = edit;
  const options = (list: readonly { id: string; name: string }[] | undefined) =>
    (list ?? []).map(({ id, name }) => ({ value: id, label: name }));
  const nameIn = (list: readonly { id: string; name: string }[] | undefined) => (ids: unknown) =>
    (ids as readonly string[]).map((id) => list?.find((one) => one.id === id)?.name ?? '…').join(', ');
  return (
    <form
      className="stack"
      aria-label={`Who comes in as ${role.name}`}
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <FormNotice
        edit={edit}
        words={{
          personIds: ['People', nameIn(people.data)],
          groupIds: ['Groups', nameIn(groups.data)],
          program: 'A program',
        }}
      />
      <Group wrap="wrap" align="flex-end">
        <MultiSelect
          className="grow"
          label="People"
          searchable
          disabled={values.program}
          data={options(people.data)}
          value={[...values.personIds]}
          onChange={(personIds) => put({ personIds })}
        />
        <MultiSelect
          className="grow"
          label="Groups"
          searchable
          disabled={values.program}
          data={options(groups.data)}
          value={[...values.groupIds]}
          onChange={(groupIds) => put({ groupIds })}
        />
        <Checkbox
          mb={7}
          label="A program, nobody else"
          checked={values.program}
          onChange={(event) =>
            put(event.currentTarget.checked ? { program: true, personIds: [], groupIds: [] } : { program: false })
          }
        />
        <StripButtons edit={edit} words="Save" ready={edit.differs} close={close} />
      </Group>
    </form>
  );
}
