import { free, Joi } from '@idrel/contract/http';
import type { RunDetails } from '@idrel/contract/scanning';
import { ASKED_HOW, FLOW_ORIGINS } from '@idrel/core/lineage';
import type { Finding } from '@idrel/core/recognition';
import { type ColumnProfile, PROFILE_BUCKETS, PROFILE_FREQUENT, PROFILE_PATTERNS } from '@idrel/core/scanning';
import type { Schema } from 'joi';
import {
  type FlowProblem,
  type FoundAsset,
  type FoundFlow,
  type FoundGrant,
  type FoundQuery,
  type FoundRights,
  type Mark,
  QUERIES_MOST,
  QUERY_LONGEST,
  toldOf,
} from '../connectors/types.ts';
import type { NotCovered } from './cover.ts';
import type { RunReading } from './readSource.ts';

/** What was sent of a run is not what it should be. */
export class WireProblem extends Error {}

type Line =
  | { asset: FoundAsset }
  | { mark: readonly [key: string, mark: Mark] }
  | { unchanged: string }
  | { findings: readonly [key: string, findings: readonly Finding[]] }
  | { profile: readonly [key: string, profile: ColumnProfile] }
  | { query: FoundQuery }
  | { roles: FoundRights['roles'] }
  | { grant: FoundGrant }
  | { later: FoundRights['later'] }
  | { ownRows: FoundRights['ownRows'] }
  | { sampled: readonly [key: string, mark: string] }
  | { flow: FoundFlow }
  | { notCovered: NotCovered }
  | { details: RunDetails };

const KEYS_A_LINE = 5000;

/** A run's reading as lines of JSON, one thing a line: it can be sent in pieces however large it is. */
export function* toLines({
  structure,
  findings,
  sampled,
  profiles,
  flows,
  queries,
  rights,
  notCovered,
  details,
}: RunReading): Generator<string> {
  const line = (entry: Line) => `${JSON.stringify(entry)}\n`;
  for (const asset of structure.assets) yield line({ asset });
  for (const entry of structure.marks ?? []) yield line({ mark: entry });
  for (const key of structure.unchanged ?? []) yield line({ unchanged: key });
  for (const entry of findings) yield line({ findings: entry });
  for (const entry of profiles) yield line({ profile: entry });
  for (const entry of sampled) yield line({ sampled: entry });
  for (const flow of flows) yield line({ flow });
  for (const query of queries) yield line({ query });
  if (rights) {
    yield line({ roles: rights.roles });
    // A right on very many things comes in pieces: a line has a limit.
    for (const grant of rights.grants)
      for (let from = 0; from < grant.keys.length; from += KEYS_A_LINE)
        yield line({ grant: { ...grant, keys: grant.keys.slice(from, from + KEYS_A_LINE) } });
    yield line({ later: rights.later });
    yield line({ ownRows: rights.ownRows });
  }
  if (notCovered) yield line({ notCovered });
  yield line({ details });
}

const key = Joi.string().min(1).max(20_000);
const text = Joi.string().allow('');
/** The name of a role. */
const name = Joi.string().min(1).max(200);
const ROLES_MOST = 100_000;
const share = Joi.number().min(0).max(1);
const figure = Joi.number().unsafe();
const amount = Joi.number().min(0).unsafe();
const counted = (most: number) =>
  Joi.array().items(Joi.array().ordered(text.required(), amount.required())).max(most).required();
