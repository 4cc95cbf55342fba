import * as cedar from '@cedar-policy/cedar-wasm/nodejs';
import { Engine } from '@idrel/core/access';
import { inTurn, tell } from './lib.mjs';

/*
 * Decisions on who may read which column: 10,000 policies, 1,000 people in 100 groups, 100,000 columns in 5,000 tables. Idrel's engine beside a general
 * authorisation engine, compiled to WebAssembly, that is given the same policies, parsed beforehand, and of each question the entities that it is about. Both
 * must say the same of each pair asked. Then what one person can read of everything.
 */
const [POLICIES, PEOPLE, GROUPS, TABLES, COLUMNS, SCHEMAS, SOURCES, CLASSES] = [
  10_000, 1000, 100, 5000, 20, 250, 25, 60,
];
const PAIRS = 20;
/** Idrel's engine is asked the same pairs so often: one round of them would be over at once. */
const TIMES = 2000;
const GOAL_MAP_MS = 1000;

/** A sequence that is the same each time. */
function dice(seed) {
  let state = seed;
  return (most) => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return Math.floor((state / 0x80000000) * most);
  };
}

function world() {
  const roll = dice(7);
  const some = (most, begins, count) => [...new Set(Array.from({ length: count }, () => `${begins}${roll(most)}`))];
  const tables = Array.from({ length: TABLES }, (_, t) => {
    const schema = `schema${t % SCHEMAS}`;
    const source = `source${(t % SCHEMAS) % SOURCES}`;
    return {
      id: `table${t}`,
      sourceId: source,
      schema,
      name: `t${t}`,
      ancestors: [`table${t}`, schema, source],
      columns: Array.from({ length: COLUMNS }, (__, c) => ({
        id: `table${t}.c${c}`,
        name: `c${c}`,
        type: 'text',
        classes: roll(5) === 0 ? [`class${roll(CLASSES)}`] : [],
        held: [],
        fewValues: false,
        origins: [],
      })),
    };
  });
  const people = Array.from({ length: PEOPLE }, (_, p) => ({
    id: `person${p}`,
    groups: some(GROUPS, 'group', 1 + roll(5)),
    email: '',
    attributes: {},
    purpose: null,
    outside: false,
    share: null,
  }));
  const policies = Array.from({ length: POLICIES }, (_, at) => {
    const effect = at % 10 < 7 ? 'allow' : 'deny';
    const byClass = effect === 'deny' && roll(3) === 0;
    const kind = roll(20);
    return {
      id: `p${at}`,
      name: `Policy ${at}`,
      effect,
      everyone: effect === 'deny' && roll(50) === 0,
      groups: some(GROUPS, 'group', 1 + roll(2)),
      people: roll(4) === 0 ? [`person${roll(PEOPLE)}`] : [],
      exceptGroups: effect === 'deny' && roll(3) === 0 ? [`group${roll(GROUPS)}`] : [],
      assets: byClass
        ? []
        : kind === 0
          ? [`source${roll(SOURCES)}`]
          : kind < 6
            ? some(SCHEMAS, 'schema', 1 + roll(2))
            : some(TABLES, 'table', 1 + roll(4)),
      classes: byClass ? [`class${roll(CLASSES)}`] : [],
      matched: null,
      carried: false,
      columns: null,
      columnsBut: false,
      mask: null,
      rows: null,
      until: null,
      hours: null,
      purposes: [],
      share: null,
      opens: 'read',
      passesOn: false,
      giver: null,
    };
  });
  return { tables, people, policies, roll };
}

const kindOf = (id) =>
  id.startsWith('source') ? 'Source' : id.startsWith('schema') ? 'Schema' : id.includes('.') ? 'Column' : 'Table';
const entity = (type, id) => ({ type, id });
const literal = (type, id) => `${type}::"${id}"`;

