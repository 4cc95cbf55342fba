import { Button, Group, Stack } from '@mantine/core';
import type { ReactNode } from 'react';
import { useBeforeUnload, useBlocker } from 'react-router';
import { Listing } from '../marks/Listing.tsx';
import type { EditForm } from './useEditForm.ts';

/** What a form calls its fields, and how it shows a value that is no text. */
export type FieldWords<T> = {
  readonly [field in keyof T]?: string | readonly [label: string, show: (value: unknown) => ReactNode];
};

const said = (value: unknown): ReactNode => {
  if (value === null || value === undefined || value === '' || (Array.isArray(value) && value.length === 0))
    return <span className="quiet">nothing</span>;
  if (Array.isArray(value))
    return value.map((entry) => (typeof entry === 'object' ? JSON.stringify(entry) : String(entry))).join(', ');
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'object' ? <span className="mono small">{JSON.stringify(value)}</span> : String(value);
};

/** Asks before a page is left that would lose what is typed. */
function LeaveGuard() {
  useBeforeUnload((event) => event.preventDefault());
  const blocker = useBlocker(({ currentLocation, nextLocation }) => currentLocation.pathname !== nextLocation.pathname);
  if (blocker.state !== 'blocked') return null;
  return (
    <Stack className="notice" role="alertdialog" aria-label="Leave without saving?">
      <strong>What you typed is not saved, and is not kept in this browser.</strong>
      <Group>
        <Button autoFocus onClick={blocker.reset}>
          Stay here
        </Button>
        <Button variant="default" onClick={blocker.proceed}>
          Leave it
        </Button>
      </Group>
    </Stack>
  );
}

/** Beside a form: that it was found as it had been left, what somebody else changed meanwhile (both sides, field by field), and what is wrong with a save. */
export function FormNotice<T extends object>({ edit, words }: { edit: EditForm<T>; words: FieldWords<T> }) {
  const { clashes, followed, problem, resumed, differs, unkept } = edit;
  const wordOf = (field: keyof T & string) => {
    const word = words[field];
    return typeof word === 'string' ? word : (word?.[0] ?? field);
  };
  const shown = (field: keyof T & string, value: unknown) => {
    const word = words[field];
    return typeof word === 'object' ? (word[1](value) ?? said(value)) : said(value);
  };
  const lost = problem?.code === 'changed-meanwhile';
  return (
    <>
      {edit.loses ? <LeaveGuard /> : null}
      {resumed && differs ? (
        <p className="notice calm" role="status">
          You left this unfinished; it is as you left it.{' '}
          <button type="button" className="linkish" onClick={edit.discard}>
            Begin anew
          </button>
        </p>
      ) : null}
      {unkept ? <p className="notice">This browser has no room to keep what you type: save before you leave.</p> : null}
      {clashes.length > 0 ? (
        <Stack className="notice" role="alert" aria-label="Changed by somebody else">
          <strong>Somebody else changed this after you opened it. Yours is not saved yet.</strong>
          <Listing heads={['Field', 'As it stands now', 'Yours']} className="sides" label="Both versions">
            {clashes.map(({ field, mine, theirs }) => (
              <tr key={field}>
                <td>{wordOf(field)}</td>
                <td>
                  <div className="written">{shown(field, theirs)}</div>
                  <Button
                    variant="default"
                    size="compact-sm"
                    mt={4}
                    aria-label={`Take theirs: ${wordOf(field)}`}
                    onClick={() => edit.take(field, 'theirs')}
                  >
                    Take theirs
                  </Button>
                </td>
                <td>
                  <div className="written">{shown(field, mine)}</div>
                  <Button
                    variant="default"
                    size="compact-sm"
                    mt={4}
                    aria-label={`Keep mine: ${wordOf(field)}`}
                    onClick={() => edit.take(field, 'mine')}
                  >
                    Keep mine
                  </Button>
                </td>
              </tr>
            ))}
          </Listing>
          <p className="small quiet">Choose a side of each, then save.</p>
        </Stack>
      ) : null}
      {followed.length > 0 && (differs || lost) ? (
        <p className="notice calm" role="status">
          Somebody else changed {followed.map(wordOf).join(', ')} meanwhile:{' '}
          {followed.some((field) => edit.changed.includes(field))
            ? 'both changes are in it now'
            : 'it is as they made it'}
          {differs ? ', and yours is not saved yet' : ''}.
        </p>
      ) : null}
      {problem && !(lost && clashes.length + followed.length > 0) ? (
        <div className="notice" role="alert">
          {problem.detail} {problem.mend}
        </div>
      ) : null}
    </>
  );
}
