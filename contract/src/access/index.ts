import { type ColumnAccess, MASKS, type Mask } from '@idrel/core/access';
import { endpoint, id, idParam } from '../http/index.ts';
import { Joi } from '../http/joi.ts';

export interface PolicyBody {
  name: string;
  effect: 'allow' | 'protect' | 'deny';
  everyone: boolean;
  groupIds: string[];
  personIds: string[];
  exceptGroupIds: string[];
  assetIds: string[];
  classKeys: string[];
  /** It holds also for what carries the values on, along lineage (protect and deny). */
  carried: boolean;
  columns: string[] | null;
  mask: Mask | null;
  rows: { column: string; values: string[] } | null;
  enabled: boolean;
}
export interface PolicyAnswer extends PolicyBody {
  readonly id: string;
  readonly version: number;
  readonly assets: readonly { readonly id: string; readonly kind: string; readonly path: string }[];
  readonly createdBy: string | null;
  readonly mayEdit: boolean;
}
export interface ReachRow {
  readonly personId: string;
  readonly person: string;
  readonly tableId: string;
  readonly table: string;
  readonly column: string;
  readonly classes: readonly string[];
  readonly level: number | null;
  readonly before: ColumnAccess;
  readonly after: ColumnAccess;
  readonly beforeMask: Mask | null;
  readonly afterMask: Mask | null;
}
export interface ReachAnswer {
  readonly people: number;
  readonly tables: number;
  readonly columns: number;
  readonly sensitive: number;
  readonly gains: number;
  readonly losses: number;
  readonly masked: number;
  readonly rows: readonly ReachRow[];
  /** Columns in which the guarded values can be read plain all the same, since a view or a load carries them on. */
  readonly passedOn: readonly {
    readonly columnId: string;
    readonly tableId: string;
    readonly table: string;
    readonly column: string;
    /** A guarded column from which they come. */
    readonly from: string;
    readonly people: number;
  }[];
  /** Columns that are left empty because the mask chosen could not hide them. */
  readonly otherwise: readonly {
    readonly columnId: string;
    readonly tableId: string;
    readonly table: string;
    readonly column: string;
    readonly why: string;
  }[];
}
/** A class that a column lost while a policy rested on it: it protects on until somebody with the right over the policies lets it go. */
export interface HeldClass {
  readonly assetId: string;
  readonly path: string;
  readonly source: string;
  readonly classKey: string;
  readonly since: string;
  readonly policies: readonly { readonly id: string; readonly name: string }[];
  readonly mayLetGo: boolean;
}
/** What letting a class go would open. */
export interface LetGoEffect {
  readonly people: number;
  readonly rows: readonly Pick<
    ReachRow,
    'personId' | 'person' | 'table' | 'column' | 'before' | 'after' | 'beforeMask' | 'afterMask'
  >[];
}
export interface ColumnExplained {
  readonly name: string;
  readonly access: ColumnAccess;
  readonly mask: Mask | null;
  /** Why the mask is another one than the policy says. */
  readonly instead: string | null;
  readonly reasons: readonly { readonly policyId: string; readonly policy: string; readonly effect: string }[];
}
export interface TableExplained {
  readonly tableId: string;
  readonly path: string;
  readonly access: 'yes' | 'partly' | 'no';
  readonly columns: readonly ColumnExplained[];
  readonly rowLimits: readonly {
    readonly column: string;
    readonly values: readonly string[];
    readonly policy: string;
  }[];
}
export interface TryAnswer {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
  readonly capped: boolean;
  readonly milliseconds: number;
  readonly rewritten: string;
  readonly tables: readonly TableExplained[];
}

const ids = Joi.array().items(id).max(500).unique().default([]);
export const policyBody = Joi.object({
  name: Joi.string().trim().min(1).max(160).required(),
  effect: Joi.string().valid('allow', 'protect', 'deny').required(),
  everyone: Joi.boolean().default(false),
  groupIds: ids,
  personIds: ids,
  exceptGroupIds: ids,
  assetIds: ids,
  classKeys: Joi.array().items(Joi.string().max(80)).max(100).unique().default([]),
  carried: Joi.boolean().default(false),
  columns: Joi.array().items(Joi.string().max(63)).max(1600).unique().allow(null).default(null),
  mask: Joi.string()
    .valid(...Object.keys(MASKS))
    .allow(null)
    .default(null),
  rows: Joi.object({
    column: Joi.string().max(63).required(),
    values: Joi.array().items(Joi.string().max(200)).max(200).required(),
  })
    .allow(null)
    .default(null),
  enabled: Joi.boolean().default(true),
});
const sql = Joi.string().max(100_000).required();

