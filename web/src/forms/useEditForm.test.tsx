// @vitest-environment jsdom
import { MantineProvider, TextInput } from '@mantine/core';
import { act, cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { Provider } from 'react-redux';
import { createMemoryRouter, Link, RouterProvider } from 'react-router';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api } from '../app/api.ts';
import { store } from '../app/store.ts';
import { FormNotice } from './FormNotice.tsx';
import { forgetEdits } from './keep.ts';
import type { Held } from './merge.ts';
import { useEditForm } from './useEditForm.ts';

interface Named {
  name: string;
  note: string;
}
type Answer = Named & { version: number };
const valuesOf = ({ name, note }: Named): Named => ({ name, note });

/** A server that holds one thing, and refuses what was made of an older version. */
class Holder {
  held: Answer = { version: 1, name: 'Traveller', note: '' };
  readonly sent: [values: Named, version: number][] = [];
  refuse: object | undefined;
  send = async (values: Named, version: number): Promise<Answer> => {
    this.sent.push([values, version]);
    if (this.refuse) throw { status: 400, data: this.refuse };
    if (version !== this.held.version)
      throw {
        status: 412,
        data: { code: 'changed-meanwhile', detail: 'Somebody else changed this.', current: this.held },
      };
    this.held = { ...values, version: version + 1 };
    return this.held;
  };
  change(changes: Partial<Named>) {
    this.held = { ...this.held, ...changes, version: this.held.version + 1 };
  }
}
let server: Holder;
/** Gives the open form what a refetch would. */
let refetch: () => void;

function Form({ secret, fresh = false }: { secret?: 'note'; fresh?: boolean }) {
  const [now, setNow] = useState<Held<Named> | null>(
    fresh ? null : { version: server.held.version, values: valuesOf(server.held) },
  );
  refetch = () => act(() => setNow({ version: server.held.version, values: valuesOf(server.held) }));
  const edit = useEditForm<Named, Answer>({
    key: 'thing:1',
    now,
    fresh: { name: '', note: '' },
    valuesOf,
    send: server.send,
    ...(secret ? { secret: [secret] } : {}),
  });
  return (
    <>
      <TextInput label="Name" {...edit.form.getInputProps('name')} />
      <TextInput label="Note" {...edit.form.getInputProps('note')} />
      <FormNotice edit={edit} words={{ name: 'Name', note: 'Note' }} />
      <button type="button" onClick={() => void edit.save()} disabled={!edit.differs || edit.clashes.length > 0}>
        Save
      </button>
    </>
  );
}

const be = (id: string) =>
  act(
    async () =>
      void (await store.dispatch(
        api.util.upsertQueryData('session', undefined, { person: { id, name: id } } as never),
      )),
  );
async function open(secret?: 'note', fresh = false) {
  const router = createMemoryRouter([
    {
      path: '/',
      element: (
        <>
          <Form {...(secret ? { secret } : {})} fresh={fresh} />
          <Link to="/elsewhere">Elsewhere</Link>
        </>
      ),
    },
    { path: '/elsewhere', element: <p>Another page</p> },
  ]);
  const view = render(
    <Provider store={store}>
      <MantineProvider>
        <RouterProvider router={router} />
      </MantineProvider>
    </Provider>,
  );
  await screen.findByLabelText('Name');
  return view;
}
const field = (label: string) => screen.getByLabelText(label) as HTMLInputElement;
const type = async (label: string, text: string) => {
  await userEvent.clear(field(label));
  await userEvent.type(field(label), text);
};
const press = (name: string | RegExp) => userEvent.click(screen.getByRole('button', { name }));

