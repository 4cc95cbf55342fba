// @vitest-environment jsdom
import { completingAt } from '@idrel/core/catalog';
import { screen, waitFor } from '@testing-library/react';
import { useRef, useState } from 'react';
import { describe, expect, it } from 'vitest';
import { pretended } from '../testing/view.tsx';
import { FilterField, offersFor } from './FilterField.tsx';

const { served, show, asked } = pretended();
const FACETS = [
  {
    key: 'domain',
    values: [
      { value: 'Onboard sales', label: 'Onboard sales', count: 12 },
      { value: 'Fleet', label: 'Fleet', count: 3 },
    ],
  },
  { key: 'class', values: [{ value: 'email', label: 'E-mail address', count: 7 }] },
];

const searched: string[] = [];
function Shown({ begins = '' }: { begins?: string }) {
  const [text, setText] = useState(begins);
  const input = useRef<HTMLInputElement>(null);
  return <FilterField text={text} setText={setText} search={(filter) => searched.push(filter)} inputRef={input} />;
}
const field = () => screen.getByLabelText('Search the catalog', { selector: 'input' }) as HTMLInputElement;
const offered = () => screen.queryAllByRole('option', { hidden: true }).map((option) => option.textContent);

describe('the field of filters', () => {
  it('offers keys and what they mean, then values with how many assets they leave; the arrows choose', async () => {
    served['GET /assets/facets'] = FACETS;
    const user = show(<Shown />);
    await user.type(field(), 'passenger dom');
    expect(offered()).toEqual(['domain:the domain it belongs to, or one below it']);
    await user.keyboard('{ArrowDown}{Enter}');
    expect(field().value).toBe('passenger domain:');
    await waitFor(() => expect(offered()).toEqual(['Onboard sales12', 'Fleet3']));
    // Values are counted over the rest of the filter.
    expect(asked.map(({ path, query }) => [path, query.filter])).toContainEqual(['/assets/facets', 'passenger']);
    await user.type(field(), 'sal');
    expect(offered()).toEqual(['Onboard sales12']);
    await user.keyboard('{ArrowDown}{Enter}');
    expect(field().value).toBe('passenger domain:"Onboard sales" ');
    await user.keyboard('{Enter}');
    expect(searched.at(-1)).toBe('passenger domain:"Onboard sales"');
  });

  it('searches with Enter for what was typed, whatever is offered', async () => {
    served['GET /assets/facets'] = FACETS;
    const user = show(<Shown />);
    await user.type(field(), 'own{Enter}');
    expect(searched.at(-1)).toBe('own');
  });

  it('says what cannot be read, where, and how to mend it; nothing is searched and nothing lost', async () => {
    const user = show(<Shown />);
    const before = searched.length;
    await user.type(field(), 'kind:table owner>=x{Enter}');
    const alert = await screen.findByRole('alert');
    expect(alert.textContent).toContain('owner has no order, so >= means nothing.');
    expect(alert.textContent).toContain('Write owner:value.');
    expect(alert.querySelector('mark')?.textContent).toBe('>=x');
    expect([field().value, searched.length]).toEqual(['kind:table owner>=x', before]);
    expect(field().getAttribute('aria-invalid')).toBe('true');
    await user.type(field(), '{Backspace}');
    expect(screen.queryByRole('alert')).toBeNull();
  });
});

it('offers none and any where something can be lacking, and labels as well as keys of classes', () => {
  const at = (text: string) => offersFor(completingAt(text, text.length), FACETS as never).map((offer) => offer.text);
  expect(at('owner:')).toEqual(['none', 'any']);
  expect(at('class:addr')).toEqual(['email']);
  expect(at('class:')).toEqual(['email', 'none', 'any']);
  expect(at('gone:y')).toEqual(['yes']);
  expect(at('missing:des')).toEqual(['description']);
  expect(at('class:email via:')).toEqual(['lineage']);
  expect(at('asked>=-3')).toEqual(['-30d', '-3m']);
  expect(at('le')).toEqual(['level:']);
  expect(at('zzz')).toEqual([]);
});
