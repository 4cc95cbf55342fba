import { type AssetKind, isKindThat } from '../things/index.ts';
import { fits } from './fits.ts';
import type { FlowOrigin, InfluenceKind, ValueKind } from './types.ts';

/** What can be done to a column, a table or a flow, and is asked about before. */
export const PROPOSALS = ['drop', 'rename', 'retype', 'forbid nulls', 'mask', 'stop'] as const;
export type Proposal = (typeof PROPOSALS)[number];
/** What can be asked of an asset of a kind. */
export const suitable = (kind: AssetKind): readonly Proposal[] =>
  isKindThat('runs', kind)
    ? ['stop']
    : kind === 'column'
      ? ['drop', 'rename', 'retype', 'forbid nulls', 'mask']
      : ['drop', 'rename'];
export interface ProposedChange {
  readonly what: Proposal;
  /** Of `retype` the new type, of `rename` the new name, where it is known. */
  readonly to: string | null;
}

/**
 * What becomes of something that is made of what changes, the gravest first: the database refuses the change because of it; it cannot be read any more; it
 * gets nothing new; it still holds the value that is to be hidden; its values or their type are others; only which rows it has is decided by it; it goes on as
 * it is.
 */
export const CONSEQUENCES = ['refused', 'fails', 'stale', 'shows', 'differs', 'rows', 'unharmed'] as const;
export type Consequence = (typeof CONSEQUENCES)[number];

/** What makes something of something else. */
export interface Maker {
  readonly origin: FlowOrigin;
  /** The kind of the source that it runs in, as `postgresql`. */
  readonly system: string;
  /** The flow, where that is an asset of its own. */
  readonly flow: string | null;
}
export interface MadeEdge {
  readonly from: string;
  readonly to: string;
  /** Null: from relation to relation, however its columns are used. */
  readonly how: ValueKind | InfluenceKind | null;
  readonly maker: Maker;
}
/** What edges lead from and to. */
export interface Made {
  readonly id: string;
  /** The relation that it is, or lies in. */
  readonly relation: string;
  readonly name: string;
  readonly type: string | null;
  /** The kind of its source. */
  readonly system: string;
  /** It is defined by what it reads, and yet keeps rows of its own until it is refreshed. */
  readonly keeps?: boolean;
}
export interface Told {
  readonly consequence: Consequence;
  /** One or two sentences. */
  readonly why: string;
  /** What it follows from; null of a flow. */
  readonly after: string | null;
}
type Outcome = Pick<Told, 'consequence' | 'why'> & {
  /** The type that the value has from here on. */
  readonly type?: string;
  /** What becomes of the flow itself. */
  readonly flow?: Pick<Told, 'consequence' | 'why'>;
};

const GRAVITY = new Map(CONSEQUENCES.map((one, at) => [one, at]));
const graver = (a: Consequence, b: Consequence): boolean => (GRAVITY.get(a) ?? 0) < (GRAVITY.get(b) ?? 0);
/** It cannot be made as it was, whatever column of it is looked at. */
const isHarm = (one: Consequence): boolean => one === 'refused' || one === 'fails' || one === 'stale';
const isValue = (how: MadeEdge['how']): how is ValueKind =>
  how === 'copied' || how === 'transformed' || how === 'aggregated' || how === 'masked';
/** What is asked anew each time that it is read; anything else keeps rows of its own. */
const isRead = ({ origin }: Maker): boolean => origin === 'view' || origin === 'link' || origin === 'report';

/** A definition or a statement names what is not there any more, or not by this name. */
function named({ what }: ProposedChange, start: Made, { origin, system }: Maker): Outcome {
  const thing = start.id === start.relation ? 'it' : 'the column';
  const by = what === 'rename' ? ` by its old name` : '';
  if (origin === 'by hand')
    return { consequence: 'differs', why: 'Somebody said that it comes from there; how, is not known here. Ask them.' };
  if (origin === 'view' && (system === 'postgresql' || system === 'sqlite')) {
    const database = system === 'sqlite' ? 'SQLite' : 'PostgreSQL';
    if (what === 'rename')
      return { consequence: 'unharmed', why: `${database} lets a view follow a new name by itself.` };
    if (system === 'postgresql' || thing !== 'it')
      return {
        consequence: 'refused',
        why: `${database} does not drop what a view names${system === 'postgresql' ? '; with CASCADE the view goes too' : ''}.`,
      };
  }
  if (origin === 'report')
    return { consequence: 'fails', why: `It asks for ${thing}${by}: it cannot be shown any more.` };
  if (origin === 'view' || origin === 'link')
    return { consequence: 'fails', why: `Its definition names ${thing}${by}: it cannot be read any more.` };
  return {
    consequence: 'stale',
    why: `What fills it names ${thing}${by}: from its next run on nothing new comes.`,
    flow: { consequence: 'fails', why: `It names ${start.name}${by}: its next run fails.` },
  };
}

