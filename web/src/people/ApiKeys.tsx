import type { AnswerOf, Scope, SentBody } from '@idrel/contract/http';
import type { ApiKey, apiKeyEndpoints } from '@idrel/contract/people';
import { Box, Button, Checkbox, Group, MultiSelect, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useIsAdministrator } from '../forms/Frame.tsx';
import { ShownOnce } from '../forms/ShownOnce.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { count, When } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useApiKeysQuery, useEndApiKeyMutation, useMakeApiKeyMutation, useRotateApiKeyMutation } from './api.ts';
import { useDomainChoices } from './domainChoices.ts';

/** What each scope opens. */
const SCOPES: readonly (readonly [Scope, string])[] = [
  ['read', 'read what you may see'],
  ['write', 'describe, classify, tag, document assets, terms and the rest'],
  ['lineage', 'say lineage, and strike it'],
  ['scan', 'register sources, start scans, push assets'],
  ['access', 'set policies, grants and shares; ask through the gateway'],
  ['admin', 'change people, groups and domains'],
];
/** So long the old one goes on when another takes its place, in hours. */
const OVERLAP = 24;

type Keys = typeof apiKeyEndpoints;
type Wanted = Required<SentBody<Keys['make']>>;
const FRESH: Wanted = { name: '', scopes: ['read'], domainIds: null, days: 90, perMinute: 600 };

/** Keys by which programs call the API: with what they may, where, and how long. */
export function ApiKeys() {
  const [all, setAll] = useState(false);
  const [making, setMaking] = useState(false);
  const [shown, show] = useState<{ readonly key: string; readonly words: string } | null>(null);
  const { data, error, refetch } = useApiKeysQuery(all);
  const [rotate] = useRotateApiKeyMutation();
  const [end] = useEndApiKeyMutation();
  const isAdministrator = useIsAdministrator();
  if (error) return <Trouble error={error} what="Your keys cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={2} />;
  const replace = ({ id, name }: ApiKey) =>
    void rotate({ id, hours: OVERLAP })
      .unwrap()
      .then(
        ({ key }) => show({ key, words: `It takes the place of “${name}”, which goes on for ${OVERLAP} hours.` }),
        (failed: unknown) => sayProblem(failed, 'It was not replaced'),
      );
  const stop = ({ id, name }: ApiKey) =>
    void end(id)
      .unwrap()
      .then(
        () => sayDone(`“${name}” is ended: it opens nothing any more.`),
        (failed: unknown) => sayProblem(failed, 'It was not ended'),
      );
  return (
    <>
      <p>
        Programs call <span className="mono">/api/v1</span> with a key of yours: as you, as far as the key goes. What
        they change stands in the journal with your name and that of the key.
      </p>
      {shown ? (
        <ShownOnce what="key" secret={shown.key} words={shown.words} done={() => show(null)}>
          <Box component="p" mt={8}>
            For example:
          </Box>
          <pre className="code after">{`curl -H "Authorization: Bearer ${shown.key}" "${window.location.origin}/api/v1/assets?limit=5"`}</pre>
        </ShownOnce>
      ) : making ? (
        <MakeKey
          close={() => setMaking(false)}
          made={(key) => {
            setMaking(false);
            show({ key, words: 'Whoever has it may what it may.' });
          }}
        />
      ) : (
        <Group mt={10}>
          <Button variant="default" onClick={() => setMaking(true)}>
            New key for the API
          </Button>
          {isAdministrator ? (
            <Checkbox
              label="Those of everybody"
              checked={all}
              onChange={(event) => setAll(event.currentTarget.checked)}
            />
          ) : null}
        </Group>
      )}
      {data.length > 0 ? (
        <Box mt={14}>
          <Listing
            heads={['For', all && 'Whose', 'May', 'Where', num('A minute'), 'Last used', 'Ends', heard('What to do')]}
            label="Keys for the API"
          >
            {data.map((key) => (
              <tr key={key.id}>
                <td>{key.name}</td>
                {all ? <td>{key.person}</td> : null}
                <td>{key.scopes.join(', ')}</td>
                <td>
                  {key.domains === null
                    ? `wherever ${key.mine ? 'you have' : 'they have'} rights`
                    : key.domains.map(({ name }) => name).join(', ') || 'nowhere any more'}
                </td>
                <td className="num">{count(key.perMinute)}</td>
                <td>{key.usedAt ? <When at={key.usedAt} /> : <span className="quiet">not yet</span>}</td>
                <td>
                  <When at={key.endsAt} />
                  {key.replaced ? <div className="quiet small">replaced</div> : null}
                </td>
                <td>
                  <Group gap={2} wrap="nowrap">
                    {key.mine && !key.replaced ? (
                      <Button
                        variant="subtle"
                        size="compact-xs"
                        aria-label={`Replace: ${key.name}`}
                        onClick={() => replace(key)}
                      >
                        Replace
                      </Button>
                    ) : null}
                    <Button
                      variant="subtle"
                      size="compact-xs"
                      c="var(--buoy)"
                      aria-label={`End: ${key.name}`}
                      onClick={() => stop(key)}
                    >
                      End
                    </Button>
                  </Group>
                </td>
              </tr>
            ))}
          </Listing>
        </Box>
      ) : null}
    </>
  );
}

function MakeKey({ close, made }: { close: () => void; made: (key: string) => void }) {
  const [make] = useMakeApiKeyMutation();
  const domains = useDomainChoices();
  const edit = useEditForm<Wanted, AnswerOf<Keys['make']>>({
    key: 'api-key:new',
    now: null,
    fresh: FRESH,
    valuesOf: () => FRESH,
    send: async (wanted) => {
      const answer = await make(wanted).unwrap();
      made(answer.key);
      return { ...answer, version: 0 };
    },
  });
  const { values, put, form } = edit;
  return (
    <form
      className="toolbar stack"
      aria-label="New key for the API"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <TextInput
        label="What the program does"
        placeholder="Documentation from our repository"
        required
        maxLength={80}
        maw={420}
        {...form.getInputProps('name')}
      />
      <Checkbox.Group
        label="What it may"
        value={[...values.scopes]}
        onChange={(scopes) => put({ scopes: scopes as Scope[] })}
      >
        {SCOPES.map(([scope, words]) => (
          <Checkbox key={scope} value={scope} label={`${scope}: ${words}`} mt={6} />
        ))}
      </Checkbox.Group>
      <Group align="flex-end">
        <MultiSelect
          label="Only in these domains"
          description="And those below them; none chosen: wherever you have rights"
          data={domains}
          value={[...(values.domainIds ?? [])]}
          onChange={(ids) => put({ domainIds: ids.length > 0 ? ids : null })}
          searchable
          w={420}
        />
        <NumberField
          label="Holds, in days"
          min={1}
          max={366}
          value={values.days}
          put={(days) => put({ days })}
          w={120}
        />
        <NumberField
          label="Calls a minute"
          min={1}
          max={6000}
          value={values.perMinute}
          put={(perMinute) => put({ perMinute })}
          w={120}
        />
        <StripButtons
          edit={edit}
          words="Make the key"
          ready={values.name.trim() !== '' && values.scopes.length > 0}
          close={close}
        />
      </Group>
      <FormNotice
        edit={edit}
        words={{ name: 'Name', scopes: 'What it may', domainIds: 'Domains', days: 'Days', perMinute: 'Calls a minute' }}
      />
    </form>
  );
}