const SHAPES: Record<string, Schema> = {
  asset: Joi.object({
    key: key.required(),
    parentKey: key.required().allow(null),
    kind: Joi.string().max(60).required(),
    name: text.required(),
    depth: Joi.number().integer().min(0).max(1000).required(),
    position: Joi.number().integer().required(),
    comment: text.allow(null).required(),
    native: free().required(),
    stats: free().required(),
  }),
  mark: Joi.array().ordered(
    key.required(),
    Joi.object({ structure: text.required(), data: text.required() }).required(),
  ),
  unchanged: key,
  findings: Joi.array().ordered(
    key.required(),
    Joi.array()
      .items(
        Joi.object({
          classKey: Joi.string().required(),
          label: Joi.string().required(),
          level: Joi.number().integer().min(1).max(4),
          detector: Joi.string().required(),
          version: Joi.string().required(),
          share: share.required(),
          confidence: share.required(),
          matched: Joi.number().integer().min(0).required(),
          sampled: Joi.number().integer().min(0).required(),
          distinct: Joi.number().integer().min(0).required(),
          state: Joi.valid('certain', 'to-settle').required(),
          name: free().required(),
          terms: Joi.array().required(),
          examples: Joi.array().items(text).max(5).required(),
          inside: free(),
          checked: Joi.valid(true),
          texts: free(),
        }),
      )
      .required(),
  ),
  sampled: Joi.array().ordered(key.required(), text.required()),
  query: Joi.object({
    print: text.max(200).required(),
    text: text.max(QUERY_LONGEST).required(),
    calls: Joi.array()
      .items(Joi.array().ordered(text.max(200).required(), amount.required()))
      .max(10_000)
      .required(),
    reads: Joi.array()
      .items(
        Joi.array().ordered(
          key.required(),
          Joi.array()
            .items(Joi.valid(...ASKED_HOW))
            .required(),
        ),
      )
      .max(20_000)
      .required(),
    gives: Joi.array().items(text.max(200)).max(1000).required(),
    whole: Joi.boolean().required(),
  }),
  roles: Joi.array()
    .items(
      Joi.object({
        name: name.required(),
        login: Joi.boolean().required(),
        superuser: Joi.boolean().required(),
        bypassesRows: Joi.boolean().required(),
        scans: Joi.boolean().required(),
        memberOf: Joi.array().items(name).max(ROLES_MOST).required(),
      }),
    )
    .max(ROLES_MOST),
  grant: Joi.object({
    holder: name.allow('').required(),
    how: Joi.valid('grant', 'owner').required(),
    passesOn: Joi.boolean().required(),
    by: name.allow('').required(),
    keys: Joi.array().items(key).min(1).max(KEYS_A_LINE).required(),
  }),
  later: Joi.array()
    .items(Joi.object({ maker: name.required(), key: key.required().allow(null), holder: name.allow('').required() }))
    .max(ROLES_MOST),
  ownRows: Joi.array()
    .items(Joi.object({ key: key.required(), forced: Joi.boolean().required() }))
    .max(1_000_000),
  profile: Joi.array().ordered(
    key.required(),
    Joi.object({
      measure: Joi.valid('number', 'time', 'text').required(),
      rows: amount.required(),
      whole: Joi.boolean().required(),
      nulls: amount.required(),
      distinct: amount.required(),
      length: Joi.object({ min: amount.required(), max: amount.required(), mean: amount.required() })
        .required()
        .allow(null),
      patterns: counted(PROFILE_PATTERNS),
      guarded: Joi.boolean().required(),
      first: text.required().allow(null),
      last: text.required().allow(null),
      span: Joi.object({ from: figure.required(), to: figure.required(), mean: figure.required() })
        .required()
        .allow(null),
      quantiles: Joi.array().items(figure).max(5).required().allow(null),
      frequent: counted(PROFILE_FREQUENT),
      histogram: Joi.array().items(amount).length(PROFILE_BUCKETS).required().allow(null),
    }).required(),
  ),
  flow: Joi.object({
    key: key.required(),
    kind: Joi.string().required(),
    origin: Joi.valid(...FLOW_ORIGINS).required(),
    statement: text.required(),
    asset: key,
    problems: Joi.array()
      .items(
        // Agents of before tell the reason alone.
        text,
        Joi.object({
          reason: text.required(),
          line: Joi.number().integer().required().allow(null),
          statement: text.required().allow(null),
          lost: Joi.boolean().required(),
        }),
      )
      .required(),
    statements: amount,
    edges: Joi.array()
      .items(
        Joi.object({
          from: key.required(),
          to: key.required(),
          kind: Joi.string().required(),
          line: Joi.number().integer(),
          expression: text.max(2000),
        }),
      )
      .required(),
    influences: Joi.array()
      .items(Joi.object({ from: key.required(), kind: Joi.string().required(), to: key }))
      .required(),
    remote: Joi.array().items(free()),
    remoteInfluences: Joi.array().items(free()),
  }),
  notCovered: Joi.object({
    count: Joi.number().integer().min(0).required(),
    paths: Joi.array().items(text).max(1_000_000).required(),
  }),
  details: Joi.object({
    slowest: Joi.array()
      .items(
        Joi.object({
          path: text.required(),
          seconds: Joi.number().min(0).required(),
          rows: Joi.number().min(0).required(),
        }),
      )
      .max(10)
      .required(),
    problems: Joi.array()
      .items(Joi.object({ path: text.required(), what: text.required() }))
      .max(500)
      .required(),
  }),
};

