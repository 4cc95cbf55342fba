// @vitest-environment jsdom
import { MantineProvider } from '@mantine/core';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { NumberField } from './NumberField.tsx';

beforeEach(() =>
  vi.stubGlobal('matchMedia', () => ({ matches: false, addEventListener() {}, removeEventListener() {} })),
);
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

/** A form that tells every number it was given. */
function show(optional: boolean) {
  const given: (number | null)[] = [];
  function Form() {
    const [value, setValue] = useState<number | null>(50);
    const put = (next: number | null) => {
      given.push(next);
      setValue(next);
    };
    return optional ? (
      <NumberField label="Rows" min={10} max={500} optional value={value} put={put} />
    ) : (
      <NumberField label="Rows" min={10} max={500} value={value ?? 0} put={put} />
    );
  }
  render(
    <MantineProvider>
      <Form />
    </MantineProvider>,
  );
  return { given, field: screen.getByLabelText('Rows') as HTMLInputElement, user: userEvent.setup() };
}

describe('a number that is typed', () => {
  it('may be emptied and out of bounds on its way, and is given on within them alone', async () => {
    const { given, field, user } = show(false);
    await user.clear(field);
    expect(field.value).toBe('');
    await user.type(field, '9');
    expect(field.value).toBe('9');
    await user.type(field, '0');
    expect(field.value).toBe('90');
    expect(given).toEqual([90]);
  });

  it('goes to the nearest bound, or back to what it was, when the field is left', async () => {
    const { given, field, user } = show(false);
    await user.clear(field);
    await user.tab();
    expect(field.value).toBe('50');
    await user.clear(field);
    await user.type(field, '9000');
    await user.tab();
    expect(field.value).toBe('500');
    expect(given.at(-1)).toBe(500);
  });

  it('is none when it is left empty, where that is allowed', async () => {
    const { given, field, user } = show(true);
    await user.clear(field);
    await user.tab();
    expect([field.value, given]).toEqual(['', [null]]);
  });
});