/** The same policies in the other engine's language: one for each pair of who and what. */
function asCedar(policies) {
  const texts = {};
  let rules = 0;
  for (const policy of policies) {
    const who = [
      ...(policy.everyone ? ['principal'] : []),
      ...policy.groups.map((id) => `principal in ${literal('Group', id)}`),
      ...policy.people.map((id) => `principal == ${literal('Person', id)}`),
    ];
    const what = [
      ...policy.assets.map((id) => `resource in ${literal(kindOf(id), id)}`),
      ...policy.classes.map((key) => `resource in ${literal('Class', key)}`),
    ];
    const unless = policy.exceptGroups.map((id) => ` unless { principal in ${literal('Group', id)} }`).join('');
    for (const one of who)
      for (const other of what) {
        rules += 1;
        texts[`${policy.id}:${rules}`] =
          `${policy.effect === 'allow' ? 'permit' : 'forbid'}(${one}, action == Action::"read", ${other})${unless};`;
      }
  }
  const answer = cedar.preparsePolicySet('bench', { staticPolicies: texts });
  if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
  return rules;
}

function askCedar(person, table, column) {
  const parents = (list) => list.map(([type, id]) => entity(type, id));
  const one = (type, id, above) => ({ uid: entity(type, id), attrs: {}, parents: parents(above) });
  const answer = cedar.statefulIsAuthorized({
    principal: entity('Person', person.id),
    action: entity('Action', 'read'),
    resource: entity('Column', column.id),
    context: {},
    preparsedPolicySetId: 'bench',
    entities: [
      one(
        'Person',
        person.id,
        person.groups.map((id) => ['Group', id]),
      ),
      one('Column', column.id, [['Table', table.id], ...column.classes.map((key) => ['Class', key])]),
      one('Table', table.id, [['Schema', table.schema]]),
      one('Schema', table.schema, [['Source', table.sourceId]]),
    ],
  });
  if (answer.type !== 'success') throw new Error(JSON.stringify(answer));
  return answer.response.decision === 'allow';
}

export async function run() {
  const { tables, people, policies, roll } = world();
  const rules = asCedar(policies);
  const engine = new Engine(policies);
  const pairs = Array.from({ length: PAIRS }, () => {
    const table = tables[roll(TABLES)];
    return { person: people[roll(PEOPLE)], table, column: table.columns[roll(COLUMNS)] };
  });
  let allowed = 0;
  for (const { person, table, column } of pairs) {
    const mine = engine.for(person).column(table, column).access !== 'refused';
    if (mine) allowed += 1;
    if (mine !== askCedar(person, table, column))
      throw new Error(`The engines differ on ${person.id} and ${column.id}: ${mine}.`);
  }
  if (allowed === 0 || allowed === PAIRS) throw new Error('All pairs are decided alike: that measures nothing.');
  const perThousand = (work, count) => {
    const started = performance.now();
    work();
    return ((performance.now() - started) / count) * 1000;
  };
  const [ours, theirs] = await inTurn(5, [
    () =>
      perThousand(() => {
        for (let time = 0; time < TIMES; time += 1)
          for (const { person, table, column } of pairs) engine.for(person).column(table, column);
      }, PAIRS * TIMES),
    () =>
      perThousand(() => {
        for (const { person, table, column } of pairs) askCedar(person, table, column);
      }, PAIRS),
  ]);
  const first = tell(
    `1,000 decisions by ${POLICIES} policies, beside a general authorisation engine (${rules} rules there; ${allowed} of ${PAIRS} allowed by both)`,
    ours,
    theirs,
    'at most 0.1',
  );
  let last = 0;
  const [map, plain] = await inTurn(5, [
    () => {
      last += 37;
      const reader = engine.for(people[last % PEOPLE]);
      for (const table of tables) reader.decide(table);
    },
    () => {
      // What has to be looked at in any case: each column once.
      let seen = 0;
      for (const table of tables)
        for (const column of table.columns) seen += column.classes.length + column.name.length;
      if (seen === 0) throw new Error('There is nothing.');
    },
  ]);
  const second = tell(
    'All that one person reads of 100,000 columns, decided; beside looking at each column once',
    map,
    plain,
    `${GOAL_MAP_MS} ms`,
  );
  return [first, second].join('\n');
}
