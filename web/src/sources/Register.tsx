import { Button, NumberInput, SegmentedControl, Select, Textarea, TextInput } from '@mantine/core';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { problemOf } from '../app/api.ts';
import { useDomainsQuery } from '../catalog/api.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useRegisterMutation } from './api.ts';
import { CredentialField } from './CredentialField.tsx';

interface Draft {
  kind: 'postgresql' | 'folder';
  name: string;
  host: string;
  port: number | '';
  database: string;
  path: string;
  domainId: string | null;
  credentialId: string | null;
  description: string;
}
const FRESH: Draft = { kind: 'postgresql', name: '', host: '127.0.0.1', port: 5432, database: '', path: '', domainId: null, credentialId: null, description: '' };
const DRAFT = 'idrel-draft:source';

function readDraft(): Draft {
  try {
    return { ...FRESH, ...(JSON.parse(localStorage.getItem(DRAFT) ?? '{}') as Partial<Draft>) };
  } catch {
    return FRESH;
  }
}

/** Registering a source. What is typed stays in the browser until the source is there. */
export function Component() {
  useCrumbs({ text: 'Sources', to: '/sources' }, { text: 'Register' });
  const navigate = useNavigate();
  const [draft, setDraft] = useState<Draft>(readDraft);
  const domains = useDomainsQuery();
  const [register, { isLoading, error }] = useRegisterMutation();
  useEffect(() => localStorage.setItem(DRAFT, JSON.stringify(draft)), [draft]);
  const put = (changes: Partial<Draft>) => setDraft((before) => ({ ...before, ...changes }));
  const problem = error ? problemOf(error) : undefined;
  const wrong = (field: string) => problem?.fields?.find((entry) => entry.field === field || entry.field.endsWith(`.${field}`))?.message;

  /** A pasted connection URL fills the fields; its password is left out, since secrets belong to credentials. */
  const paste = (text: string) => {
    const url = /^postgres(ql)?:\/\//.test(text) ? (URL.parse?.(text) ?? new URL(text)) : null;
    if (url) put({ host: url.hostname, port: Number(url.port || 5432), database: decodeURIComponent(url.pathname.slice(1)) });
    return Boolean(url);
  };
  const submit = async () => {
    const address = draft.kind === 'folder' ? { path: draft.path } : { host: draft.host, port: draft.port, database: draft.database };
    const made = await register({
      name: draft.name,
      kind: draft.kind,
      address,
      domainId: draft.domainId ?? '',
      credentialId: draft.kind === 'folder' ? null : draft.credentialId,
      description: draft.description,
    })
      .unwrap()
      .catch(() => undefined);
    if (!made) return;
    localStorage.removeItem(DRAFT);
    navigate(`/sources/${made.id}`);
  };
  return (
    <div className="page" style={{ maxWidth: 640 }}>
      <h1>Register a source</h1>
      <p className="quiet" style={{ marginBottom: 16 }}>
        Nothing is read yet: you test the connection and scan afterwards.
      </p>
      <form
        className="stack"
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <div>
          <div id="kind-label" style={{ marginBottom: 4, fontWeight: 500 }}>
            Kind
          </div>
          <SegmentedControl
            aria-labelledby="kind-label"
            value={draft.kind}
            onChange={(kind) => put({ kind: kind as Draft['kind'] })}
            data={[
              { value: 'postgresql', label: 'PostgreSQL' },
              { value: 'folder', label: 'Folder of files' },
            ]}
          />
        </div>
        <TextInput label="Name" required value={draft.name} onChange={(event) => put({ name: event.currentTarget.value })} error={wrong('name')} />
        {draft.kind === 'postgresql' ? (
          <div className="row" style={{ alignItems: 'flex-start' }}>
            <TextInput
              className="grow"
              label="Host"
              required
              description="Or paste a postgres:// address"
              value={draft.host}
              onChange={(event) => {
                if (!paste(event.currentTarget.value)) put({ host: event.currentTarget.value });
              }}
              error={wrong('host')}
            />
            <NumberInput
              w={110}
              label="Port"
              required
              description="Usually 5432"
              min={1}
              max={65535}
              hideControls
              value={draft.port}
              onChange={(value) => put({ port: value === '' ? '' : Number(value) })}
              error={wrong('port')}
            />
            <TextInput
              className="grow"
              label="Database"
              required
              description="Its name on the server"
              value={draft.database}
              onChange={(event) => put({ database: event.currentTarget.value })}
              error={wrong('database')}
            />
          </div>
        ) : (
          <TextInput
            label="Folder"
            required
            description="As the server sees it, beginning with /"
            value={draft.path}
            onChange={(event) => put({ path: event.currentTarget.value })}
            error={wrong('path')}
          />
        )}
        <Select
          label="Domain"
          required
          description="Rights in Idrel follow from it"
          searchable
          data={(domains.data ?? []).map((domain) => ({ value: domain.id, label: domain.name }))}
          value={draft.domainId}
          onChange={(domainId) => put({ domainId })}
          error={wrong('domainId')}
        />
        {draft.kind === 'postgresql' ? <CredentialField value={draft.credentialId} onChange={(credentialId) => put({ credentialId })} /> : null}
        <Textarea label="Description" value={draft.description} onChange={(event) => put({ description: event.currentTarget.value })} minRows={2} />
        {problem ? (
          <div className="notice" role="alert">
            {problem.detail} {problem.mend}
          </div>
        ) : null}
        <div className="row">
          <Button type="submit" loading={isLoading} disabled={!draft.domainId}>
            Register
          </Button>
          <Button
            variant="default"
            onClick={() => {
              setDraft(FRESH);
              navigate('/sources');
            }}
          >
            Discard
          </Button>
        </div>
      </form>
    </div>
  );
}