export const accessEndpoints = {
  list: endpoint({
    id: 'policies',
    method: 'get',
    path: '/policies',
    area: 'access',
    summary: 'All policies',
    answers: 'Policies, deny first, then protect, then allow.',
  }),
  create: endpoint({
    id: 'createPolicy',
    method: 'post',
    path: '/policies',
    area: 'access',
    summary: 'Make a policy',
    rights: 'policy administrator in the domains of its assets; everywhere when it holds by class',
    body: policyBody,
    answers: 'The policy.',
  }),
  change: endpoint({
    id: 'changePolicy',
    method: 'put',
    path: '/policies/:id',
    area: 'access',
    summary: 'Change a policy',
    rights: 'as for making one',
    params: idParam,
    body: policyBody,
    answers: 'The policy. Send If-Match with its version.',
  }),
  remove: endpoint({
    id: 'removePolicy',
    method: 'delete',
    path: '/policies/:id',
    area: 'access',
    summary: 'Remove a policy',
    rights: 'as for making one',
    params: idParam,
    answers: 'Nothing.',
  }),
  reach: endpoint({
    id: 'reach',
    method: 'post',
    path: '/policies/reach',
    area: 'access',
    summary: 'What a draft would change',
    rights: 'policy administrator in any domain',
    body: Joi.object({ policyId: id.allow(null).default(null), draft: policyBody.allow(null).required() }),
    heavy: true,
    answers: 'Who gains and loses what; nothing is saved.',
  }),
  held: endpoint({
    id: 'heldClasses',
    method: 'get',
    path: '/access/held',
    area: 'access',
    summary: 'Classes that protect on though they are gone',
    rights: 'policy administrator in any domain',
    answers: 'Columns of the domains that you may see, with the policies that rest on the class. At most 500.',
  }),
  letGoEffect: endpoint({
    id: 'letGoEffect',
    method: 'get',
    path: '/access/held/effect',
    area: 'access',
    summary: 'Who would read what if a held class were let go',
    rights: 'policy administrator in any domain',
    query: Joi.object({ asset: id.required(), class: Joi.string().max(80).required() }),
    answers: 'Who reads the column, before and after.',
  }),
  letGo: endpoint({
    id: 'letGo',
    method: 'post',
    path: '/access/held/let-go',
    area: 'access',
    summary: 'Let a held class go',
    rights: 'as for changing each policy that rests on it',
    body: Joi.object({ assetId: id.required(), classKey: Joi.string().max(80).required() }),
    answers: 'Nothing. The column is then read as the policies say without the class.',
  }),
  explain: endpoint({
    id: 'explain',
    method: 'get',
    path: '/access/explain',
    area: 'access',
    summary: 'What a person may read of an asset, and why',
    query: Joi.object({ person: id.required(), asset: id.required() }),
    answers: 'Decisions column by column with the policies behind them.',
  }),
  tryIt: endpoint({
    id: 'tryQuery',
    method: 'post',
    path: '/access/try',
    area: 'access',
    summary: 'Run a SELECT as a person',
    rights: 'policy administrator in the domain of the source',
    body: Joi.object({ personId: id.required(), sourceId: id.required(), sql }),
    answers: 'Rows as that person gets them (at most 200), and what was refused or masked.',
  }),
  query: endpoint({
    id: 'query',
    method: 'post',
    path: '/sources/:id/query',
    area: 'access',
    summary: 'Run a SELECT as yourself through the gateway',
    params: idParam,
    body: Joi.object({ sql, limit: Joi.number().integer().min(1).max(1_000_000).default(100_000) }),
    stream: true,
    answers:
      'Rows as NDJSON: first line the names of the columns, then one array of texts a row, last line {"rows":n,"capped":bool,"because":"rows"|"bytes"}; an error after the first line stands in a last line {"problem":…}.',
  }),
};