/** A value has another type from `from` on. */
function retyped(type: string, maker: Maker, how: MadeEdge['how'], to: Made): Outcome {
  const { origin, system } = maker;
  if (origin === 'view' && system === 'postgresql')
    return {
      consequence: 'refused',
      why: 'PostgreSQL changes no type under a view: the view is dropped first, and made again after.',
    };
  if (!isValue(how))
    return {
      consequence: 'rows',
      why: 'Its rows are found, grouped or sorted by it: another type can match and order otherwise.',
    };
  if (how !== 'copied')
    return { consequence: 'differs', why: `It is worked out from it: look whether the expression takes ${type}.` };
  const stored = to.type;
  // A link to a table elsewhere has types of its own, and reads each value as one of them.
  const isKept = origin === 'link' || !isRead(maker);
  if (!isKept) return { consequence: 'differs', why: `It becomes ${type} too.`, type };
  const fit = stored === null ? null : fits(stored, type, origin !== 'link' && to.system === 'postgresql');
  if (fit === null)
    return { consequence: 'differs', why: `Whether ${stored ?? 'it'} takes ${type} is not known here.` };
  if (fit === 'all') return { consequence: 'unharmed', why: `${stored} takes every ${type}.` };
  if (fit === 'some')
    return {
      consequence: 'differs',
      why: `${stored} does not take every ${type}: what does not fit is cut, or stops ${origin === 'link' ? 'whoever reads it' : 'what fills it'}.`,
    };
  return {
    consequence: 'stale',
    why: `${stored} takes no ${type}: from the next run on nothing new comes.`,
    flow: { consequence: 'fails', why: `It writes ${type} into ${to.name}, which takes none.` },
  };
}

/** A value that is hidden where it begins is not hidden where it was carried to. */
function shown(how: MadeEdge['how']): Outcome {
  if (how === 'masked') return { consequence: 'unharmed', why: 'It holds the value masked.' };
  if (how === 'copied')
    return {
      consequence: 'shows',
      why: 'It holds the value itself: a mask hides only the column that it is put on.',
    };
  if (how === 'transformed')
    return { consequence: 'shows', why: 'It is worked out from the value, and can let it be told.' };
  if (how === 'aggregated')
    return {
      consequence: 'shows',
      why: 'It tells of many values together; where there are few, that can be the value.',
    };
  return { consequence: 'rows', why: 'Which rows it has tells something of the value.' };
}

/** What becomes of what is made, in one step, of what itself came to harm. */
function further(from: Made, harm: Consequence, { origin, ...maker }: Maker, to: Made): Outcome {
  const what = harm === 'stale' ? 'gets nothing new' : 'cannot be read any more';
  if (origin === 'by hand')
    return { consequence: 'differs', why: `Somebody said that it comes from ${from.name}, which ${what}.` };
  if (harm === 'stale')
    return {
      consequence: 'stale',
      why: `It comes from ${from.name}, which ${what}.`,
      flow: { consequence: 'stale', why: `It reads ${from.name}, which ${what}.` },
    };
  if (isRead({ origin, ...maker }) && !to.keeps)
    return { consequence: 'fails', why: `It reads ${from.name}, which ${what}.` };
  return {
    consequence: 'stale',
    why: `What fills it reads ${from.name}, which ${what}.`,
    flow: { consequence: 'fails', why: `It reads ${from.name}, which ${what}: its next run fails.` },
  };
}

/**
 * What a change would do to all that is made of something, and to the flows that make it: each with the gravest thing that comes to it on any way. Ends when
 * nothing gets graver, so cycles are no matter; takes time in the edges, at most times the number of consequences.
 * @param edges between columns (with `how`) and between relations (without), downstream of the start and of its relation; of `forbid nulls` also those that
 *   lead into them
 */
