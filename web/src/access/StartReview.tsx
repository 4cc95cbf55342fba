import type { ReviewBody } from '@idrel/contract/access';
import { parseFilter } from '@idrel/core/catalog';
import { Checkbox, Group, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useRef } from 'react';
import { problemOf } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { FilterField } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { afterDay, lastDay } from './Conditions.tsx';
import { useRightsForReviewQuery, useStartReviewMutation } from './reviewsApi.ts';

const IN_DAYS = 30;
const fresh = (): ReviewBody => {
  const end = new Date();
  return {
    name: '',
    filter: null,
    endsAt: new Date(end.getFullYear(), end.getMonth(), end.getDate() + IN_DAYS + 1).toISOString(),
    rest: 'ends',
  };
};

/** Starts a review, after it was seen which rights it asks about and whom. @param close told which was started */
export function StartReview({ close }: { close: (id?: string) => void }) {
  const [start] = useStartReviewMutation();
  const input = useRef<HTMLInputElement>(null);
  const edit = useEditForm<ReviewBody, Awaited<ReturnType<ReturnType<typeof start>['unwrap']>>>({
    key: 'review:new',
    now: null,
    fresh: fresh(),
    valuesOf: ({ name, filter, endsAt, rest }) => ({ name, filter, endsAt, rest }),
    send: (body) => start(body).unwrap(),
    done(made) {
      sayDone(`“${made.name}” asks about ${plural(made.open, 'right')}.`);
      close(made.id);
    },
  });
  const { form, values, put } = edit;
  const [filter] = useDebouncedValue(values.filter, 300);
  const found = useRightsForReviewQuery(filter);
  const shown = found.currentData;
  return (
    <form
      className="toolbar stack"
      aria-label="Start a review"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-start" wrap="wrap">
        <TextInput
          className="grow"
          label="Name"
          placeholder="Who reads personal data, autumn"
          required
          maxLength={120}
          {...form.getInputProps('name')}
        />
        <TextInput
          type="date"
          label="Until the end of"
          w={180}
          value={lastDay(values.endsAt)}
          error={form.errors.endsAt}
          onChange={(event) => put({ endsAt: afterDay(event.currentTarget.value) ?? values.endsAt })}
        />
      </Group>
      <div>
        <p className="small">
          Only rights on what a filter finds, on what that lies in and on what lies in it. Empty: all rights that
          policies give in the domains whose policies you administer.
        </p>
        <FilterField
          text={values.filter ?? ''}
          setText={(text) => put({ filter: text === '' ? null : text })}
          search={() => undefined}
          inputRef={input}
          within={{ label: 'Rights on', placeholder: 'level>=guarded, domain:Travel …', read: parseFilter }}
        />
      </div>
      <Checkbox
        label="What nobody has kept by then ends"
        checked={values.rest === 'ends'}
        onChange={(event) => put({ rest: event.currentTarget.checked ? 'ends' : 'stays' })}
      />
      {found.error ? <ProblemNotice problem={problemOf(found.error)} /> : null}
      {shown ? (
        <p role="status">
          {shown.rights === 0
            ? 'There is no right that it could ask about.'
            : `It asks about ${plural(shown.rights, 'right')} by ${plural(shown.policies, 'policy', 'policies')}: ${shown.asked
                .slice(0, 6)
                .map(({ name, rights }) => `${name} ${rights}`)
                .join(', ')}${shown.asked.length > 6 ? ` and ${plural(shown.asked.length - 6, 'other')}` : ''}.`}
        </p>
      ) : null}
      <FormNotice
        edit={edit}
        words={{ name: 'Name', filter: 'Rights on', endsAt: 'Until the end of', rest: 'What nobody has kept' }}
      />
      <Group>
        <StripButtons
          edit={edit}
          words="Start it"
          ready={values.name.trim() !== '' && (shown?.rights ?? 0) > 0}
          close={() => close()}
        />
      </Group>
    </form>
  );
}