/** Remarks as they are kept; agents of before tell the reason of each alone. */
const withProblems = (flow: FoundFlow & { readonly problems: readonly (FlowProblem | string)[] }): FoundFlow => ({
  ...flow,
  problems: flow.problems.map((problem) => (typeof problem === 'string' ? toldOf(problem) : problem)),
});

/** The reading that was sent as lines. @throws WireProblem naming the line that is not as it should be */
export function fromLines(lines: Iterable<string>): RunReading {
  const assets: FoundAsset[] = [];
  const marks = new Map<string, Mark>();
  const unchanged = new Set<string>();
  const findings = new Map<string, readonly Finding[]>();
  const sampled = new Map<string, string>();
  const profiles = new Map<string, ColumnProfile>();
  const queries: FoundQuery[] = [];
  const flows: FoundFlow[] = [];
  let rights: { -readonly [K in keyof FoundRights]: FoundRights[K] } | null = null;
  const grants: FoundGrant[] = [];
  let notCovered: NotCovered | null = null;
  let details: RunDetails = { slowest: [], problems: [] };
  let number = 0;
  for (const line of lines) {
    number += 1;
    if (line.trim() === '') continue;
    let entry: Record<string, unknown>;
    try {
      entry = JSON.parse(line) as Record<string, unknown>;
    } catch {
      throw new WireProblem(`Line ${number} is not JSON.`);
    }
    const [what = '', ...more] = Object.keys(entry);
    const shape = SHAPES[what];
    if (!shape || more.length > 0) throw new WireProblem(`Line ${number} is none that a run is made of.`);
    const { error } = shape.validate(entry[what], { convert: false });
    if (error) throw new WireProblem(`Line ${number} (${what}): ${error.message}.`);
    const value = entry[what] as never;
    if (what === 'asset') assets.push(value);
    else if (what === 'mark') marks.set(...(value as [string, Mark]));
    else if (what === 'unchanged') unchanged.add(value);
    else if (what === 'findings') findings.set(...(value as [string, Finding[]]));
    else if (what === 'sampled') sampled.set(...(value as [string, string]));
    else if (what === 'profile') profiles.set(...(value as [string, ColumnProfile]));
    else if (what === 'query') {
      if (queries.length >= QUERIES_MOST)
        throw new WireProblem(`Line ${number} (query): there are more than ${QUERIES_MOST}.`);
      queries.push(value);
    } else if (what === 'flow') flows.push(withProblems(value));
    else if (what === 'roles') rights = { roles: value, grants, later: [], ownRows: [] };
    else if (what === 'grant' || what === 'later' || what === 'ownRows') {
      if (!rights) throw new WireProblem(`Line ${number} (${what}): it comes before the roles.`);
      if (what === 'grant') grants.push(value);
      else rights[what] = value;
    } else if (what === 'notCovered') notCovered = value;
    else details = value;
  }
  return {
    structure: { assets, sampleable: [], ...(marks.size > 0 ? { marks, unchanged } : {}) },
    findings,
    sampled,
    profiles,
    flows,
    queries,
    rights,
    notCovered,
    details,
  };
}
