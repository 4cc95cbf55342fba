import { sayDone, sayProblem } from '../app/say.ts';
import { useCarryTermMutation } from './api.ts';

interface Carry {
  readonly id: string;
  /** What the term is called, where that is known. */
  readonly name?: string;
  readonly of: { readonly class: string } | { readonly tag: string };
  /** What the class or the tag is called. */
  readonly called: string;
  readonly carries: boolean;
}

/** Gives classes and tags the terms that say what they mean, or takes these away; each can be undone. */
export function useCarrying(): (carry: Carry) => Promise<void> {
  const [send] = useCarryTermMutation();
  const carry = ({ id, name = 'the term', of, called, carries }: Carry): Promise<void> =>
    send({ id, ...of, carries })
      .unwrap()
      .then(
        () =>
          sayDone(`“${called}” ${carries ? 'carries' : 'no longer carries'} ${name}.`, () =>
            carry({ id, name, of, called, carries: !carries }),
          ),
        (error: unknown) => sayProblem(error, 'It was not said'),
      );
  return carry;
}
