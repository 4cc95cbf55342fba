import type { OutlineItem } from '@idrel/contract/scanning';
import Joi from 'joi';
import { openRest, type Rest, reachRest } from '../rest.ts';
import { runSteps } from '../steps.ts';
import {
  type Connector,
  type ConnectorInput,
  type FoundAsset,
  type FoundFlow,
  IMAGE_MOST,
  keyOf,
  OUTLINE_MOST,
  placeOf,
  type Reading,
  type RemoteEdge,
  SourceProblem,
  toldOf,
} from '../types.ts';

/** A report server: workspaces with reports and dashboards, their fields, the tables behind them, and how often they are opened. Read over REST; it holds no values of its own. */
export const reports: Connector = { test, open };

interface Field {
  name: string;
  type: string;
  label?: string;
  /** What it shows: columns of datasets, or fields of other documents of the workspace. */
  from: {
    dataset?: string;
    column?: string;
    document?: string;
    field?: string;
    how?: 'copied' | 'transformed' | 'aggregated';
  }[];
}
interface Document {
  id: string;
  name: string;
  kind: 'report' | 'dashboard';
  description: string;
  author: string | null;
  changedAt: string | null;
  query: string | null;
  fields: Field[];
  /** Whether the server keeps an image of it as it was last drawn. */
  image: boolean;
  opened: { times: number; people: number; last: string | null };
}
interface Dataset {
  id: string;
  connection: { kind: 'postgresql' | 'mariadb'; host: string; port: number; database: string };
  table: string[];
}
interface Workspace {
  id: string;
  name: string;
  description: string;
}

const text = Joi.string().allow('');
const WORKSPACE = Joi.object({
  id: Joi.string().required(),
  name: Joi.string().required(),
  description: text.default(''),
});
const DATASET = Joi.object({
  id: Joi.string().required(),
  connection: Joi.object({
    kind: Joi.valid('postgresql', 'mariadb').required(),
    host: Joi.string().required(),
    port: Joi.number().required(),
    database: Joi.string().required(),
  }).required(),
  table: Joi.array().items(Joi.string()).min(1).required(),
});
const DOCUMENT = Joi.object({
  id: Joi.string().required(),
  name: Joi.string().required(),
  kind: Joi.valid('report', 'dashboard').required(),
  description: text.default(''),
  author: text.allow(null).default(null),
  changedAt: text.allow(null).default(null),
  query: text.allow(null).default(null),
  fields: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().required(),
        type: text.default(''),
        label: text,
        from: Joi.array()
          .items(
            Joi.object({
              dataset: Joi.string(),
              column: Joi.string(),
              document: Joi.string(),
              field: Joi.string(),
              how: Joi.valid('copied', 'transformed', 'aggregated'),
            }).unknown(),
          )
          .default([]),
      }).unknown(),
    )
    .default([]),
  image: Joi.boolean().default(false),
  opened: Joi.object({
    times: Joi.number().default(0),
    people: Joi.number().default(0),
    last: text.allow(null).default(null),
  })
    .unknown()
    .default({ times: 0, people: 0, last: null }),
});
const ME = Joi.object({ name: Joi.string().required() });

async function test(input: ConnectorInput) {
  let rest: Rest | undefined;
  const at = () => rest as Rest;
  let workspaces: Workspace[] = [];
  return runSteps([
    ...reachRest(input),
    [
      'Authenticate',
      async () => {
        rest = openRest(input);
        return `The token is that of ${(await at().get<{ name: string }>('/api/me', ME)).name}.`;
      },
    ],
    [
      'Rights to read the catalog',
      async () => {
        workspaces = await at().all<Workspace>('/api/workspaces', WORKSPACE);
        if (workspaces.length === 0)
          throw new SourceProblem(
            'The token may see no workspace.',
            'Add its owner as a reader to the workspaces that are to be scanned.',
          );
        return `${workspaces.length} workspaces can be listed.`;
      },
    ],
    [
      'Rights to read data',
      async () => {
        const documents = await at().all<Document>(
          `/api/workspaces/${encodeURIComponent(workspaces[0]?.id ?? '')}/documents`,
          DOCUMENT,
        );
        return `${documents.length} reports and dashboards of ${workspaces[0]?.name} can be read.`;
      },
    ],
  ]);
}

