import type { KindAnswer, KindField, SourceAnswer, SourceKind } from '@idrel/contract/sources';
import { Box, Button, Group, Select, Stack, Textarea, TextInput } from '@mantine/core';
import { useNavigate } from 'react-router';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useDomainsQuery } from '../people/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useRegisterMutation, useSourceKindsQuery } from './api.ts';
import { CredentialField } from './CredentialField.tsx';
import { fromUrl } from './fromUrl.ts';
import { ReadBy } from './ReadBy.tsx';

interface Draft {
  kind: SourceKind;
  name: string;
  /** What was typed of the address, per field; kept when the kind changes and back. */
  address: Record<string, string>;
  domainId: string | null;
  credentialId: string | null;
  agentGroup: string | null;
  description: string;
}
const FRESH: Draft = {
  kind: 'postgresql',
  name: '',
  address: { host: '127.0.0.1' },
  domainId: null,
  credentialId: null,
  agentGroup: null,
  description: '',
};
const valueIn = (draft: Draft, field: KindField): string =>
  draft.address[field.name] ?? (field.default === null ? '' : String(field.default));

/** What is sent of what was typed: the fields of the kind alone. */
function bodyOf(draft: Draft, kind: KindAnswer | undefined) {
  const fields = (kind?.fields ?? []).filter((field) => field.name !== 'authority' || draft.address.tls === 'checked');
  return {
    name: draft.name,
    kind: draft.kind,
    address: Object.fromEntries(
      fields.map((field) => [
        field.name,
        field.type === 'number' ? Number(valueIn(draft, field)) : valueIn(draft, field),
      ]),
    ),
    domainId: draft.domainId ?? '',
    credentialId: kind?.credential === 'none' ? null : draft.credentialId,
    agentGroup: draft.agentGroup,
    description: draft.description,
  };
}

/** Registering a source. What is typed stays in the browser until the source is there. */
export function Component() {
  useCrumbs({ text: 'Sources', to: '/sources' }, { text: 'Register' });
  const navigate = useNavigate();
  const domains = useDomainsQuery();
  const kinds = useSourceKindsQuery();
  const [register] = useRegisterMutation();
  const edit = useEditForm<Draft, SourceAnswer>({
    key: 'source:new',
    now: null,
    fresh: FRESH,
    // Nothing of it is edited further here.
    valuesOf: () => FRESH,
    send: (typed): Promise<SourceAnswer> =>
      register(
        bodyOf(
          typed,
          kinds.data?.find((entry) => entry.kind === typed.kind),
        ),
      ).unwrap(),
    done: (made) => navigate(`/sources/${made.id}`),
  });
  const { form, values: draft, put, problem } = edit;
  const wrong = (field: string) =>
    problem?.fields?.find((entry) => entry.field === field || entry.field.endsWith(`.${field}`))?.message;
  const kind = kinds.data?.find((entry) => entry.kind === draft.kind);
  const value = (field: KindField): string => valueIn(draft, field);
  const setField = (field: KindField, text: string) => put({ address: { ...draft.address, [field.name]: text } });
  /** A whole address in one field fills them all: when it is pasted, or when the field is left. */
  const spread = (text: string): boolean => {
    const filled = fromUrl(text, kinds.data ?? []);
    if (filled) put({ kind: filled.kind, address: { ...draft.address, ...filled.address } });
    return filled !== undefined;
  };
  return (
    <Box className="page" maw={640}>
      <h1>Register a source</h1>
      <Box component="p" className="quiet" mb={16}>
        Nothing is read yet: you test the connection and scan afterwards.
      </Box>
      <Stack
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          if (kind) void edit.save();
        }}
      >
        <Select
          label="Kind"
          required
          allowDeselect={false}
          data={(kinds.data ?? []).map((entry) => ({ value: entry.kind, label: entry.label }))}
          value={draft.kind}
          onChange={(next) => next && put({ kind: next as SourceKind, credentialId: null })}
        />
        <TextInput label="Name" required {...form.getInputProps('name')} />
        <div className="fields">
          {(kind?.fields ?? [])
            .filter((field) => field.name !== 'authority' || draft.address.tls === 'checked')
            .map((field) =>
              field.type === 'choice' ? (
                <Select
                  key={field.name}
                  className="whole"
                  label={field.label}
                  description={field.help}
                  allowDeselect={false}
                  data={(field.options ?? []).map((option) => ({ ...option }))}
                  value={value(field)}
                  onChange={(next) => next && setField(field, next)}
                  error={wrong(field.name)}
                />
              ) : field.type === 'lines' ? (
                <Textarea
                  key={field.name}
                  className="whole"
                  label={field.label}
                  description={field.help}
                  value={value(field)}
                  onChange={(event) => setField(field, event.currentTarget.value)}
                  error={wrong(field.name)}
                />
              ) : (
                <TextInput
                  key={field.name}
                  className={
                    field.type === 'number'
                      ? 'short'
                      : field.name === 'url' || field.name === 'path'
                        ? 'whole'
                        : undefined
                  }
                  inputMode={field.type === 'number' ? 'numeric' : undefined}
                  label={field.label}
                  required={field.required}
                  description={
                    (field.name === 'host' || field.name === 'bucket') && kind?.schemes[0]
                      ? `Or paste a ${kind.schemes[0]}:// address`
                      : field.help
                  }
                  value={value(field)}
                  onChange={(event) => setField(field, event.currentTarget.value)}
                  onPaste={(event) => {
                    if (spread(event.clipboardData.getData('text'))) event.preventDefault();
                  }}
                  onBlur={(event) => void spread(event.currentTarget.value)}
                  error={wrong(field.name)}
                />
              ),
            )}
        </div>
        <Select
          label="Domain"
          required
          description="Rights in Idrel follow from it"
          searchable
          data={(domains.data ?? []).map((domain) => ({ value: domain.id, label: domain.name }))}
          {...form.getInputProps('domainId')}
        />
        {kind && kind.credential !== 'none' ? (
          <CredentialField
            kind={kind.credential}
            openToAll={kind.openToAll}
            value={draft.credentialId}
            onChange={(credentialId) => put({ credentialId })}
          />
        ) : null}
        <ReadBy value={draft.agentGroup} onChange={(agentGroup) => put({ agentGroup })} />
        <Textarea label="Description" {...form.getInputProps('description')} minRows={2} />
        <FormNotice edit={edit} words={{ name: 'Name' }} />
        <Group>
          <Button type="submit" loading={edit.saving} disabled={!draft.domainId}>
            Register
          </Button>
          <Button
            variant="default"
            onClick={() => {
              edit.discard();
              navigate('/sources');
            }}
          >
            Discard
          </Button>
        </Group>
      </Stack>
    </Box>
  );
}
