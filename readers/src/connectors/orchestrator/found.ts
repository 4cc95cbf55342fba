import type { DatasetName } from '@idrel/contract/lineage';
import { type FoundAsset, type FoundFlow, keyOf, toldOf } from '../types.ts';
import { alsoTold, type Job, type NamedEnd, readDataset, type ToldDataset } from './openLineage.ts';

/** So many columns of a dataset are taken from what events tell. */
const COLUMNS_MOST = 5000;

const folder = (top: string, name: string): FoundAsset => ({
  key: keyOf(top, name),
  parentKey: keyOf(top),
  kind: 'folder',
  name,
  depth: 1,
  position: 0,
  comment: null,
  native: {},
  stats: {},
});

/** The key of a dataset of a system that Idrel does not read: it stands among the jobs that tell of it, since nothing else will. */
const keyOfDataset = (top: string, { namespace, name }: DatasetName) => keyOf(top, namespace, name);
const keyOfJob = (top: string, job: Job) => keyOf(top, job.namespace, job.name);
const isElsewhere = (dataset: DatasetName) => readDataset(dataset) === undefined;

function toJob(top: string, job: Job): FoundAsset {
  const last = job.runs.at(-1);
  const names = (datasets: readonly DatasetName[]) => datasets.map(({ namespace, name }) => `${namespace}/${name}`);
  return {
    key: keyOfJob(top, job),
    parentKey: keyOf(top, job.namespace),
    kind: 'flow',
    name: job.name,
    depth: 2,
    position: 0,
    comment: job.description || null,
    native: {
      ...(job.reads.length > 0 ? { reads: names(job.reads) } : {}),
      ...(job.writes.length > 0 ? { writes: names(job.writes) } : {}),
      ...(job.code ? { definition: job.code } : {}),
      ...(job.language ? { codeLanguage: job.language } : {}),
      ...(job.codeAt ? { codeAt: job.codeAt } : {}),
    },
    stats: statsOf(job, last),
  };
}

const statsOf = (job: Job, last: Job['runs'][number] | undefined): FoundAsset['stats'] => ({
  runs: job.runs.length,
  failed: job.runs.filter(({ state }) => state === 'failed').length,
  ...(last
    ? {
        lastState: last.state,
        lastAt: last.ended ?? last.began ?? '',
        ...(last.message ? { lastMessage: last.message } : {}),
      }
    : {}),
});

/** A dataset that stands here, with the columns that events tell or name. */
function toDataset(top: string, dataset: ToldDataset, columns: ReadonlySet<string>): FoundAsset[] {
  const key = keyOfDataset(top, dataset);
  const told = new Map(dataset.fields.map((field) => [field.name, field]));
  const names = [...new Set([...told.keys(), ...columns])].slice(0, COLUMNS_MOST);
  return [
    {
      key,
      parentKey: keyOf(top, dataset.namespace),
      kind: 'table',
      name: dataset.name,
      depth: 2,
      position: 0,
      comment: dataset.description || null,
      native: {},
      stats: {},
    },
    ...names.map(
      (name, position): FoundAsset => ({
        key: keyOf(key, name),
        parentKey: key,
        kind: 'column',
        name,
        depth: 3,
        position,
        comment: told.get(name)?.description || null,
        native: { type: told.get(name)?.type || 'not told', nullable: true },
        stats: {},
      }),
    ),
  ];
}

/**
 * Jobs as assets and flows; one without a name only tells of datasets. Datasets of systems that Idrel reads are the assets of those sources; those of other systems stand here, below their
 * namespace.
 * @param top the name of the service that tells of them, by which it is known again
 * @param name how it is called now
 */
export function found(
  top: string,
  native: FoundAsset['native'],
  told: readonly Job[],
  name = top,
): { assets: FoundAsset[]; flows: FoundFlow[] } {
  const jobs = told.filter((job) => job.name !== '');
  const named = new Map<string, Set<string>>();
  const note = ({ dataset, column, at }: NamedEnd): void => {
    const key = keyOfDataset(top, dataset);
    if (!at && column !== null) named.set(key, (named.get(key) ?? new Set()).add(column));
  };
  for (const { edges, influences } of jobs)
    for (const { from, to } of [...edges, ...influences]) {
      note(from);
      note(to);
    }
  const datasets = new Map<string, ToldDataset>();
  const tell = (dataset: ToldDataset): void => {
    const key = keyOfDataset(top, dataset);
    if (isElsewhere(dataset)) datasets.set(key, alsoTold(dataset, datasets.get(key)));
  };
  for (const { edges, influences, datasets: all } of told) {
    all.forEach(tell);
    // One may be named by a column alone.
    for (const { dataset } of [...edges, ...influences].flatMap(({ from, to }) => [from, to]))
      tell({ ...dataset, description: '', fields: [] });
  }
  const jobKeys = new Set(jobs.map((job) => keyOfJob(top, job)));
  const own = [...datasets].filter(([key]) => !jobKeys.has(key));
  const folders = new Set([...jobs.map(({ namespace }) => namespace), ...own.map(([, { namespace }]) => namespace)]);
  return {
    assets: [
      {
        key: keyOf(top),
        parentKey: null,
        kind: 'application',
        name,
        depth: 0,
        position: 0,
        comment: null,
        native,
        stats: {},
      },
      ...[...folders].map((one) => folder(top, one)),
      ...jobs.map((job) => toJob(top, job)),
      ...own.flatMap(([key, dataset]) => toDataset(top, dataset, named.get(key) ?? new Set())),
    ],
    flows: jobs.map((job) => toFlow(top, job)),
  };
}

function toFlow(top: string, job: Job): FoundFlow {
  const isHere = (end: NamedEnd): boolean => end.at === undefined;
  const keyOfEnd = ({ dataset, column }: NamedEnd): string =>
    column === null ? keyOfDataset(top, dataset) : keyOf(keyOfDataset(top, dataset), column);
  const told = <T extends { readonly from: NamedEnd; readonly to: NamedEnd }>({ from, to, ...rest }: T) => ({
    ...rest,
    from: from.at ?? keyOfEnd(from),
    to: to.at ?? keyOfEnd(to),
  });
  const here = <T extends { readonly from: NamedEnd; readonly to: NamedEnd }>(all: readonly T[]) =>
    all
      .filter(({ from, to }) => isHere(from) && isHere(to))
      .map(({ from, to, ...rest }) => ({ ...rest, from: keyOfEnd(from), to: keyOfEnd(to) }));
  const apart = <T extends { readonly from: NamedEnd; readonly to: NamedEnd }>(all: readonly T[]) =>
    all.filter(({ from, to }) => !isHere(from) || !isHere(to)).map(told);
  return {
    key: keyOfJob(top, job),
    kind: 'load',
    origin: 'run event',
    statement: job.code ?? '',
    problems: job.problems.map(toldOf),
    edges: here(job.edges),
    influences: here(job.influences),
    remote: apart(job.edges),
    remoteInfluences: apart(job.influences),
    runs: job.runs,
  };
}
