import { Button, Group, Select, Textarea, TextInput } from '@mantine/core';
import { ActionFields } from '../curation/index.ts';
import { useWebhooksQuery } from '../exchange/index.ts';
import { NumberField } from '../marks/NumberField.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { type Do, freshStep, type StepDraft } from './fields.ts';

const KINDS: readonly { readonly value: Do; readonly label: string }[] = [
  { value: 'act', label: 'changes each' },
  { value: 'only', label: 'goes on only with some' },
  { value: 'wait', label: 'waits' },
  { value: 'tell', label: 'writes to somebody' },
  { value: 'ask', label: 'asks who answers for them' },
  { value: 'ticket', label: 'opens a ticket about each' },
  { value: 'call', label: 'calls a webhook' },
  { value: 'scan', label: 'scans their sources' },
];
const MOST = 12;

/** What a routine does, step by step: a list whose entries are moved with buttons, and so with the keyboard. */
export function Steps({
  steps,
  put,
  disabled,
}: {
  steps: readonly StepDraft[];
  put: (steps: readonly StepDraft[]) => void;
  disabled: boolean;
}) {
  const change = (nth: number, part: Partial<StepDraft>) =>
    put(steps.map((step, at) => (at === nth ? { ...step, ...part } : step)));
  const move = (from: number, to: number) => {
    const next = [...steps];
    next.splice(to, 0, ...next.splice(from, 1));
    put(next);
  };
  return (
    <section aria-label="Steps">
      <h3>What it does</h3>
      <ul className="bare stack">
        {steps.map((step, nth) => (
          <li key={step.key} className="stack step">
            <Group gap={8} align="flex-end" wrap="nowrap">
              <Select
                className="grow"
                label={`Step ${nth + 1}`}
                data={[...KINDS]}
                value={step.do}
                allowDeselect={false}
                onChange={(kind) => kind && change(nth, { do: kind as Do })}
                disabled={disabled}
              />
              {disabled ? null : (
                <>
                  <Button
                    variant="subtle"
                    size="compact-sm"
                    aria-label={`Step ${nth + 1} earlier`}
                    disabled={nth === 0}
                    onClick={() => move(nth, nth - 1)}
                  >
                    <span aria-hidden>↑</span>
                  </Button>
                  <Button
                    variant="subtle"
                    size="compact-sm"
                    aria-label={`Step ${nth + 1} later`}
                    disabled={nth === steps.length - 1}
                    onClick={() => move(nth, nth + 1)}
                  >
                    <span aria-hidden>↓</span>
                  </Button>
                  <Button
                    variant="subtle"
                    size="compact-sm"
                    aria-label={`Take out step ${nth + 1}`}
                    disabled={steps.length === 1}
                    onClick={() => put(steps.filter((_, at) => at !== nth))}
                  >
                    Take out
                  </Button>
                </>
              )}
            </Group>
            <StepFields step={step} put={(part) => change(nth, part)} disabled={disabled} />
          </li>
        ))}
      </ul>
      {disabled || steps.length >= MOST ? null : (
        <button type="button" className="linkish" onClick={() => put([...steps, freshStep()])}>
          Add a step
        </button>
      )}
    </section>
  );
}

