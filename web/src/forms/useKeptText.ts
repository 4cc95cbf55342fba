import { useState } from 'react';
import { useSessionQuery } from '../app/api.ts';
import { keepEdit, readKept } from './keep.ts';

/** A text that is kept in the browser for the person who types it, until they sign out; it belongs to nothing on the server. */
export function useKeptText(key: string): [text: string, put: (text: string) => void] {
  const person = useSessionQuery().data?.person?.id ?? '';
  const [text, setText] = useState(() => readKept<{ text: string }>(person, key)?.changes.text ?? '');
  return [
    text,
    (next) => {
      setText(next);
      keepEdit(person, key, next ? { base: { version: 0, values: { text: '' } }, changes: { text: next } } : undefined);
    },
  ];
}
