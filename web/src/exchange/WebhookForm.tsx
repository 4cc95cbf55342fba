import type { Webhook, WebhookBody } from '@idrel/contract/exchange';
import { ASSET_KINDS, THINGS } from '@idrel/contract/things';
import { Group, MultiSelect, Select, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useDomainChoices } from '../people/index.ts';
import { useChangeWebhookMutation, useMakeWebhookMutation } from './api.ts';

const KINDS = [
  { group: 'Assets', items: Object.keys(ASSET_KINDS) },
  { group: 'Other things', items: Object.keys(THINGS).filter((thing) => thing !== 'asset') },
];
const FRESH: WebhookBody = { name: '', address: 'https://', kinds: [], domainId: null, filter: null, enabled: true };

/** What of a webhook can be changed. */
export const bodyOf = ({ name, address, kinds, domainId, filter, enabled }: Webhook): WebhookBody => ({
  name,
  address,
  kinds,
  domainId,
  filter,
  enabled,
});

/** @param made the secret of a new one */
export function WebhookForm({
  webhook,
  close,
  made,
}: {
  webhook: Webhook | undefined;
  close: () => void;
  made: (secret: string) => void;
}) {
  const [make] = useMakeWebhookMutation();
  const [change] = useChangeWebhookMutation();
  const domains = useDomainChoices();
  const edit = useEditForm<WebhookBody, Webhook>({
    key: `webhook:${webhook?.id ?? 'new'}`,
    now: webhook ? { version: webhook.version, values: bodyOf(webhook) } : null,
    fresh: FRESH,
    valuesOf: bodyOf,
    send: async (body, version) => {
      if (webhook) return change({ id: webhook.id, version, body }).unwrap();
      const answer = await make(body).unwrap();
      made(answer.secret);
      return answer.webhook;
    },
    done: (saved, before) => {
      sayDone(
        webhook
          ? `“${saved.name}” is changed; you answer for it.`
          : `“${saved.name}” is told what changes from now on.`,
        webhook ? () => change({ id: saved.id, version: saved.version, body: before }) : undefined,
      );
      close();
    },
    // Some addresses hold a secret in their path.
    secret: ['address'],
  });
  const { values, put, form } = edit;
  return (
    <form
      className="toolbar stack"
      aria-label={webhook ? `Change ${webhook.name}` : 'New webhook'}
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-end">
        <TextInput
          label="What it is for"
          placeholder="Security’s log of events"
          required
          maxLength={80}
          w={280}
          {...form.getInputProps('name')}
        />
        <TextInput
          label="Address"
          description="https, or http within networks that the operator has listed"
          required
          inputMode="url"
          maxLength={2000}
          w={460}
          {...form.getInputProps('address')}
        />
      </Group>
      <Group align="flex-start">
        <MultiSelect
          label="Only of these kinds"
          description="None chosen: of everything"
          data={KINDS}
          value={[...values.kinds]}
          onChange={(kinds) => put({ kinds })}
          error={form.errors.kinds}
          searchable
          w={280}
        />
        <Select
          label="Only in this domain"
          description="And those below it"
          data={domains}
          value={values.domainId}
          onChange={(domainId) => put({ domainId })}
          error={form.errors.domainId}
          searchable
          clearable
          w={220}
        />
        <TextInput
          label="Only of assets that this search finds"
          description="When it happens"
          placeholder="tag:gold or level>=3"
          value={values.filter ?? ''}
          onChange={(event) => put({ filter: event.currentTarget.value || null })}
          error={form.errors.filter}
          w={280}
        />
      </Group>
      <Group>
        <StripButtons
          edit={edit}
          words={webhook ? 'Save' : 'Make the webhook'}
          ready={values.name.trim() !== '' && /^https?:\/\/[^/]/.test(values.address)}
          close={close}
        />
      </Group>
      <FormNotice
        edit={edit}
        words={{
          name: 'What it is for',
          address: 'Address',
          kinds: 'Kinds',
          domainId: 'Domain',
          filter: 'Search',
          enabled: 'Whether it is on',
        }}
      />
    </form>
  );
}