async function open(input: ConnectorInput): Promise<Reading> {
  const rest = openRest(input);
  const flows: FoundFlow[] = [];
  const documentsOf = async (workspace: Workspace) =>
    toldApart(await rest.all<Document>(`/api/workspaces/${encodeURIComponent(workspace.id)}/documents`, DOCUMENT));
  return {
    async outline() {
      const items: OutlineItem[] = [];
      for (const workspace of await rest.all<Workspace>('/api/workspaces', WORKSPACE)) {
        items.push({ path: workspace.name, kind: 'folder' });
        for (const document of await documentsOf(workspace))
          items.push({ path: `${workspace.name}/${document.name}`, kind: document.kind });
      }
      return items.slice(0, OUTLINE_MOST);
    },
    async structure(progress) {
      const { name } = await rest.get<{ name: string }>('/api/server', Joi.object({ name: Joi.string().required() }));
      const top = keyOf(name);
      const assets: FoundAsset[] = [
        {
          key: top,
          parentKey: null,
          kind: 'application',
          name,
          depth: 0,
          position: 0,
          comment: null,
          native: { address: input.address.url },
          stats: {},
        },
      ];
      flows.length = 0;
      let fields = 0;
      for (const workspace of await rest.all<Workspace>('/api/workspaces', WORKSPACE)) {
        const folder = keyOf(name, workspace.name);
        assets.push({
          key: folder,
          parentKey: top,
          kind: 'folder',
          name: workspace.name,
          depth: 1,
          position: 0,
          comment: workspace.description || null,
          native: {},
          stats: {},
        });
        const datasets = new Map(
          (await rest.all<Dataset>(`/api/workspaces/${encodeURIComponent(workspace.id)}/datasets`, DATASET)).map(
            (dataset) => [dataset.id, dataset],
          ),
        );
        const documents = await documentsOf(workspace);
        const keys = new Map(documents.map((document) => [document.id, keyOf(folder, document.name)]));
        for (const document of documents) {
          assets.push(...toAssets(folder, workspace, document));
          flows.push(toFlow(document, keys, datasets));
          fields += document.fields.length;
          progress(assets.length - fields, fields);
        }
      }
      return { assets, sampleable: [] };
    },
    sample: async () => ({ values: [] }),
    async image([workspace, document]) {
      if (!workspace || !document)
        throw new SourceProblem('It is not known where its image lies.', 'Scan the source again.');
      return rest.bytes(
        `/api/workspaces/${encodeURIComponent(workspace)}/documents/${encodeURIComponent(document)}/image`,
        IMAGE_MOST,
      );
    },
    flows: async () => flows,
    abort: () => rest.abort(),
    close: async () => undefined,
  };
}

/** Names that stand twice in a workspace are told apart by their ids. */
function toldApart(documents: readonly Document[]): Document[] {
  const times = new Map<string, number>();
  for (const { name } of documents) times.set(name, (times.get(name) ?? 0) + 1);
  return documents.map((document) => ({
    ...document,
    name: (times.get(document.name) ?? 0) > 1 ? `${document.name} (${document.id})` : document.name,
    fields: document.fields.filter(
      (field, index, all) => all.findIndex((other) => other.name === field.name) === index,
    ),
  }));
}

function toAssets(folder: string, workspace: Workspace, document: Document): FoundAsset[] {
  const key = keyOf(folder, document.name);
  const { times, people, last } = document.opened;
  return [
    {
      key,
      parentKey: folder,
      kind: document.kind,
      name: document.name,
      depth: 2,
      position: 0,
      comment: document.description || null,
      native: {
        ...(document.author ? { author: document.author } : {}),
        ...(document.query ? { definition: document.query } : {}),
        ...(document.image ? { image: [workspace.id, document.id] } : {}),
      },
      stats: {
        opened: times,
        openedBy: people,
        ...(last ? { lastOpened: last } : {}),
        ...(document.changedAt ? { modified: document.changedAt } : {}),
      },
    },
    ...document.fields.map(
      (field, position): FoundAsset => ({
        key: keyOf(key, field.name),
        parentKey: key,
        kind: 'column',
        name: field.name,
        depth: 3,
        position,
        comment: field.label || null,
        native: { type: field.type || 'field', nullable: true },
        stats: {},
      }),
    ),
  ];
}

function toFlow(
  document: Document,
  keys: ReadonlyMap<string, string>,
  datasets: ReadonlyMap<string, Dataset>,
): FoundFlow {
  const key = keys.get(document.id) ?? '';
  const edges: { from: string; to: string; kind: string }[] = [];
  const remote: RemoteEdge[] = [];
  const problems: string[] = [];
  for (const field of document.fields)
    for (const from of field.from) {
      const to = keyOf(key, field.name);
      const kind = from.how ?? 'copied';
      const other = from.document === undefined ? undefined : keys.get(from.document);
      const dataset = from.dataset === undefined ? undefined : datasets.get(from.dataset);
      if (other && from.field) edges.push({ from: keyOf(other, from.field), to, kind });
      else if (dataset && from.column) {
        const { kind: system, host, port, database } = dataset.connection;
        remote.push({
          from: { place: placeOf(system, host, port, database), names: dataset.table, column: from.column },
          to,
          kind,
        });
      } else
        problems.push(
          `The field ${field.name} names ${from.dataset ?? from.document ?? 'nothing'}, which the workspace does not have.`,
        );
    }
  return {
    key,
    kind: document.kind,
    origin: 'report',
    statement: document.query ?? '',
    problems: problems.map(toldOf),
    edges,
    influences: [],
    remote,
  };
}
