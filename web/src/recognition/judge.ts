import { type Proposal, proposePatterns } from '@idrel/core/recognition/propose';
import { compileTest, type DetectorSpec, SpecProblem } from '@idrel/core/recognition/spec';

/** A value of the examples, and what a person said of it. */
export interface Marked {
  readonly value: string;
  readonly is: boolean | null;
}
export interface Question {
  readonly rule: Pick<DetectorSpec, 'value' | 'checksum' | 'namePattern'>;
  readonly values: readonly Marked[];
}
export interface Judged {
  /** What is wrong with the rule, or nothing. */
  readonly problem: { readonly field: string; readonly message: string } | null;
  /** For each value: whether the rule takes it. */
  readonly taken: readonly boolean[];
  readonly proposals: readonly Proposal[];
}

/** What a draft makes of the examples, and what patterns they suggest. */
export function judge({ rule, values }: Question): Judged {
  const texts = (is: boolean) => values.flatMap((entry) => (entry.is === is ? [entry.value] : []));
  const proposals = proposePatterns(texts(true), texts(false));
  try {
    const test = compileTest(rule);
    return { problem: null, taken: values.map((entry) => test(entry.value)), proposals };
  } catch (error) {
    if (!(error instanceof SpecProblem)) throw error;
    return { problem: { field: error.field, message: error.message }, taken: values.map(() => false), proposals };
  }
}
