import type { ManyAction, TagAnswer } from '@idrel/contract/curation';
import {
  LINK_KINDS,
  type LinkKind,
  NOTICE_KINDS,
  type NoticeKind,
  STANDINGS,
  type Standing,
} from '@idrel/core/catalog';
import { Autocomplete, Select, Textarea, TextInput } from '@mantine/core';
import { TermChooser } from '../glossary/index.ts';
import { useLevelChoices } from '../marks/levelNames.ts';
import { useDomainChoices, useOwnerChoices, usePeopleQuery } from '../people/index.ts';
import { useClassesQuery } from '../recognition/index.ts';
import { useTagsQuery } from './tagsApi.ts';

const WHAT = [
  { value: 'tag', label: 'give the tag' },
  { value: 'tag-', label: 'take away the tag' },
  { value: 'owner', label: 'set the owner to' },
  { value: 'owner-', label: 'remove the owner' },
  { value: 'steward', label: 'add the steward' },
  { value: 'steward-', label: 'remove the steward' },
  { value: 'custodian', label: 'add the custodian' },
  { value: 'custodian-', label: 'remove the custodian' },
  { value: 'term', label: 'add the term' },
  { value: 'term-', label: 'remove the term' },
  { value: 'domain', label: 'move into the domain' },
  { value: 'standing', label: 'set the standing to' },
  { value: 'class', label: 'confirm the class' },
  { value: 'class-', label: 'dismiss the class' },
  { value: 'level', label: 'set the level to' },
  { value: 'notice', label: 'attach the notice' },
  { value: 'link', label: 'attach the link' },
  { value: 'description', label: 'describe what has no description' },
] as const;
export type What = (typeof WHAT)[number]['value'];
/** What is typed stays when another one of the list is chosen. */
const TYPED: readonly What[] = ['notice', 'level', 'link', 'class', 'class-'];
const AS_FOUND = 'found';
const AS_HELD = 'held';
/** What stands for no domain of its own. */
export const HELD = 'that of what holds it';
export const whatInWords = (what: unknown): string | undefined => WHAT.find((entry) => entry.value === what)?.label;

/** An action as it is chosen: what to do, with which person, term, tag or standing, and the value of a tag. */
export interface ActionDraft {
  what: What;
  to: string;
  /** The value of a tag; what a notice or a description says; the reason for a level; what a link is called. */
  value: string;
  /** The last day of a notice. */
  until?: string;
  /** Where a link leads. */
  url?: string;
}

/** The action that was chosen; null while something is missing. */
export function actionIn({ what, to, value, until, url }: ActionDraft): ManyAction | null {
  const text = value.trim();
  if (what === 'description') return text ? { kind: what, text } : null;
  if (!to) return null;
  if (what === 'level') {
    if (to === AS_FOUND) return { kind: what, level: null, reason: '' };
    return text ? { kind: what, level: Number(to), reason: text } : null;
  }
  if (what === 'link')
    return text && url?.trim() ? { kind: what, link: to as LinkKind, url: url.trim(), title: text } : null;
  if (what === 'standing') return { kind: what, standing: to as Standing };
  if (what === 'domain') return { kind: what, id: to === AS_HELD ? null : to };
  if (what === 'notice') {
    return text ? { kind: what, notice: to as NoticeKind, text, ...(until ? { ends: until } : {}) } : null;
  }
  if (what === 'class' || what === 'class-')
    return { kind: 'class', key: to, reason: text, ...(what === 'class' ? {} : { remove: true }) };
  const remove = what.endsWith('-');
  const kind = (remove ? what.slice(0, -1) : what) as 'tag' | 'owner' | 'steward' | 'custodian' | 'term';
  const taken = remove ? { remove } : {};
  return kind === 'tag'
    ? { kind, id: to, ...(value && !remove ? { value } : {}), ...taken }
    : { kind, id: to, ...taken };
}

export function draftOf(action: ManyAction): ActionDraft {
  if (action.kind === 'standing') return { what: 'standing', to: action.standing, value: '' };
  if (action.kind === 'notice')
    return { what: 'notice', to: action.notice, value: action.text, ...(action.ends ? { until: action.ends } : {}) };
  if (action.kind === 'level')
    return { what: 'level', to: action.level === null ? AS_FOUND : String(action.level), value: action.reason };
  if (action.kind === 'link') return { what: 'link', to: action.link, value: action.title, url: action.url };
  if (action.kind === 'description') return { what: 'description', to: '', value: action.text };
  if (action.kind === 'domain') return { what: 'domain', to: action.id ?? AS_HELD, value: '' };
  if (action.kind === 'class')
    return { what: action.remove ? 'class-' : 'class', to: action.key, value: action.reason };
  return {
    what: `${action.kind}${action.remove ? '-' : ''}` as What,
    to: action.id,
    value: action.kind === 'tag' ? (action.value ?? '') : '',
  };
}

