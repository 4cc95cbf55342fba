import type { DomainAnswer, DomainBody } from '@idrel/contract/people';
import { Select, Switch, Textarea, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame, removing, useIsAdministrator, useMayAnywhere } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { AboutDomain } from './AboutDomain.tsx';
import { usePeopleQuery, useRemoveDomainMutation, useSaveDomainMutation } from './api.ts';
import { choiceOf } from './domainChoices.ts';
import { MoveOfDomain } from './MoveOfDomain.tsx';

const bodyOf = ({ name, purpose, owner, parentId, shownOutside }: DomainAnswer): DomainBody => ({
  name,
  purpose,
  ownerId: owner?.id ?? null,
  parentId,
  shownOutside,
});
const NEW: DomainBody = { name: '', purpose: '', ownerId: null, parentId: null, shownOutside: false };

/** A domain: what it is for, who answers for it, where it lies, what its addresses show. */
export function DomainForm({
  domain,
  domains,
  open,
}: {
  domain: DomainAnswer | undefined;
  /** The whole tree, in lines. */
  domains: readonly (DomainAnswer & { depth: number })[];
  open: (id: string | null) => void;
}) {
  const everywhere = useIsAdministrator();
  // In which domains is for the server to say: it tells where the role is missing.
  const may = useMayAnywhere('administrator');
  const [save] = useSaveDomainMutation();
  const [remove] = useRemoveDomainMutation();
  const people = usePeopleQuery();
  const edit = useEditForm<DomainBody, DomainAnswer>({
    key: `domain:${domain?.id ?? 'new'}`,
    now: domain ? { version: domain.version, values: bodyOf(domain) } : null,
    fresh: NEW,
    valuesOf: bodyOf,
    send: (body, version) => save({ id: domain?.id ?? null, version, body }).unwrap(),
    done: (saved, before) => {
      sayDone(
        `${saved.name} is saved.`,
        domain ? () => save({ id: saved.id, version: saved.version, body: before }) : undefined,
      );
      if (!domain) open(saved.id);
    },
  });
  const { form, values, put } = edit;
  const called = new Map(domains.map(({ id, name }) => [id, name]));
  const named = new Map((people.data ?? []).map(({ id, name }) => [id, name]));
  const moves = domain && values.parentId !== domain.parentId;
  return (
    <Frame
      title={domain?.name ?? 'New domain'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        purpose: 'Purpose',
        ownerId: ['Owner', (id) => (id ? (named.get(id as string) ?? 'somebody') : 'nobody')],
        parentId: ['Lies in', (id) => (id ? (called.get(id as string) ?? 'a domain') : 'no other')],
        shownOutside: ['Addresses', (shown) => (shown ? 'show what they lead to' : 'show nothing to strangers')],
      }}
      ready={values.name.trim() !== ''}
      words={moves ? 'Save and move' : 'Save domain'}
      remove={
        domain && everywhere
          ? () =>
              removing(remove(domain.id).unwrap(), 'The domain was not removed', () => {
                open(null);
                sayDone(`${domain.name} is removed.`, () => save({ id: null, version: 0, body: bodyOf(domain) }));
              })
          : undefined
      }
      below={domain ? <AboutDomain domain={domain} /> : undefined}
    >
      <TextInput label="Name" required disabled={!may} {...form.getInputProps('name')} />
      <Textarea
        label="Purpose"
        description="What belongs here, and what does not."
        autosize
        minRows={2}
        disabled={!may}
        {...form.getInputProps('purpose')}
      />
      <Select
        label="Owner"
        description="Answers for it, and for what lies in it and has no owner of its own."
        clearable
        searchable
        disabled={!may}
        data={(people.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
        value={values.ownerId}
        onChange={(ownerId) => put({ ownerId })}
      />
      <Select
        label="Lies in"
        description={everywhere ? undefined : 'Administrators of everything move domains.'}
        allowDeselect={false}
        searchable
        disabled={!everywhere}
        data={[{ value: '', label: 'no other domain' }, ...outside(domains, domain?.id).map(choiceOf)]}
        value={values.parentId ?? ''}
        onChange={(id) => put({ parentId: id || null })}
      />
      {moves ? <MoveOfDomain id={domain.id} name={domain.name} to={values.parentId} /> : null}
      <Switch
        label="Addresses of its assets show what they lead to"
        description="Whoever reads where such an address is pasted sees what the asset is called, how it stands, who answers for it and what it means, whether they may sign in here or not."
        disabled={!may}
        checked={values.shownOutside}
        onChange={(event) => put({ shownOutside: event.currentTarget.checked })}
      />
    </Frame>
  );
}

/** Domains that do not lie in one, and are not it. */
function outside<D extends { readonly id: string; readonly parentId: string | null }>(
  lines: readonly D[],
  id: string | undefined,
): D[] {
  const within = new Set(id ? [id] : []);
  for (const line of lines) if (line.parentId && within.has(line.parentId)) within.add(line.id);
  return lines.filter((line) => !within.has(line.id));
}
