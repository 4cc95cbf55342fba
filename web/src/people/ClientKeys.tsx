import type { AnswerOf, SentBody } from '@idrel/contract/http';
import type { clientKeyEndpoints } from '@idrel/contract/people';
import { Box, Button, CopyButton, Group, NumberInput, TextInput } from '@mantine/core';
import { sayDone, sayProblem } from '../app/say.ts';
import { useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useClientKeysQuery, useEndClientKeyMutation, useMakeClientKeyMutation } from './api.ts';

/** So long a key holds unless somebody says otherwise, and at most, in days. */
const [DAYS, DAYS_MOST] = [90, 366];

type Keys = typeof clientKeyEndpoints;
type Wanted = Required<SentBody<Keys['make']>>;
const FRESH: Wanted = { name: '', days: DAYS };

/** Keys by which programs of one's own read through the gateway, and how they connect. @param database what the name of a database means for who looks */
export function ClientKeys({ database = 'the name of a source' }: { database?: string }) {
  const { data, error, refetch } = useClientKeysQuery();
  const [make, { data: made, reset }] = useMakeClientKeyMutation();
  const [end] = useEndClientKeyMutation();
  const edit = useEditForm<Wanted, AnswerOf<Keys['make']>>({
    key: 'client-key:new',
    now: null,
    fresh: FRESH,
    valuesOf: () => FRESH,
    send: async (wanted) => ({ ...(await make(wanted).unwrap()), version: 0 }),
  });
  if (error) return <Trouble error={error} what="Your keys cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={2} />;
  if (data.port === null && data.items.length === 0)
    return <p className="quiet">This server takes no programs: its operator opens the port for them.</p>;
  const command = `psql "host=${window.location.hostname} port=${data.port ?? ''} user=${data.user} dbname='${database.replace(/^the /, '')}'${data.encrypted ? ` sslmode=${data.encrypted}` : ''}"`;
  return (
    <>
      <p>
        psql and other clients of PostgreSQL read through the gateway, as the policies say for you: the database is{' '}
        {database}, the user your e-mail address, the password a key.
      </p>
      {made ? (
        <Box className="notice calm" mt={10}>
          <p>
            <strong>The key is not shown again.</strong> Whoever has it reads what you may read.
          </p>
          <pre className="code after">{made.key}</pre>
          <Box component="p" mt={8}>
            From a terminal, which asks for it:
          </Box>
          <pre className="code after">{command}</pre>
          <Group mt={8}>
            <CopyButton value={made.key}>
              {({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : 'Copy the key'}</Button>}
            </CopyButton>
            <Button variant="subtle" onClick={reset}>
              I have it
            </Button>
          </Group>
        </Box>
      ) : (
        <Group
          component="form"
          align="flex-end"
          gap={8}
          mt={10}
          aria-label="Make a key"
          onSubmit={(event: React.FormEvent) => {
            event.preventDefault();
            void edit.save();
          }}
        >
          <TextInput
            label="What it is for"
            placeholder="Reports on my machine"
            required
            maxLength={80}
            {...edit.form.getInputProps('name')}
          />
          <NumberInput
            label="Holds, in days"
            w={120}
            min={1}
            max={DAYS_MOST}
            clampBehavior="strict"
            {...edit.form.getInputProps('days')}
            onChange={(value) => edit.put({ days: Number(value) || 1 })}
          />
          <Button type="submit" variant="default" loading={edit.saving} disabled={edit.values.name.trim() === ''}>
            Make a key
          </Button>
          <ProblemNotice problem={edit.problem} />
        </Group>
      )}
      {data.items.length > 0 ? (
        <Box mt={14}>
          <Listing heads={['For', 'Made', 'Last used', 'Ends', heard('What to do')]} maw={720} label="Your keys">
            {data.items.map((key) => (
              <tr key={key.id}>
                <td>{key.name}</td>
                <td>
                  <When at={key.madeAt} />
                </td>
                <td>{key.usedAt ? <When at={key.usedAt} /> : <span className="quiet">not yet</span>}</td>
                <td>
                  <When at={key.endsAt} />
                </td>
                <td>
                  <Button
                    variant="subtle"
                    size="compact-xs"
                    aria-label={`End it: ${key.name}`}
                    onClick={() =>
                      void end(key.id)
                        .unwrap()
                        .then(
                          () => sayDone('The key is ended: nothing is read by it any more.'),
                          (failed: unknown) => sayProblem(failed, 'It was not ended'),
                        )
                    }
                  >
                    End it
                  </Button>
                </td>
              </tr>
            ))}
          </Listing>
        </Box>
      ) : null}
    </>
  );
}
