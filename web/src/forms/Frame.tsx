import { Button, Group, Stack } from '@mantine/core';
import type { ReactNode } from 'react';
import { useSessionQuery } from '../app/api.ts';
import { sayProblem } from '../app/say.ts';
import { count } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { type FieldWords, FormNotice } from './FormNotice.tsx';
import type { EditForm } from './useEditForm.ts';

/** Whether the person has one of these roles in any domain. */
export function useMayAnywhere(...roles: string[]): boolean {
  const session = useSessionQuery();
  return session.data?.grants.some((grant) => [...roles, 'administrator'].includes(grant.role)) ?? false;
}

/** Whether the person may change what holds for everybody. */
export function useIsAdministrator(): boolean {
  const session = useSessionQuery();
  return session.data?.grants.some(({ role, domain }) => role === 'administrator' && domain === null) ?? false;
}

/** Removes, says what went wrong, or goes on. */
export const removing = (gone: Promise<unknown>, what: string, done: () => void): void =>
  void gone.then(done, (error: unknown) => sayProblem(error, what));

/** What a change would do before it is done: in words, and as rows of which the first are shown. */
export function Effect({
  told,
  label,
  rows,
  total,
}: {
  told: string;
  label: string;
  rows: readonly ReactNode[];
  total: number;
}) {
  const shown = rows.slice(0, SHOWN);
  return (
    <section aria-label="What it would change">
      <h3>What it would change</h3>
      <p role="status">{told}</p>
      {shown.length > 0 ? <Listing label={label}>{shown}</Listing> : null}
      {total > shown.length ? <p className="quiet small">and {count(total - shown.length)} more</p> : null}
    </section>
  );
}
const SHOWN = 60;

/** A form in the right half of a view: its fields, what is wrong, the buttons that save and remove, and what the change would do. */
export function Frame<T extends object>({
  title,
  may,
  edit,
  fields,
  ready = true,
  unchanged = false,
  words,
  remove,
  removeWords = 'Remove',
  children,
  below,
}: {
  title: string;
  may: boolean;
  edit: EditForm<T>;
  /** What the fields are called where two versions of them stand side by side. */
  fields: FieldWords<T>;
  /** What has to be there is there. */
  ready?: boolean;
  /** It can be saved as it stands. */
  unchanged?: boolean;
  words: string;
  remove?: (() => void) | undefined;
  removeWords?: string;
  children: ReactNode;
  below?: ReactNode;
}) {
  return (
    <Stack maw={760}>
      <h2>{title}</h2>
      <fieldset disabled={!may} className="stack bare">
        {children}
      </fieldset>
      <FormNotice edit={edit} words={fields} />
      {may ? (
        <Group>
          <Button
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={!ready || !(edit.differs || unchanged) || edit.clashes.length > 0}
          >
            {words}
          </Button>
          {edit.differs ? (
            <Button variant="default" onClick={edit.discard}>
              Leave as it was
            </Button>
          ) : null}
          {remove ? (
            <Button variant="subtle" c="var(--buoy)" onClick={remove}>
              {removeWords}
            </Button>
          ) : null}
        </Group>
      ) : null}
      {below}
    </Stack>
  );
}