export function consequencesOf(
  change: ProposedChange,
  start: Made,
  things: ReadonlyMap<string, Made>,
  edges: readonly MadeEdge[],
): { assets: Map<string, Told>; flows: Map<string, Told> } {
  const assets = new Map<string, Told>();
  const flows = new Map<string, Told>();
  const out = new Map<string, MadeEdge[]>();
  for (const edge of edges) {
    const known = out.get(edge.from);
    if (known) known.push(edge);
    else out.set(edge.from, [edge]);
  }
  const queue: { readonly id: string; readonly outcome: Outcome }[] = [];
  /** Each state in which something was followed further: two ways may bring a value with another type, and one that was worked out from it. */
  const followed = new Set<string>();
  const tellFlow = (flow: string | null, told: Pick<Told, 'consequence' | 'why'> | undefined) => {
    if (flow === null || !told) return;
    const before = flows.get(flow);
    if (!before || graver(told.consequence, before.consequence)) flows.set(flow, { ...told, after: null });
  };
  const tell = (met: string, outcome: Outcome, after: string): void => {
    const thing = things.get(met);
    const { consequence, why, type } = outcome;
    // A relation of which one column cannot be made cannot be made.
    const id = thing && isHarm(consequence) ? thing.relation : met;
    if (!thing || id === start.id) return;
    const before = assets.get(id);
    if (!before || graver(consequence, before.consequence)) assets.set(id, { consequence, why, after });
    const state = `${id} ${consequence} ${type ?? ''}`;
    if (followed.has(state)) return;
    followed.add(state);
    queue.push({ id, outcome });
  };
  const take = (edge: MadeEdge, outcome: Outcome | null) => {
    if (!outcome) return;
    tell(edge.to, outcome, edge.from);
    tellFlow(edge.maker.flow, outcome.flow);
  };

  for (const edge of out.get(start.id) ?? []) {
    const to = things.get(edge.to);
    if (to) take(edge, first(change, start, edge, to));
  }
  if (change.what === 'forbid nulls') writers(start, edges, tellFlow);
  for (const { id, outcome } of queue) {
    const from = things.get(id);
    if (!from) continue;
    for (const edge of out.get(id) ?? []) {
      const to = things.get(edge.to);
      if (to) take(edge, next(edge, from, outcome, to));
    }
  }
  return { assets, flows };
}

function first(change: ProposedChange, start: Made, edge: MadeEdge, to: Made): Outcome | null {
  switch (change.what) {
    case 'drop':
    case 'rename':
      return named(change, start, edge.maker);
    case 'retype':
      return edge.how === null ? null : retyped(change.to ?? 'another type', edge.maker, edge.how, to);
    case 'forbid nulls':
      return edge.how === null
        ? null
        : { consequence: 'unharmed', why: 'What it takes from there has a value in every row.' };
    case 'mask':
      return shown(edge.how);
    case 'stop':
      return { consequence: 'stale', why: `${start.name} fills it: nothing new comes.` };
  }
}

function next(edge: MadeEdge, from: Made, { consequence, type }: Outcome, to: Made): Outcome | null {
  const isBetweenRelations = edge.how === null;
  switch (consequence) {
    case 'refused':
    case 'fails':
    case 'stale':
      return isBetweenRelations ? further(from, consequence, edge.maker, to) : null;
    case 'differs':
      if (isBetweenRelations || !isValue(edge.how)) return null;
      return type === undefined
        ? { consequence: 'differs', why: `It comes from ${from.name}, whose values can be others.` }
        : retyped(type, edge.maker, edge.how, to);
    case 'shows':
      return isBetweenRelations || !isValue(edge.how) ? null : shown(edge.how);
    default:
      return null;
  }
}

/** What writes into a column that takes no nulls any more. */
function writers(
  start: Made,
  edges: readonly MadeEdge[],
  tellFlow: (flow: string | null, told: Pick<Told, 'consequence' | 'why'>) => void,
): void {
  const filled = new Set(edges.flatMap(({ to, how, maker }) => (to === start.id && isValue(how) ? [maker.flow] : [])));
  for (const { to, how, maker } of edges) {
    if (to !== start.relation || how !== null) continue;
    tellFlow(
      maker.flow,
      filled.has(maker.flow)
        ? { consequence: 'differs', why: `It writes ${start.name}: a run that brings no value there fails.` }
        : {
            consequence: 'fails',
            why: `It brings rows without ${start.name}: unless the column has a default, its next run fails.`,
          },
    );
  }
}
