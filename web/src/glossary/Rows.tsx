import { Button, CloseButton, Select, Textarea, TextInput } from '@mantine/core';

interface Entry {
  readonly kind: string;
  readonly language?: string;
  readonly text?: string;
  readonly uri?: string;
}

/** Rows of labels, notes or matches: each of a kind, perhaps in a language. */
export function Rows<T extends Entry>({
  label,
  one,
  kinds,
  fresh,
  rows,
  put,
  long = false,
}: {
  label: string;
  /** What one of them is called. */
  one: string;
  kinds: readonly T['kind'][];
  fresh: T;
  rows: readonly T[];
  put: (rows: T[]) => void;
  /** Its text may have several lines. */
  long?: boolean;
}) {
  const change = (at: number, part: Partial<T>) =>
    put(rows.map((row, place) => (place === at ? { ...row, ...part } : row)));
  const Text = long ? Textarea : TextInput;
  return (
    <fieldset className="bare" aria-label={label}>
      <legend className="label small">{label}</legend>
      {rows.map((row, at) => (
        // Rows have nothing else to be told apart by while they are written.
        <div key={at} className="row top line">
          <Select
            aria-label={`Kind of ${one} ${at + 1}`}
            w={130}
            data={[...kinds]}
            value={row.kind}
            allowDeselect={false}
            onChange={(kind) => kind && change(at, { kind } as Partial<T>)}
          />
          {row.language === undefined ? null : (
            <TextInput
              aria-label={`Language of ${one} ${at + 1}`}
              placeholder="en, pt-BR"
              w={84}
              value={row.language}
              onChange={(event) => change(at, { language: event.currentTarget.value } as Partial<T>)}
            />
          )}
          <Text
            className="grow"
            aria-label={`Text of ${one} ${at + 1}`}
            {...(long ? { autosize: true } : {})}
            value={row.uri ?? row.text ?? ''}
            onChange={(event) =>
              change(at, { [row.uri === undefined ? 'text' : 'uri']: event.currentTarget.value } as Partial<T>)
            }
          />
          <CloseButton
            aria-label={`Remove ${one} ${at + 1}`}
            onClick={() => put(rows.filter((_, place) => place !== at))}
          />
        </div>
      ))}
      <Button variant="subtle" size="compact-xs" onClick={() => put([...rows, fresh])}>
        Add {one}
      </Button>
    </fieldset>
  );
}
