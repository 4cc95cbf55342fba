import { endpoint, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

/** Kinds of asset that may be pushed, and what each of them may lie in. */
export const PUSHED_KINDS = [
  'database',
  'schema',
  'table',
  'view',
  'materialised view',
  'folder',
  'file',
  'file set',
  'report',
  'dashboard',
  'application',
  'flow',
  'type',
  'sequence',
  'procedure',
  'function',
  'column',
] as const;

export interface PushedAsset {
  /** Names from the top to the asset: its address within the source. */
  readonly path: readonly string[];
  readonly kind: (typeof PUSHED_KINDS)[number];
  readonly comment?: string;
  /** Of a column: its type as the system names it, and whether values may be missing. */
  readonly type?: string;
  readonly nullable?: boolean;
  readonly position?: number;
  /** More facts: a change of one is told as a change of the asset. */
  readonly facts?: Readonly<Record<string, string | number | boolean | null>>;
  /** About how many rows it holds. */
  readonly rows?: number;
  /** Of a column: some of its values, for recognition and the profile; what that shows of them is all that is kept. */
  readonly values?: readonly (string | null)[];
}
export interface PushedFlow {
  /** The asset that the flow makes, or the flow itself. */
  readonly path: readonly string[];
  readonly statement: string;
  readonly edges: readonly {
    readonly from: readonly string[];
    readonly to: readonly string[];
    readonly kind: string;
  }[];
}
export interface PushBody {
  readonly whole: boolean;
  readonly assets: readonly PushedAsset[];
  readonly flows: readonly PushedFlow[];
}

const name = Joi.string()
  .min(1)
  .max(1000)
  .pattern(/^\P{Cc}*$/u, 'a name without control characters');
const path = Joi.array().items(name).min(1).max(30).required();

export const pushEndpoints = {
  push: endpoint({
    id: 'pushAssets',
    method: 'post',
    path: '/sources/:id/push',
    area: 'scanning',
    summary: 'Push what a source holds',
    rights: 'source administrator in its domain; only for sources of the kind pushed',
    params: idParam,
    body: Joi.object({
      whole: Joi.boolean()
        .default(false)
        .description(
          'This is all that there is: what is not named is gone. Else what is named is added or changed, and the rest stays; a table is named with all columns that it has',
        ),
      assets: Joi.array()
        .items(
          Joi.object({
            path: path.description('Names from the top to the asset'),
            kind: Joi.string()
              .valid(...PUSHED_KINDS)
              .required(),
            comment: Joi.string().allow('').max(20_000),
            type: Joi.string().max(500),
            nullable: Joi.boolean(),
            position: Joi.number().integer().min(0).max(100_000),
            facts: Joi.object()
              .pattern(
                Joi.string().max(60),
                Joi.alternatives(Joi.string().allow('').max(20_000), Joi.number(), Joi.boolean(), Joi.valid(null)),
              )
              .max(50),
            rows: Joi.number().min(0),
            values: Joi.array().items(Joi.string().allow('').max(4000).allow(null)).max(10_000),
          }),
        )
        .min(1)
        .max(200_000)
        .required(),
      flows: Joi.array()
        .items(
          Joi.object({
            path,
            statement: Joi.string().allow('').max(1_000_000).default(''),
            edges: Joi.array()
              .items(
                Joi.object({
                  from: path,
                  to: path,
                  kind: Joi.string().valid('copied', 'transformed', 'aggregated', 'masked').default('copied'),
                }),
              )
              .max(100_000)
              .default([]),
          }),
        )
        .max(100_000)
        .default([]),
    }),
    bodyBytes: 64 << 20,
    heavy: true,
    answers:
      'The run that wrote it, with its comparison. Pushing the same again changes nothing. All of it is written, or nothing.',
  }),
};
