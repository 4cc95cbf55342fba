import { Checkbox } from '@mantine/core';

/** What is left of a file that is taken in, by the places of its parts, and the way to leave one or take it again. */
export interface Leaving {
  readonly left: ReadonlySet<string>;
  readonly leave: (places: readonly string[], yes: boolean) => void;
}

/** Whether one part of a file is taken. @param what it is, as it is read out */
export const Take = ({ at, what, left, leave }: Leaving & { readonly at: string; readonly what: string }) => (
  <Checkbox aria-label={`Take ${what}`} checked={!left.has(at)} onChange={() => leave([at], !left.has(at))} />
);
