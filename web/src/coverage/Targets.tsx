import type { Measure, Target, TargetBody } from '@idrel/contract/coverage';
import { Button, Group, Select, TextInput } from '@mantine/core';
import dayjs from 'dayjs';
import { useState } from 'react';
import { Link } from 'react-router';
import { useKeys } from '../app/keys.tsx';
import { sayDone } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { removing } from '../forms/Frame.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Evidence, percent } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useRemoveTargetMutation, useSaveTargetMutation, useTargetsQuery } from './api.ts';

const dayOf = (day: string) => dayjs(day).format('D MMM YYYY');

/** How a target goes, in words. */
export function courseInWords({ state, now, share, due, pace, reachedOn, byDay }: Target): string {
  if (state === 'met') return 'reached';
  const short = `${((share - now) * 100).toFixed(1)} points to go`;
  if (state === 'missed') return `its day is over, ${short}`;
  const leads =
    pace === null
      ? 'its pace is not known yet'
      : reachedOn === null
        ? 'at the pace of the last 30 days it is not reached'
        : `at the pace of the last 30 days it is reached on ${dayOf(reachedOn)}${reachedOn > byDay ? ', too late' : ''}`;
  return state === 'behind' ? `${short}; ${percent(due)} would be due today; ${leads}` : `${short}; ${leads}`;
}

/** Targets of domains: how they stand, and where they lead. */
export function Targets() {
  const { data, error, refetch } = useTargetsQuery();
  const [open, setOpen] = useState<string | null>(null);
  const [remove] = useRemoveTargetMutation();
  const [save] = useSaveTargetMutation();
  const mayAdd = (data?.mayAdd.length ?? 0) > 0;
  useKeys('Targets', [{ key: 'n', what: 'new target', act: () => mayAdd && setOpen('new') }]);
  if (error && !data) return <Trouble error={error} what="The targets cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const destroy = (target: Target) =>
    removing(remove(target.id).unwrap(), 'The target was not removed', () =>
      sayDone('The target is removed.', () => save({ id: null, version: 0, body: bodyOf(target) })),
    );
  const labelOf = (key: string) => data.measures.find((measure) => measure.key === key)?.label ?? key;
  const changed = data.targets.find(({ id }) => id === open);
  return (
    <>
      <div className="head level-with">
        <p className="quiet grow">
          What domains mean to reach by when, with what lies below them. Who looks after a domain as its steward sets
          them.
        </p>
        {mayAdd ? (
          <Button onClick={() => setOpen('new')} disabled={open !== null}>
            New target
          </Button>
        ) : null}
      </div>
      {open === 'new' || changed ? (
        <TargetForm
          key={open}
          target={changed}
          measures={data.measures}
          domains={data.mayAdd}
          close={() => setOpen(null)}
        />
      ) : null}
      {data.targets.length === 0 ? (
        <Empty title="No targets yet">
          <p>
            A target says which share of a domain’s assets is to be owned, described, certified and so on by a day. It
            is shown here how it goes, and whether it is reached at the present pace.
          </p>
        </Empty>
      ) : (
        <Listing
          heads={['Domain', 'Measure', 'Now', num('Target'), 'By', 'Stands', 'Where it leads', heard('What to do')]}
          label="Targets"
        >
          {data.targets.map((target) => (
            <tr key={target.id} aria-current={target.id === open}>
              <td>{target.domain}</td>
              <td>{labelOf(target.measure)}</td>
              <td>
                <Evidence share={target.now} narrow />
              </td>
              <td className="num">{percent(target.share)}</td>
              <td className="day">{dayOf(target.byDay)}</td>
              <td>
                <span className={`aim is-${target.state.replace(' ', '-')}`}>{target.state}</span>
              </td>
              <td className="small">
                {courseInWords(target)}
                {target.now < 1 ? (
                  <>
                    {'. '}
                    <Link className="linked" to={opens(target.filter)}>
                      What lacks it
                    </Link>
                  </>
                ) : null}
              </td>
              <td>
                {target.mayChange ? (
                  <Group gap={2} wrap="nowrap">
                    <Button
                      variant="subtle"
                      size="compact-xs"
                      aria-label={`Change: ${target.domain}, ${labelOf(target.measure)}`}
                      onClick={() => setOpen(target.id)}
                    >
                      Change
                    </Button>
                    <Button
                      variant="subtle"
                      size="compact-xs"
                      c="var(--buoy)"
                      aria-label={`Remove: ${target.domain}, ${labelOf(target.measure)}`}
                      onClick={() => destroy(target)}
                    >
                      Remove
                    </Button>
                  </Group>
                ) : null}
              </td>
            </tr>
          ))}
        </Listing>
      )}
    </>
  );
}

type Draft = { -readonly [K in keyof TargetBody]: TargetBody[K] };
const bodyOf = ({ domainId, measure, share, byDay, since }: Target): Draft => ({
  domainId,
  measure,
  share,
  byDay,
  since,
});

function TargetForm({
  target,
  measures,
  domains,
  close,
}: {
  target: Target | undefined;
  measures: readonly Measure[];
  domains: readonly { readonly id: string; readonly name: string }[];
  close: () => void;
}) {
  const [save] = useSaveTargetMutation();
  const edit = useEditForm<Draft, Target>({
    key: `target:${target?.id ?? 'new'}`,
    now: target ? { version: target.version, values: bodyOf(target) } : null,
    fresh: {
      domainId: '',
      measure: 'owned',
      share: 0.8,
      byDay: dayjs().add(3, 'month').endOf('month').format('YYYY-MM-DD'),
    },
    valuesOf: bodyOf,
    send: (body, version) => save({ id: target?.id ?? null, version, body }).unwrap(),
    done: (saved, before) => {
      sayDone(
        `${saved.domain}: the target is ${target ? 'changed' : 'set'}.`,
        target ? () => save({ id: saved.id, version: saved.version, body: before }) : undefined,
      );
      close();
    },
  });
  const { values, put, form } = edit;
  return (
    <form
      className="toolbar stack"
      aria-label={target ? 'Change the target' : 'New target'}
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-end" wrap="wrap">
        <Select
          label="Domain"
          data={domains.map(({ id, name }) => ({ value: id, label: name }))}
          value={values.domainId || null}
          onChange={(value) => put({ domainId: value ?? '' })}
          error={form.errors.domainId}
          searchable
          w={220}
        />
        <Select
          label="Measure"
          data={measures.map(({ key, label }) => ({ value: key, label }))}
          value={values.measure}
          onChange={(value) => put({ measure: value ?? 'owned' })}
          error={form.errors.measure}
          allowDeselect={false}
          w={190}
        />
        <NumberField
          label="Share"
          suffix=" %"
          min={1}
          max={100}
          value={Math.round(values.share * 100)}
          put={(value) => put({ share: value / 100 })}
          w={100}
        />
        <TextInput type="date" label="By" {...form.getInputProps('byDay')} />
        <StripButtons
          edit={edit}
          words={target ? 'Save the target' : 'Set the target'}
          ready={values.domainId !== '' && values.byDay !== ''}
          close={close}
        />
      </Group>
      <FormNotice
        edit={edit}
        words={{
          domainId: ['Domain', (id) => domains.find((one) => one.id === id)?.name ?? ''],
          measure: ['Measure', (key) => measures.find((one) => one.key === key)?.label ?? ''],
          share: ['Share', (share) => percent(share as number)],
          byDay: 'By',
        }}
      />
    </form>
  );
}