/** Who or what an action can name, by what it does; terms aside, which may be many. */
export function useActionOptions(what: What): { value: string; label: string; disabled?: boolean }[] {
  const people = usePeopleQuery();
  const tags = useTagsQuery();
  const levels = useLevelChoices();
  const domains = useDomainChoices();
  const classes = useClassesQuery();
  const owners = useOwnerChoices();
  if (what === 'domain') return [...domains, { value: AS_HELD, label: HELD }];
  if (what === 'standing') return STANDINGS.map((value) => ({ value, label: value }));
  if (what === 'notice') return NOTICE_KINDS.map((value) => ({ value, label: value }));
  if (what === 'link') return LINK_KINDS.map((value) => ({ value, label: value }));
  if (what === 'level') return [...levels, { value: AS_FOUND, label: 'as it follows from the classes' }];
  if (what.startsWith('class'))
    return (classes.data ?? [])
      .filter(({ retired }) => !retired || what === 'class-')
      .map(({ key, label }) => ({ value: key, label }));
  if (what.startsWith('tag'))
    return (tags.data ?? []).map(({ id, name, mayGive }) => ({ value: id, label: name, disabled: !mayGive }));
  if (what.startsWith('owner')) return owners;
  return (people.data ?? []).map(({ id, name }) => ({ value: id, label: name }));
}

/** An action that an address asks for, as in `term:` and an id: with it one comes from a term or a tag to find what should carry it. */
export function draftIn(given: string | null): ActionDraft | undefined {
  const [what = '', ...id] = (given ?? '').split(':');
  return WHAT.some(({ value }) => value === what) && id.length > 0
    ? { what: what as What, to: id.join(':'), value: '' }
    : undefined;
}

/** The fields in which an action is chosen. */
export function ActionFields({
  draft,
  put,
  disabled = false,
}: {
  draft: ActionDraft;
  put: (change: Partial<ActionDraft>) => void;
  disabled?: boolean;
}) {
  const tags = useTagsQuery();
  const options = useActionOptions(draft.what);
  const tag = draft.what === 'tag' ? tags.data?.find(({ id }) => id === draft.to) : undefined;
  return (
    <div className="fields">
      <Select
        label="What to do"
        data={WHAT.map((entry) => ({ ...entry }))}
        value={draft.what}
        allowDeselect={false}
        searchable
        onChange={(what) => what && put({ what: what as What, to: '', value: '', until: '', url: '' })}
        disabled={disabled}
      />
      {draft.what.startsWith('term') ? (
        <TermChooser label="Term" value={draft.to} put={(to) => put({ to, value: '' })} disabled={disabled} />
      ) : draft.what === 'description' ? null : (
        <Select
          label={labelOf(draft.what)}
          searchable
          data={options}
          value={draft.to || null}
          nothingFoundMessage="Nothing of that name"
          onChange={(to) => put({ to: to ?? '', ...(TYPED.includes(draft.what) ? {} : { value: '' }) })}
          disabled={disabled}
        />
      )}
      {draft.what.startsWith('class') || (draft.what === 'level' && draft.to !== AS_FOUND) ? (
        <TextInput
          label="Reason"
          description={
            draft.what === 'level' ? 'It may be lower than what follows from the classes, so it takes one.' : undefined
          }
          value={draft.value}
          onChange={(event) => put({ value: event.currentTarget.value })}
          disabled={disabled}
        />
      ) : null}
      {draft.what === 'link' ? (
        <>
          <TextInput
            label="Title"
            value={draft.value}
            onChange={(event) => put({ value: event.currentTarget.value })}
            disabled={disabled}
          />
          <TextInput
            label="Address"
            placeholder="https://…"
            value={draft.url ?? ''}
            onChange={(event) => put({ url: event.currentTarget.value })}
            disabled={disabled}
          />
        </>
      ) : null}
      {draft.what === 'description' ? (
        <Textarea
          className="whole"
          label="Description"
          description="For what has none. {name}, {in}, {kind}, {type} and {source} stand for what each asset is."
          autosize
          value={draft.value}
          onChange={(event) => put({ value: event.currentTarget.value })}
          disabled={disabled}
        />
      ) : null}
      {draft.what === 'notice' ? (
        <>
          <Textarea
            className="whole"
            label="What is to be known"
            autosize
            value={draft.value}
            onChange={(event) => put({ value: event.currentTarget.value })}
            disabled={disabled}
          />
          <TextInput
            label="Until"
            type="date"
            value={draft.until ?? ''}
            onChange={(event) => put({ until: event.currentTarget.value })}
            disabled={disabled}
          />
        </>
      ) : null}
      {tag && tag.permitted?.length !== 0 ? (
        <TagValue tag={tag} value={draft.value} put={(value) => put({ value })} disabled={disabled} />
      ) : null}
    </div>
  );
}

const LABELS: Partial<Record<string, string>> = {
  standing: 'Standing',
  level: 'Level',
  notice: 'Kind of notice',
  link: 'Kind of link',
  tag: 'Tag',
  domain: 'Domain',
  class: 'Class',
  owner: 'Person or group',
};
const labelOf = (what: What): string => LABELS[what.replace(/-$/, '')] ?? 'Person';

/** One of the permitted values of a tag, or any where none are told. */
function TagValue({
  tag,
  value,
  put,
  disabled,
}: {
  tag: TagAnswer;
  value: string;
  put: (value: string) => void;
  disabled: boolean;
}) {
  const described = 'Or none';
  return tag.permitted ? (
    <Select
      label="Its value"
      description={described}
      data={[...tag.permitted]}
      value={value || null}
      clearable
      clearButtonProps={{ 'aria-label': 'Without a value' }}
      onChange={(chosen) => put(chosen ?? '')}
      disabled={disabled}
    />
  ) : (
    <Autocomplete
      label="Its value"
      description={described}
      data={tag.values.map((entry) => entry.value).filter(Boolean)}
      value={value}
      onChange={put}
      disabled={disabled}
    />
  );
}
