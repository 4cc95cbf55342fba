import type { Facet } from '@idrel/contract/catalog';
import { type Completing, completingAt, FILTER_KEYS, FilterError, parseFilter, writeValue } from '@idrel/core/catalog';
import { fold } from '@idrel/core/text';
import { Combobox, TextInput, useCombobox } from '@mantine/core';
import { type Ref, useId, useState } from 'react';
import { useFacetsQuery } from './api.ts';
import { valuesFor } from './filterValues.ts';

/** So many are offered at once. */
const OFFERED = 9;
interface Offer {
  readonly text: string;
  readonly told: string;
  readonly beside: string;
}

/** What is wrong with a filter; nothing when it can be read. */
function wrongWith(text: string, read: (text: string) => unknown): FilterError | undefined {
  try {
    read(text);
    return undefined;
  } catch (error) {
    if (error instanceof FilterError) return error;
    throw error;
  }
}

/** What can be written here, the likeliest first: keys with what they mean, values with how many assets they leave. */
export function offersFor(completing: Completing | undefined, facets: readonly Facet[]): Offer[] {
  if (!completing) return [];
  const begun = fold(completing.begun);
  if (completing.what === 'key')
    return Object.entries(FILTER_KEYS)
      .filter(([key]) => key.startsWith(begun))
      .map(([key, meaning]) => ({ text: `${key}:`, told: `${key}:`, beside: meaning }));
  const begins = (text: string) =>
    fold(text)
      .split(/\s+/)
      .some((_, at, words) => words.slice(at).join(' ').startsWith(begun));
  return valuesFor(completing.key, facets)
    .filter(({ value, told }) => begins(value) || begins(told))
    .map(({ value, told, beside }) => ({ text: writeValue(value), told, beside }))
    .slice(0, OFFERED);
}

/**
 * The field in which filters are written. It offers keys, and values with how many assets they leave; what cannot be read is told in place, with the mend.
 * `Enter` searches, or takes what was chosen with the arrows.
 */
export function FilterField({
  text,
  setText,
  search,
  inputRef,
  within,
}: {
  text: string;
  setText: (text: string) => void;
  search: (filter: string) => void;
  inputRef: React.RefObject<HTMLInputElement | null>;
  /** Where it is a field of a form, and searches nothing by itself. */
  within?: { readonly label: string; readonly placeholder: string; readonly read: (text: string) => unknown };
}) {
  const read = within?.read ?? parseFilter;
  const wrongId = useId();
  const list = useCombobox({ onDropdownClose: () => list.resetSelectedOption() });
  const [caret, setCaret] = useState(text.length);
  const [tried, setTried] = useState(false);
  const completing = list.dropdownOpened ? completingAt(text, caret) : undefined;
  const beside = completing?.what === 'value' ? completing.beside : '';
  const facets = useFacetsQuery({ filter: beside }, { skip: completing?.what !== 'value' });
  const offers = offersFor(completing, facets.currentData ?? []);
  const wrong = tried && (text.trim() !== '' || !within) ? wrongWith(text, read) : undefined;

  const take = (offer: string) => {
    if (!completing) return;
    const end = completing.from + offer.length;
    const isValue = completing.what === 'value';
    const rest = text.slice(completing.to);
    const space = isValue && !/^[\s,)]/.test(rest) ? ' ' : '';
    setText(text.slice(0, completing.from) + offer + space + rest);
    setCaret(end + space.length);
    list.resetSelectedOption();
    requestAnimationFrame(() => inputRef.current?.setSelectionRange(end + space.length, end + space.length));
  };
  const submit = (event: React.SyntheticEvent) => {
    event.preventDefault();
    const error = within && text.trim() === '' ? undefined : wrongWith(text, read);
    setTried(true);
    if (error) {
      inputRef.current?.focus();
      inputRef.current?.setSelectionRange(error.position, text.length);
      return;
    }
    list.closeDropdown();
    search(text.trim());
  };
  const field = (
    <>
      <Combobox store={list} onOptionSubmit={take} withinPortal>
        <Combobox.Target withExpandedAttribute>
          <TextInput
            ref={inputRef as Ref<HTMLInputElement>}
            value={text}
            onChange={(event) => {
              setText(event.currentTarget.value);
              setCaret(event.currentTarget.selectionStart ?? event.currentTarget.value.length);
              setTried(false);
              list.openDropdown();
              list.resetSelectedOption();
            }}
            onSelect={(event) => setCaret(event.currentTarget.selectionStart ?? 0)}
            onClick={() => list.openDropdown()}
            onFocus={() => list.openDropdown()}
            onBlur={() => {
              list.closeDropdown();
              if (within) setTried(true);
            }}
            placeholder={within?.placeholder ?? 'Search: words, kind:table, class:email …'}
            aria-label={within?.label ?? 'Search the catalog'}
            error={Boolean(wrong)}
            aria-describedby={wrong ? wrongId : undefined}
            autoComplete="off"
            spellCheck={false}
            onKeyDown={(event) => {
              if (within && event.key === 'Enter' && list.getSelectedOptionIndex() < 0) submit(event);
              if (event.key !== 'Escape') return;
              if (list.dropdownOpened && offers.length > 0) list.closeDropdown();
              else event.currentTarget.blur();
            }}
          />
        </Combobox.Target>
        <Combobox.Dropdown hidden={offers.length === 0 || wrong !== undefined}>
          <Combobox.Options aria-label="What could be written here" className="scrolled" mah={320}>
            {offers.map((offer) => (
              <Combobox.Option key={offer.text} value={offer.text} className="offer">
                <span className={completing?.what === 'key' ? 'mono' : ''}>{offer.told}</span>
                <span className="quiet small cut">{offer.beside}</span>
              </Combobox.Option>
            ))}
          </Combobox.Options>
        </Combobox.Dropdown>
      </Combobox>
      {wrong ? (
        <div id={wrongId} role="alert" className="search-wrong small">
          <div className="mono cut">
            {text.slice(0, wrong.position)}
            <mark>{text.slice(wrong.position) || '…'}</mark>
          </div>
          {wrong.message} <span className="quiet">{wrong.mend}</span>
        </div>
      ) : null}
    </>
  );
  // A form has no other within it.
  return within ? (
    <div className="search within">{field}</div>
  ) : (
    <form onSubmit={submit} className="search">
      {field}
    </form>
  );
}
