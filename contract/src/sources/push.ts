import { kindsThat } from '@idrel/core/things';
import {
  either,
  endpoint,
  idParam,
  Joi,
  list,
  nullable,
  type Of,
  oneOf,
  optional,
  record,
  role,
  shape,
  withDefault,
} from '../http/index.ts';
import { RunAnswer } from '../scanning/runs.ts';

/** Kinds of asset that may be pushed, and what each of them may lie in. */
export const PUSHED_KINDS = kindsThat('pushed');

const name = Joi.string()
  .min(1)
  .max(1000)
  .pattern(/^\P{Cc}*$/u, 'a name without control characters');
const path = list(name).min(1).max(30);

export const PushBody = shape({
  whole: withDefault(Joi.boolean(), false).description(
    'This is all that there is: what is not named is gone. Else what is named is added or changed, and the rest stays; a table is named with all columns that it has',
  ),
  assets: list(
    shape({
      path: path.description('Names from the top to the asset'),
      kind: oneOf(PUSHED_KINDS),
      comment: optional(Joi.string().allow('').max(20_000)),
      type: optional(Joi.string().max(500)),
      nullable: optional(Joi.boolean()),
      position: optional(Joi.number().integer().min(0).max(100_000)),
      facts: optional(
        record(nullable(either(Joi.string().allow('').max(20_000), Joi.number(), Joi.boolean())), 60).max(50),
      ),
      rows: optional(Joi.number().min(0)),
      values: optional(list(nullable(Joi.string().allow('').max(4000))).max(10_000)),
    }),
  )
    .min(1)
    .max(200_000),
  flows: withDefault(
    list(
      shape({
        path,
        statement: withDefault(Joi.string().allow('').max(1_000_000), ''),
        edges: withDefault(
          list(
            shape({
              from: path,
              to: path,
              kind: withDefault(oneOf(['copied', 'transformed', 'aggregated', 'masked']), 'copied'),
            }),
          ).max(100_000),
          [],
        ),
      }),
    ).max(100_000),
    [],
  ),
});
export type PushBody = Of<typeof PushBody>;
export type PushedAsset = PushBody['assets'][number];
export type PushedFlow = PushBody['flows'][number];

export const pushEndpoints = {
  push: endpoint({
    id: 'pushAssets',
    method: 'post',
    path: '/sources/:id/push',
    area: 'scanning',
    summary: 'Push what a source holds',
    may: role('source administrator', 'its domain', 'only for sources of the kind pushed'),
    params: idParam,
    body: PushBody,
    bodyBytes: 64 << 20,
    heavy: true,
    problems: ['not-pushed', 'run-going'],
    answer: RunAnswer,
    answers:
      'The run that wrote it, with its comparison. Pushing the same again changes nothing. All of it is written, or nothing.',
  }),
};