function StepFields({
  step,
  put,
  disabled,
}: {
  step: StepDraft;
  put: (part: Partial<StepDraft>) => void;
  disabled: boolean;
}) {
  const people = usePeopleQuery(undefined, { skip: step.do !== 'tell' });
  switch (step.do) {
    case 'act':
      return <ActionFields draft={step} put={put} disabled={disabled} />;
    case 'only':
      return (
        <TextInput
          label="Goes on with those that this finds"
          description="Asked when the step is reached: owner:none standing:retiring"
          value={step.only}
          onChange={(event) => put({ only: event.currentTarget.value })}
          disabled={disabled}
        />
      );
    case 'wait':
      return (
        <NumberField
          label="Days"
          description="Then the next step follows, for what is still there."
          min={1}
          max={400}
          value={step.days}
          put={(days) => put({ days })}
          disabled={disabled}
        />
      );
    case 'tell':
      return (
        <div className="fields">
          <Select
            label="Whom"
            searchable
            data={[
              { value: 'owner', label: 'who owns each of them' },
              { value: 'steward', label: 'who looks after each of them' },
              { value: 'custodian', label: 'who keeps the system of each of them' },
              { value: 'keeper', label: 'who keeps this routine' },
              ...(people.data ?? []).map(({ id, name }) => ({ value: id, label: name })),
            ]}
            value={step.whom || null}
            nothingFoundMessage="Nobody of that name"
            onChange={(whom) => put({ whom: whom ?? '' })}
            disabled={disabled}
          />
          <Textarea
            className="whole"
            label="What it writes"
            description="One mail to each, with the assets that concern them."
            autosize
            value={step.letter}
            onChange={(event) => put({ letter: event.currentTarget.value })}
            disabled={disabled}
          />
        </div>
      );
    case 'ask':
      return (
        <div className="fields">
          <Select
            label="Whom"
            data={[
              { value: 'owner', label: 'who owns each of them' },
              { value: 'steward', label: 'who looks after each of them' },
            ]}
            value={step.whom === 'steward' ? 'steward' : 'owner'}
            allowDeselect={false}
            onChange={(whom) => put({ whom: whom ?? 'owner' })}
            disabled={disabled}
          />
          <NumberField
            label="Days to answer"
            min={1}
            max={400}
            value={step.days}
            put={(days) => put({ days })}
            disabled={disabled}
          />
          <Textarea
            className="whole"
            label="What it asks"
            description="Answered on the worklist, of each: keep it as it is, or go on. What is kept is left for a year."
            autosize
            value={step.letter}
            onChange={(event) => put({ letter: event.currentTarget.value })}
            disabled={disabled}
          />
          <Select
            className="whole"
            label="Without an answer"
            data={[
              { value: 'go on', label: 'it goes on' },
              { value: 'keep', label: 'all stays as it is' },
            ]}
            value={step.silence}
            allowDeselect={false}
            onChange={(silence) => put({ silence: silence === 'keep' ? 'keep' : 'go on' })}
            disabled={disabled}
          />
        </div>
      );
    case 'ticket':
      return (
        <div className="fields">
          <TextInput
            className="whole"
            label="What is wrong"
            description="The title of the ticket; the path of the asset is put behind it. While one that this routine opened is open, none follows about the same asset."
            maxLength={150}
            value={step.letter}
            onChange={(event) => put({ letter: event.currentTarget.value })}
            disabled={disabled}
          />
          <Textarea
            className="whole"
            label="More of it"
            autosize
            value={step.more}
            onChange={(event) => put({ more: event.currentTarget.value })}
            disabled={disabled}
          />
        </div>
      );
    case 'call':
      return <Calls step={step} put={put} disabled={disabled} />;
    case 'scan':
      return (
        <p className="quiet small">
          The sources of what is left by then are scanned, of each only what has changed: those that you may scan.
        </p>
      );
  }
}

/** Which webhook, and what the program is told that it is about. */
function Calls({
  step,
  put,
  disabled,
}: {
  step: StepDraft;
  put: (part: Partial<StepDraft>) => void;
  disabled: boolean;
}) {
  const hooks = useWebhooksQuery();
  return (
    <div className="fields">
      <Select
        label="Webhook"
        description="Of those that you keep, under Settings → Webhooks: administrators make them."
        data={(hooks.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
        value={step.webhook}
        onChange={(webhook) => put({ webhook })}
        disabled={disabled}
      />
      <TextInput
        label="Word"
        description="By which the program knows what it is about. It gets the assets, 500 in a message, signed."
        maxLength={100}
        value={step.letter}
        onChange={(event) => put({ letter: event.currentTarget.value })}
        disabled={disabled}
      />
    </div>
  );
}