beforeEach(async () => {
  vi.stubGlobal('fetch', async () => new Response('{}', { headers: { 'content-type': 'application/json' } }));
  vi.stubGlobal('matchMedia', () => ({
    matches: false,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  }));
  localStorage.clear();
  server = new Holder();
  await be('ida');
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe('a form of something that others edit too', () => {
  it('is sent upon the version that it began from', async () => {
    await open();
    await type('Name', 'Guest');
    await press('Save');
    expect(server.sent).toEqual([[{ name: 'Guest', note: '' }, 1]]);
    expect(server.held).toEqual({ version: 2, name: 'Guest', note: '' });
  });

  it('takes over what somebody else changed elsewhere in it while it is open, and says so', async () => {
    await open();
    await type('Name', 'Guest');
    server.change({ note: 'Agreed on Monday' });
    refetch();
    expect(field('Note').value).toBe('Agreed on Monday');
    expect(field('Name').value).toBe('Guest');
    expect(screen.getByText(/Somebody else changed Note meanwhile/)).toBeTruthy();
    await press('Save');
    expect(server.held).toEqual({ version: 3, name: 'Guest', note: 'Agreed on Monday' });
  });

  it('lets each side be taken where both changed the same field, and saves nothing before', async () => {
    await open();
    await type('Name', 'Guest');
    await type('Note', 'Mine');
    server.change({ name: 'Client', note: 'Theirs' });
    refetch();
    const both = screen.getByRole('table', { name: 'Both versions' });
    for (const text of ['Guest', 'Client', 'Mine', 'Theirs']) expect(both.textContent).toContain(text);
    expect((screen.getByRole('button', { name: 'Save' }) as HTMLButtonElement).disabled).toBe(true);
    await press('Keep mine: Name');
    await press('Take theirs: Note');
    expect(screen.queryByRole('table', { name: 'Both versions' })).toBeNull();
    await press('Save');
    expect(server.sent).toEqual([[{ name: 'Guest', note: 'Theirs' }, 2]]);
  });

  it('meets a change that it did not see when it is saved, and overwrites nothing', async () => {
    await open();
    await type('Name', 'Guest');
    server.change({ name: 'Client' });
    await press('Save');
    expect(server.held).toMatchObject({ name: 'Client' });
    await press('Keep mine: Name');
    await press('Save');
    expect(server.sent.map(([, version]) => version)).toEqual([1, 2]);
    expect(server.held).toMatchObject({ name: 'Guest' });
  });

  it('goes upon theirs at once where what they changed does not stand in it', async () => {
    await open();
    await type('Name', 'Guest');
    server.change({});
    await press('Save');
    expect(server.sent.map(([, version]) => version)).toEqual([1, 2]);
    expect(server.held).toMatchObject({ name: 'Guest', version: 3 });
  });

  it('is found again as it was left, with the version that it began from', async () => {
    const { unmount } = await open();
    await type('Name', 'Guest');
    unmount();
    server.change({ name: 'Client' });
    await open();
    expect(field('Name').value).toBe('Guest');
    expect(screen.getByText(/You left this unfinished/)).toBeTruthy();
    expect(screen.getByRole('table', { name: 'Both versions' }).textContent).toContain('Client');
    await press('Begin anew');
    expect(field('Name').value).toBe('Client');
    expect(localStorage.length).toBe(0);
  });

  it('that was left before a field came to be takes that from what there is now', async () => {
    localStorage.setItem(
      'idrel-form:ida:thing:1',
      JSON.stringify({ base: { version: 1, values: { name: 'Traveller' } }, changes: { name: 'Guest' } }),
    );
    server.held = { ...server.held, note: 'as it is now' };
    await open();
    expect([field('Name').value, field('Note').value]).toEqual(['Guest', 'as it is now']);
  });

  it('belongs to the person who typed it, and is gone when they sign out', async () => {
    const { unmount } = await open();
    await type('Name', 'Guest');
    unmount();
    await be('per');
    const other = await open();
    expect(field('Name').value).toBe('Traveller');
    other.unmount();
    await be('ida');
    const again = await open();
    expect(field('Name').value).toBe('Guest');
    again.unmount();
    forgetEdits('ida');
    await open();
    expect(field('Name').value).toBe('Traveller');
  });

  it('keeps what is typed while a save is on its way', async () => {
    await open();
    await type('Name', 'Guest');
    let answer: () => void = () => undefined;
    const send = server.send;
    const waiting = new Promise<void>((resolve) => {
      answer = resolve;
    });
    server.send = async (values, version) => {
      await waiting;
      return send(values, version);
    };
    refetch();
    await press('Save');
    await type('Note', 'Typed meanwhile');
    await act(async () => answer());
    expect(server.held).toMatchObject({ name: 'Guest', note: '' });
    expect(field('Note').value).toBe('Typed meanwhile');
    expect((screen.getByRole('button', { name: 'Save' }) as HTMLButtonElement).disabled).toBe(false);
  });

  it('begins afresh after something new was saved', async () => {
    server.held = { ...server.held, version: 0 };
    await open(undefined, true);
    await type('Name', 'Guest');
    await press('Save');
    expect(server.sent).toEqual([[{ name: 'Guest', note: '' }, 0]]);
    expect(field('Name').value).toBe('');
    expect(localStorage.length).toBe(0);
  });

  it('shows what is wrong beside the field that the server names, and keeps what was typed', async () => {
    await open();
    await type('Name', 'Guest');
    server.refuse = {
      code: 'invalid',
      detail: 'The name is taken.',
      fields: [{ field: 'name', message: 'is the name of another' }],
    };
    await press('Save');
    expect(screen.getByText('is the name of another')).toBeTruthy();
    expect(field('Name').getAttribute('aria-invalid')).toBe('true');
    expect(field('Name').value).toBe('Guest');
  });

  it('keeps secrets out of the browser, and asks before a page is left that would lose them', async () => {
    await open('note');
    await type('Note', 'hunter2');
    expect(JSON.stringify({ ...localStorage })).not.toContain('hunter2');
    await userEvent.click(screen.getByText('Elsewhere'));
    expect(screen.getByRole('alertdialog', { name: 'Leave without saving?' })).toBeTruthy();
    await press('Stay here');
    expect(field('Note').value).toBe('hunter2');
    await userEvent.click(screen.getByText('Elsewhere'));
    await press('Leave it');
    expect(screen.getByText('Another page')).toBeTruthy();
  });
});
