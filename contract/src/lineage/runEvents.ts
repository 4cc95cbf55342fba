import type { Schema } from 'joi';
import { Joi, typed } from '../http/index.ts';

/**
 * What a run of a job tells, in the shape of the standard (OpenLineage 2-0-2, `RunEvent` and `JobEvent`; `DatasetEvent` see below): the parts that are read. What else an event holds
 * may be there, and is not looked at.
 */
export interface RunEvent {
  readonly eventType?: 'START' | 'RUNNING' | 'COMPLETE' | 'ABORT' | 'FAIL' | 'OTHER';
  readonly eventTime: string;
  /** Lacks in an event of a job alone, which tells what it does without having run. */
  readonly run?: {
    readonly runId: string;
    readonly facets?: { readonly errorMessage?: { readonly message?: string } };
  };
  readonly job: {
    readonly namespace: string;
    readonly name: string;
    readonly facets?: {
      readonly documentation?: { readonly description?: string };
      readonly sql?: { readonly query?: string };
      readonly sourceCode?: { readonly language?: string; readonly sourceCode?: string };
      readonly sourceCodeLocation?: { readonly url?: string };
    };
  };
  readonly inputs?: readonly InputDataset[];
  readonly outputs?: readonly OutputDataset[];
}
export interface DatasetName {
  readonly namespace: string;
  readonly name: string;
}
interface Dataset extends DatasetName {
  readonly facets?: {
    readonly documentation?: { readonly description?: string };
    readonly schema?: {
      readonly fields?: readonly { readonly name: string; readonly type?: string; readonly description?: string }[];
    };
    readonly columnLineage?: {
      readonly fields?: Readonly<Record<string, { readonly inputFields?: readonly InputField[] }>>;
      /** What decides about the rows of the whole of it. */
      readonly dataset?: readonly InputField[];
    };
  };
}
interface InputDataset extends Dataset {
  readonly inputFacets?: {
    readonly dataQualityAssertions?: {
      readonly assertions?: readonly {
        readonly assertion: string;
        readonly success: boolean;
        readonly column?: string;
      }[];
    };
  };
}
interface OutputDataset extends Dataset {
  readonly outputFacets?: { readonly outputStatistics?: { readonly rowCount?: number } };
}
export interface InputField extends DatasetName {
  readonly field: string;
  readonly transformations?: readonly {
    readonly type: string;
    readonly subtype?: string;
    readonly description?: string;
    readonly masking?: boolean;
  }[];
}

const name = Joi.string().min(1).max(1000);
const words = Joi.string().allow('').max(20_000);
const code = Joi.string()
  .allow('')
  .max(1 << 20);
/** A part of an event: what is read of it must fit, the rest may be anything. */
const part = (fields: Record<string, Schema>) => Joi.object(fields).unknown();
const inputField = part({
  namespace: name.required(),
  name: name.required(),
  // Of a whole dataset that decides about rows no field is named.
  field: name.allow('').required(),
  transformations: Joi.array()
    .max(100)
    .items(
      part({
        type: Joi.string().max(100).required(),
        subtype: Joi.string().allow('').max(100),
        description: words,
        masking: Joi.boolean(),
      }),
    ),
});
const facets = part({
  documentation: part({ description: words }),
  schema: part({
    fields: Joi.array()
      .max(10_000)
      .items(part({ name: name.required(), type: Joi.string().allow('').max(1000), description: words })),
  }),
  columnLineage: part({
    fields: Joi.object()
      .pattern(name, part({ inputFields: Joi.array().max(10_000).items(inputField) }))
      .max(10_000),
    dataset: Joi.array().max(10_000).items(inputField),
  }),
});
const dataset = { namespace: name.required(), name: name.required(), facets };
const input = part({
  ...dataset,
  inputFacets: part({
    dataQualityAssertions: part({
      assertions: Joi.array()
        .max(1000)
        .items(part({ assertion: name.required(), success: Joi.boolean().required(), column: name })),
    }),
  }),
});
const output = part({
  ...dataset,
  outputFacets: part({ outputStatistics: part({ rowCount: Joi.number().integer().min(0).unsafe() }) }),
});

/** Joi and the standard's own schema agree on what an event must hold: a time, and a job by namespace and name; of a run its id. */
const fields = {
  eventType: Joi.valid('START', 'RUNNING', 'COMPLETE', 'ABORT', 'FAIL', 'OTHER'),
  eventTime: Joi.string().isoDate().max(40).required(),
  run: part({ runId: name.max(200).required(), facets: part({ errorMessage: part({ message: code }) }) }),
  job: part({
    namespace: name.required(),
    name: name.required(),
    facets: part({
      documentation: part({ description: words }),
      sql: part({ query: code }),
      sourceCode: part({ language: Joi.string().allow('').max(100), sourceCode: code }),
      sourceCodeLocation: part({ url: Joi.string().allow('').max(2000) }),
    }),
  }).required(),
  inputs: Joi.array().max(10_000).items(input),
  outputs: Joi.array().max(10_000).items(output),
};
export const RunEvent = typed<RunEvent>(part(fields));

/** What the standard calls a `DatasetEvent`: what a dataset is, without a job that reads or writes it. */
export interface DatasetEvent {
  readonly eventTime: string;
  readonly dataset: Dataset;
}
export const ReceivedEvent = typed<RunEvent | DatasetEvent>(
  part({ ...fields, job: fields.job.optional(), dataset: part(dataset) }).xor('job', 'dataset'),
);
